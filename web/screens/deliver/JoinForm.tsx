import { useState } from 'react';
import type { Check } from '../../../core/check/records.ts';
import type { DeliveryOrder } from '../../../core/deliver/records.ts';
import { countText } from '../../../core/words/figures.ts';
import { useChecks } from '../../api/checks.ts';
import { formatClock } from '../../format.ts';
import { Button, fieldClass } from '../../parts/controls.tsx';

/** More recordings than these are not offered to be joined: the newest are. */
const MOST_OFFERED = 12;

/** Recordings of other devices are joined with this one. */
export function JoinForm({ check, onMake }: { check: Check; onMake: (order: DeliveryOrder) => void }) {
  const checks = useChecks();
  const [chosen, setChosen] = useState<string[]>([]);
  const [track, setTrack] = useState(
    Math.max(0, check.inspected?.proposals.findIndex(({ role }) => role === 'mix') ?? 0),
  );
  const others = (checks.data ?? []).filter(({ id, trackCount }) => id !== check.id && trackCount !== null);
  return (
    <section aria-label="Join with other recordings">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Join with other recordings</h2>
      <p className="max-w-3xl pt-2 text-sm text-soft">
        For voices or a game that you recorded on another machine or a hand recorder. Northfen finds each one
        in the sound of this recording and keeps it in step from beginning to end. Add those recordings to the
        list first.
      </p>
      {others.length > 0 && (
        <div className="flex flex-wrap items-start gap-x-6 gap-y-2 pt-2 text-sm">
          <ul aria-label="Recordings to join" className="min-w-0 flex-1 basis-72">
            {others.slice(0, MOST_OFFERED).map(({ id, name, durationS, trackCount }) => (
              <li key={id}>
                <label className="flex min-h-6 items-center gap-2">
                  <input
                    type="checkbox"
                    checked={chosen.includes(id)}
                    onChange={(event) =>
                      setChosen(event.target.checked ? [...chosen, id] : chosen.filter((one) => one !== id))
                    }
                  />
                  <span className="min-w-0 break-words">
                    {name}{' '}
                    <span className="text-soft">
                      {durationS === null ? '' : `${formatClock(durationS)}, `}
                      {countText(trackCount ?? 0, 'track')}
                    </span>
                  </span>
                </label>
              </li>
            ))}
          </ul>
          <label className="flex items-center gap-2">
            <span className="text-soft">They are heard in</span>
            <select
              className={`${fieldClass} max-w-64`}
              value={track}
              onChange={(event) => setTrack(Number(event.target.value))}
            >
              {check.inspected?.tracks.map(({ index, name }) => (
                <option key={index} value={index}>
                  {index + 1} {name ?? check.plan?.tracks[index]?.carries ?? ''}
                </option>
              ))}
            </select>
          </label>
          <Button
            disabled={chosen.length === 0}
            onClick={() => onMake({ kind: 'join', track, others: chosen })}
          >
            Join them
          </Button>
        </div>
      )}
    </section>
  );
}
