import { Ear } from 'lucide-react';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { balancingRemedy, duckingRemedy, limitingRemedy } from '../../../core/balance/heard.ts';
import { humRemedy } from '../../../core/balance/recordings.ts';
import { type Heard, useHeard } from '../../heard.tsx';
import { Button } from '../../parts/controls.tsx';
import { SeverityMark } from '../../parts/severity.tsx';
import { useSetup } from '../../setupContext.tsx';

/** Somebody hears what comes before, too (s). */
const LEAD_S = 2;

/** What is wrong in the sound itself, where there is a recording of it, and what can be done about it. */
export function HeardSection() {
  const heard = useHeard();
  return heard && heard.status !== 'none' ? <HeardList heard={heard} /> : null;
}

function HeardList({ heard }: { heard: Heard }) {
  const { setup, actions, path } = useSetup();
  const { status, findings } = heard;
  const remedies = useMemo(() => remediesOf(heard), [heard]);
  return (
    <section aria-label="In the sound" className="pt-3">
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
        {findings.map(({ finding, atS }) => (
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
      {heard.isRendering && <p className="pt-1 text-xs text-soft">Measuring a render of it …</p>}
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
          <Button disabled={heard.of !== setup} onClick={() => actions.edit(edit)}>
            Apply
          </Button>
        </div>
      ))}
    </section>
  );
}

/** What can be done: balance, hold peaks, and have game and music make room for voices that are buried. */
function remediesOf({ input, mixes, findings }: Heard) {
  if (!input) return [];
  const places = (...codes: string[]) =>
    findings.flatMap(({ finding }) =>
      codes.includes(finding.code) && finding.destination ? [finding.destination] : [],
    );
  const unbalanced = places('buried', 'off-target');
  const buried = places('buried');
  const clipping = places('clipping').filter((id) => !unbalanced.includes(id));
  return [
    ...findings.map(({ finding }) => humRemedy(input.setup, finding)),
    unbalanced.length > 0 ? balancingRemedy(input, mixes, unbalanced) : null,
    clipping.length > 0 ? limitingRemedy(input.setup, mixes, clipping) : null,
    buried.length > 0 ? duckingRemedy(input, mixes, buried) : null,
  ].flatMap((remedy) => (remedy ? [{ obstacles: [], ...remedy }] : []));
}
