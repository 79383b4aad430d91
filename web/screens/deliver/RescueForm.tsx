import { useState } from 'react';
import { soundsOf } from '../../../core/check/plan.ts';
import type { Check } from '../../../core/check/records.ts';
import type { DeliveryOrder } from '../../../core/deliver/records.ts';
import { standingOf } from '../../../core/deliver/standing.ts';
import { Button, fieldClass } from '../../parts/controls.tsx';

/** A sound is taken out of a track that has no clean twin. */
export function RescueForm({ check, onMake }: { check: Check; onMake: (order: DeliveryOrder) => void }) {
  const plan = check.plan;
  const sounds = plan ? soundsOf(plan).filter(({ place }) => place?.kind !== 'folder') : [];
  const worst = worstLeak(check);
  const [track, setTrack] = useState(worst ? worst.track - 1 : 0);
  const guess = sounds.findIndex(({ name, notFor }) =>
    worst ? name === worst.reference : notFor.includes('upload'),
  );
  const [at, setAt] = useState(guess);
  const sound = sounds[at];
  const nameOf = (one: number) =>
    `${one + 1} ${plan?.tracks[one]?.carries || check.inspected?.tracks[one]?.name || ''}`;
  return (
    <section aria-label="Take a sound out">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Take a sound out of a track</h2>
      <p className="max-w-3xl pt-2 text-sm text-soft">
        For a mix that has no clean version. Northfen lines up the sound with the mix and subtracts it;
        everything else stays. Then it tells you how far the sound went down, and checks what is left.
      </p>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2 pt-2 text-sm">
        Take
        <select
          aria-label="The sound that is taken out"
          className={`${fieldClass} max-w-64`}
          value={at}
          onChange={(event) => setAt(Number(event.target.value))}
        >
          {guess < 0 && <option value={-1}>a sound …</option>}
          {sounds.map(({ name, track: from }, index) => (
            <option key={`${from} ${name}`} value={index}>
              {from === null ? name : nameOf(from)}
            </option>
          ))}
        </select>
        out of
        <select
          aria-label="The track that it is taken out of"
          className={`${fieldClass} max-w-64`}
          value={track}
          onChange={(event) => setTrack(Number(event.target.value))}
        >
          {check.inspected?.tracks.map(({ index }) => (
            <option key={index} value={index}>
              {nameOf(index)}
            </option>
          ))}
        </select>
        <Button
          disabled={!sound || sound.track === track}
          onClick={() =>
            sound &&
            onMake({
              kind: 'rescue',
              track,
              sound: { track: sound.track, file: sound.track === null ? sound.name : null },
            })
          }
        >
          Take it out
        </Button>
        {sound?.track === track && <span className="text-clay">A track cannot be taken out of itself.</span>}
      </div>
    </section>
  );
}

/** What was heard longest where it must not be in an upload. */
function worstLeak({ result }: Check): { track: number; reference: string } | null {
  const heardS = new Map<string, number>();
  let worst: { track: number; reference: string } | null = null;
  let most = 0;
  for (const { track, reference, startS, endS } of result?.leaks ?? []) {
    if (!result || standingOf(result, track - 1).kind !== 'holds') continue;
    const key = `${track} ${reference}`;
    const sum = (heardS.get(key) ?? 0) + endS - startS;
    heardS.set(key, sum);
    if (sum <= most) continue;
    most = sum;
    worst = { track, reference };
  }
  return worst;
}
