import { useEffect, useMemo, useRef } from 'react';
import { useLocation } from 'react-router';
import {
  balancingRemedy,
  duckingRemedy,
  type HeardFinding,
  limitingRemedy,
} from '../../../core/balance/heard.ts';
import { recordingRemedy } from '../../../core/balance/recordings.ts';
import type { Edit } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { type Heard, IN_THE_SOUND, useHeard } from '../../heard.tsx';
import { Button } from '../../parts/controls.tsx';
import { SeverityMark } from '../../parts/severity.tsx';
import { useSetup } from '../../setupContext.tsx';
import { HearButton } from './HearButton.tsx';

/** What is wrong in the sound itself, where there is a recording of it, and what can be done about it. */
export function HeardSection() {
  const heard = useHeard();
  return heard && heard.status !== 'none' ? <HeardList heard={heard} /> : null;
}

function HeardList({ heard }: { heard: Heard }) {
  const { setup, actions } = useSetup();
  const { status, findings } = heard;
  const remedies = useMemo(() => remediesOf(heard), [heard]);
  const section = useRef<HTMLElement>(null);
  const { hash, key } = useLocation();
  // biome-ignore lint/correctness/useExhaustiveDependencies: each time somebody asks for it, and once there is something
  useEffect(() => {
    if (hash === IN_THE_SOUND) section.current?.scrollIntoView();
  }, [hash, key, status]);
  return (
    <section ref={section} aria-label="In the sound" className="pt-3">
      <h2 className="font-title text-lg">In the sound</h2>
      {status === 'failed' && <p className="text-sm text-clay">{heard.message}</p>}
      {status === 'reading' && <p className="text-soft">Reading the recordings …</p>}
      {status === 'long' && (
        <Button onClick={heard.ask}>Look for what is wrong in the sound (it takes a while)</Button>
      )}
      {status === 'known' && findings.length === 0 && (
        <p className="text-soft">
          Nobody is buried, nothing hums or clips, and every audience gets its loudness.
        </p>
      )}
      <ul>
        {findings.map((found) => (
          <li key={found.finding.id} className="border-b border-rule py-2" data-heard={found.finding.code}>
            <span className="flex items-center gap-2 text-[13px]">
              <SeverityMark severity={found.finding.severity} />
              <span className="text-soft">{found.finding.code}</span>
              <HearButton finding={found.finding} atS={found.atS} />
            </span>
            <span className="block leading-snug">{found.finding.message}</span>
            <RecordingRemedy
              setup={setup}
              found={found}
              isReady={heard.of === setup}
              onApply={actions.edit}
            />
          </li>
        ))}
      </ul>
      {heard.isHeld && (
        <p className="pt-1 text-xs text-soft">Peaks are measured in a render once nothing plays.</p>
      )}
      {heard.isRendering && <p className="pt-1 text-xs text-soft">Measuring a render of it …</p>}
      {remedies.map((remedy) => (
        <RemedyLine
          key={remedy.label}
          remedy={remedy}
          isReady={heard.of === setup}
          onApply={() => actions.edit(remedy.edit)}
        />
      ))}
    </section>
  );
}

interface Remedy {
  label: string;
  edit: Edit;
  obstacles?: string[];
}

/** What can be done about something, and what will still stand in the way. */
function RemedyLine({
  remedy: { label, obstacles = [] },
  isReady,
  onApply,
}: {
  remedy: Remedy;
  isReady: boolean;
  onApply: () => void;
}) {
  return (
    <div className="flex items-start justify-between gap-2 py-1.5">
      <span className="leading-snug">
        {label}
        {obstacles.map((text) => (
          <span key={text} className="block text-xs text-clay">
            {text}
          </span>
        ))}
      </span>
      <Button disabled={!isReady} onClick={onApply}>
        Apply
      </Button>
    </div>
  );
}

/** What can be done about hum or noise stands with it, for it is about that recording alone. */
function RecordingRemedy({
  setup,
  found,
  isReady,
  onApply,
}: {
  setup: Setup;
  found: HeardFinding;
  isReady: boolean;
  onApply: (edit: Edit) => void;
}) {
  const remedy = useMemo(() => recordingRemedy(setup, found.finding), [setup, found]);
  return remedy && <RemedyLine remedy={remedy} isReady={isReady} onApply={() => onApply(remedy.edit)} />;
}

/** What can be done about levels: balance, hold peaks, and have game and music make room for voices that are buried. */
function remediesOf({ input, mixes, findings }: Heard): Remedy[] {
  if (!input) return [];
  const places = (...codes: string[]) =>
    findings.flatMap(({ finding }) =>
      codes.includes(finding.code) && finding.destination ? [finding.destination] : [],
    );
  const unbalanced = places('buried', 'off-target');
  const buried = places('buried');
  const clipping = places('clipping').filter((id) => !unbalanced.includes(id));
  return [
    unbalanced.length > 0 ? balancingRemedy(input, mixes, unbalanced) : null,
    clipping.length > 0 ? limitingRemedy(input.setup, mixes, clipping) : null,
    buried.length > 0 ? duckingRemedy(input, mixes, buried) : null,
  ].flatMap((remedy) => remedy ?? []);
}
