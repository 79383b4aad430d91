import type { Check } from '../../../core/check/records.ts';
import type { Delivery, Ingredient } from '../../../core/deliver/records.ts';
import type { Standing } from '../../../core/deliver/standing.ts';
import { standingsOf } from '../../../core/deliver/usual.ts';
import { listed } from '../../../core/words/figures.ts';
import { formatLevel } from '../../format.ts';
import { DbField, fieldClass } from '../../parts/controls.tsx';
import { TableHead } from '../../parts/TableHead.tsx';
import { VerdictWord } from '../check/VerdictWord.tsx';

/** What the sound of an upload is mixed of: each track with what the check says of it, and how loud it goes in. */
export function MixTable({
  check,
  tracks,
  rescues,
  onTracks,
}: {
  check: Check;
  tracks: Ingredient[];
  rescues: Delivery[];
  onTracks: (tracks: Ingredient[]) => void;
}) {
  const standings = standingsOf(check);
  const change = (track: number, values: Partial<Ingredient> | null) => {
    const rest = tracks.filter((one) => one.track !== track);
    const now = tracks.find((one) => one.track === track) ?? { track, rescueId: null, gainDb: 0 };
    onTracks(
      values === null ? rest : [...rest, { ...now, ...values }].sort((one, other) => one.track - other.track),
    );
  };
  return (
    <table className="stacking w-full border-collapse text-left text-sm" aria-label="What it is mixed of">
      <TableHead titles={['Sound', 'Loudness', 'By the check', 'Level in the mix']} />
      <tbody>
        {check.inspected?.tracks.map((track, at) => {
          const chosen = tracks.find((one) => one.track === at);
          const name = `${at + 1} ${check.plan?.tracks[at]?.carries || track.name || ''}`;
          const own = rescues.filter(({ result }) => result?.kind === 'rescue' && result.track === at);
          return (
            <tr key={track.index} className="border-b border-rule">
              <th scope="row" className="py-1.5 pr-3 text-left font-normal">
                <label className="flex items-center gap-2">
                  <input
                    type="checkbox"
                    checked={chosen !== undefined}
                    onChange={(event) => change(at, event.target.checked ? {} : null)}
                  />
                  <span className={chosen ? 'font-semibold' : ''}>{name}</span>
                </label>
                {chosen && own.length > 0 && (
                  <select
                    aria-label={`Which ${name}`}
                    className={`${fieldClass} mt-1 ml-6`}
                    value={chosen.rescueId ?? ''}
                    onChange={(event) => change(at, { rescueId: event.target.value || null })}
                  >
                    <option value="">as it was recorded</option>
                    {own.map(({ id, result }) => (
                      <option key={id} value={id}>
                        without {result?.kind === 'rescue' ? result.sound : ''}
                      </option>
                    ))}
                  </select>
                )}
              </th>
              <td className="py-1.5 pr-3 whitespace-nowrap" data-title="Loudness">
                {formatLevel(track.integratedLufs, 'LUFS')}
              </td>
              <td className="py-1.5 pr-3" data-title="By the check">
                <StandingWords standing={chosen?.rescueId ? null : standings[at]} />
              </td>
              <td className="py-1.5" data-title="Level in the mix">
                {chosen && (
                  <DbField
                    value={chosen.gainDb}
                    label={`Level of ${name}`}
                    onChange={(gainDb) => change(at, { gainDb: Math.max(-60, Math.min(24, gainDb)) })}
                  />
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function StandingWords({ standing }: { standing: Standing | null | undefined }) {
  if (!standing) return <span className="text-soft">checked in the finished video</span>;
  switch (standing.kind) {
    case 'clean':
      return <VerdictWord verdict="clean" />;
    case 'all allowed':
      return <span className="text-soft">nothing to look for</span>;
    case 'not allowed':
      return <span className="text-clay">must not be published</span>;
    case 'holds':
      return (
        <>
          <VerdictWord verdict="not clean" /> <span className="text-soft">{listed(standing.names, 3)}</span>
        </>
      );
    default:
      return (
        <span className="text-soft" title={`Not looked for in it: ${listed(standing.names)}`}>
          checked in the finished video
        </span>
      );
  }
}
