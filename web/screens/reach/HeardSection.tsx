import { Ear } from 'lucide-react';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { roleOf } from '../../../core/balance/aims.ts';
import {
  balancingRemedy,
  clippingFinding,
  duckingRemedy,
  type HeardFinding,
  heardFindings,
} from '../../../core/balance/heard.ts';
import type { BalanceInput } from '../../../core/balance/solve.ts';
import type { StaticMix } from '../../../core/balance/sounds.ts';
import type { Setup, Source } from '../../../core/setup/schema.ts';
import { mediaPath, useMedia } from '../../api/media.ts';
import { useCalibrations } from '../../api/sounds.ts';
import { Button } from '../../parts/controls.tsx';
import { SeverityMark } from '../../parts/severity.tsx';
import { useBalance } from '../../parts/useBalance.ts';
import { useSettled } from '../../parts/useSettled.ts';
import { useSetup } from '../../setupContext.tsx';

/** The sound is looked at once the setup has stayed as it is for so long (ms): the recordings may have to be read for it. */
const SETTLED_MS = 700;
/** Recordings that are longer are read when it is asked for (s). */
const LONG_S = 600;
/** Somebody hears what comes before, too (s). */
const LEAD_S = 2;

/** What is wrong in the sound itself, where there is a recording of it. The board comes first: this is worked out after it. */
export function HeardSection() {
  const { setup } = useSetup();
  const settled = useSettled<Setup | null>(setup, SETTLED_MS, null);
  return settled?.sources.some(({ media }) => media) ? <Heard settled={settled} /> : null;
}

/** Voices buried, loudness off its target, clipping: once the recordings were read. */
function Heard({ settled }: { settled: Setup }) {
  const { setup, actions, path } = useSetup();
  const { data: media = [] } = useMedia();
  const [isAsked, setAsked] = useState(false);
  const isLong = media.some(
    (one) => one.durationS > LONG_S && setup.sources.some((source) => source.media?.path === mediaPath(one)),
  );
  const isWanted = isAsked || !isLong;
  const { query, input, balanced, hasSounds } = useBalance(settled, isWanted);
  const clipping = useClipping(isWanted ? settled.sources : []);
  const mixes = useMemo(() => balanced.map(({ mix }) => mix), [balanced]);
  const heard = useMemo(() => (input ? heardFindings(input, mixes) : []), [input, mixes]);
  const remedies = useMemo(() => (input ? remediesOf(input, mixes, heard) : []), [input, mixes, heard]);
  if (!hasSounds) return null;
  const all = [...clipping, ...heard];
  return (
    <section aria-label="In the sound" className="pt-3">
      <h2 className="font-title text-lg">In the sound</h2>
      {query.isError && <p className="text-sm text-clay">{query.error.message}</p>}
      {isWanted && query.isPending && <p className="text-soft">Reading the recordings …</p>}
      {!isWanted && (
        <Button onClick={() => setAsked(true)}>Look for what is wrong in the sound (it takes a while)</Button>
      )}
      {input && all.length === 0 && (
        <p className="text-soft">Nobody is buried, nothing clips, and every audience gets its loudness.</p>
      )}
      <ul>
        {all.map(({ finding, atS }) => (
          <li key={finding.id} className="border-b border-rule py-2" data-heard={finding.code}>
            <span className="flex items-baseline gap-2 text-[13px]">
              <SeverityMark severity={finding.severity} />
              <span className="text-soft">{finding.code}</span>
              {atS !== null && (
                <Link
                  className="ml-auto inline-flex items-center gap-1 text-water underline"
                  to={`${path}/rehearse?at=${Math.max(0, atS - LEAD_S).toFixed(1)}&ear=${finding.destination}`}
                >
                  <Ear size={13} /> hear it
                </Link>
              )}
            </span>
            <span className="block leading-snug">{finding.message}</span>
          </li>
        ))}
      </ul>
      {remedies.map(({ label, edit, obstacles }) => (
        <div key={label} className="flex items-start justify-between gap-2 py-2">
          <span className="leading-snug">
            {label}
            {obstacles.map((text) => (
              <span key={text} className="block text-xs text-clay">
                {text}
              </span>
            ))}
          </span>
          <Button disabled={settled !== setup} onClick={() => actions.edit(edit)}>
            Apply
          </Button>
        </div>
      ))}
    </section>
  );
}

/** What can be done: balance, and have game and music make room for voices that are buried. */
function remediesOf(input: BalanceInput, mixes: StaticMix[], heard: HeardFinding[]) {
  const places = (code?: string) =>
    heard.flatMap(({ finding }) => (code && finding.code !== code ? [] : (finding.destination ?? [])));
  const balancing = places().length > 0 ? balancingRemedy(input, mixes, places()) : null;
  const buried = places('buried');
  const ducking = buried.length > 0 ? duckingRemedy(input, mixes, buried) : null;
  return [...(balancing ? [balancing] : []), ...(ducking ? [{ ...ducking, obstacles: [] }] : [])];
}

/** The voices whose recordings clip. */
function useClipping(sources: Source[]): HeardFinding[] {
  const voices = sources.filter((source) => source.media && roleOf(source) === 'voice');
  const calibrations = useCalibrations(voices.map(({ media }) => media?.path ?? ''));
  return voices.flatMap((source, i) => {
    const found = calibrations[i] && clippingFinding(source, calibrations[i]);
    return found ? [{ finding: found, atS: null }] : [];
  });
}
