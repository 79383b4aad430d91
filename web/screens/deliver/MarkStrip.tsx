import { useCallback, useRef } from 'react';
import type { Check } from '../../../core/check/records.ts';
import type { Mark } from '../../../core/deliver/records.ts';
import { formatClock } from '../../format.ts';
import { Button, fieldClass } from '../../parts/controls.tsx';
import { useEveryFrame } from '../../parts/useEveryFrame.ts';
import { Outline } from '../check/Outline.tsx';
import { usePassages } from '../check/passages.tsx';

/** The recording from its start to its end: a track of it, its marks, and where it plays; a click lets it be heard from there. */
export function MarkStrip({
  check,
  marks,
  track,
  onTrack,
  onHear,
  onStop,
}: {
  check: Check;
  marks: Mark[];
  track: number;
  onTrack: (track: number) => void;
  onHear: (atS: number) => void;
  onStop: () => void;
}) {
  const { playing, positionS } = usePassages();
  const head = useRef<HTMLSpanElement>(null);
  const lengthS = Math.max(check.durationS ?? 0, 0.001);
  const draw = useCallback(() => {
    const atS = positionS();
    if (head.current && atS !== null) head.current.style.left = `${(100 * atS) / lengthS}%`;
  }, [positionS, lengthS]);
  useEveryFrame(draw);
  const place = (atS: number) => ({ left: `${Math.min(100, (100 * atS) / lengthS)}%` });
  return (
    <div className="py-2">
      <div className="mb-1.5 flex flex-wrap items-center gap-2 text-sm">
        <Button onClick={() => (playing ? onStop() : onHear(0))}>{playing ? 'Stop' : 'Listen'}</Button>
        <select
          aria-label="The track that is heard"
          className={fieldClass}
          value={track}
          onChange={(event) => onTrack(Number(event.target.value))}
        >
          {check.inspected?.tracks.map(({ index, name }) => (
            <option key={index} value={index}>
              {index + 1} {name ?? check.plan?.tracks[index]?.carries ?? ''}
            </option>
          ))}
        </select>
        <span className="text-soft">Click the waveform to listen from there.</span>
      </div>
      <div className="relative">
        <button
          type="button"
          aria-label="Listen from a place on the waveform"
          className="block w-full cursor-crosshair"
          onClick={(event) => {
            const box = event.currentTarget.getBoundingClientRect();
            // A key press has no place: it plays from the start.
            const share = event.detail === 0 ? 0 : (event.clientX - box.left) / box.width;
            onHear(Math.max(0, share) * lengthS);
          }}
        >
          <Outline
            outline={check.inspected?.tracks[track]?.outline ?? []}
            label={`Waveform of track ${track + 1}`}
            className="h-14"
          />
        </button>
        {marks.map(({ id, atS, endS, name }) => (
          <span
            key={id}
            title={`${formatClock(atS)} ${name}`}
            className="pointer-events-none absolute inset-y-0 border-l-2 border-heather bg-heather/15"
            style={{ ...place(atS), width: endS === null ? 0 : `${(100 * (endS - atS)) / lengthS}%` }}
          />
        ))}
        {playing && <span ref={head} className="pointer-events-none absolute inset-y-0 w-px bg-ink" />}
      </div>
      <div className="mt-0.5 flex justify-between text-xs text-soft">
        {[0, 0.25, 0.5, 0.75, 1].map((share) => (
          <span key={share}>{formatClock(share * lengthS)}</span>
        ))}
      </div>
    </div>
  );
}
