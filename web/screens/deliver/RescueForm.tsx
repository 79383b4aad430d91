import { useState } from 'react';
import { soundsOf } from '../../../core/check/plan.ts';
import type { Check } from '../../../core/check/records.ts';
import type { DeliveryOrder } from '../../../core/deliver/records.ts';
import { standingsOf } from '../../../core/deliver/usual.ts';
import { Button, fieldClass } from '../../parts/controls.tsx';

/** A sound is taken out of a track that has no clean twin. */
export function RescueForm({ check, onMake }: { check: Check; onMake: (order: DeliveryOrder) => void }) {
  const plan = check.plan;
  const sounds = plan ? soundsOf(plan).filter(({ place }) => place?.kind !== 'folder') : [];
  const standings = standingsOf(check);
  const needy = standings.findIndex((standing) => standing?.kind === 'holds');
  const leak = check.result?.leaks.find(({ track }) => track === needy + 1);
  const [track, setTrack] = useState(Math.max(0, needy));
  const guess = sounds.findIndex(({ name, notFor }) =>
    leak ? name === leak.reference : notFor.includes('upload'),
  );
  const [at, setAt] = useState(guess);
  const sound = sounds[at];
  const nameOf = (one: number) =>
    `${one + 1} ${plan?.tracks[one]?.carries || check.inspected?.tracks[one]?.name || ''}`;
  return (
    <section aria-label="Take a sound out">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Take a sound out of a track</h2>
      <p className="max-w-3xl pt-2 text-sm text-soft">
        For a mix of which there is no clean version. The sound alone is laid over the mix, sample by sample,
        and subtracted; what else is in the mix stays. How far down it went is measured, and so is what is
        left.
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
        {sound?.track === track && (
          <span className="text-clay">Choose another sound than the track itself.</span>
        )}
      </div>
    </section>
  );
}
