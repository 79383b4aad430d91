import type { Check } from '../../../core/check/records.ts';
import { type Mark, MOST_PIECES } from '../../../core/deliver/records.ts';
import { formatClock, formatTime, parseTime } from '../../format.ts';
import { FigureField, SetFigure } from '../../parts/FigureField.tsx';
import { type Clips, clipOf } from './pieces.ts';

/** Which pieces of the recording become videos: the whole or a stretch of it, and clips of marks. */
export function Pieces({
  check,
  clips,
  marks,
  onClips,
}: {
  check: Check;
  clips: Clips;
  marks: Mark[];
  onClips: (clips: Clips) => void;
}) {
  const set = (values: Partial<Clips>) => onClips({ ...clips, ...values });
  const lengthS = check.durationS ?? 0;
  const isAnyPoint = marks.some(({ id, endS }) => endS === null && clips.marks.includes(id));
  return (
    <fieldset className="space-y-1.5 border-t border-rule pt-2">
      <legend className="sr-only">Pieces</legend>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={clips.whole}
          onChange={(event) => set({ whole: event.target.checked })}
        />
        One video of the whole recording
      </label>
      {clips.whole && (
        <p className="flex items-center gap-2 pl-6 text-soft">
          from
          <TimeField
            value={clips.fromS}
            label="The video begins at"
            max={lengthS}
            onChange={(fromS) => set({ fromS: fromS ?? 0 })}
          />
          to
          <TimeField
            value={clips.untilS}
            label="The video ends at"
            max={lengthS}
            empty={formatClock(lengthS)}
            onChange={(untilS) => set({ untilS })}
          />
        </p>
      )}
      {clips.whole && clips.untilS !== null && clips.untilS <= clips.fromS && (
        <p role="alert" className="pl-6 text-clay">
          It ends before it begins.
        </p>
      )}
      {marks.map((mark) => {
        const clip = clipOf(mark, clips, check.durationS);
        return (
          <label key={mark.id} className="flex items-start gap-2">
            <input
              type="checkbox"
              className="mt-1"
              checked={clips.marks.includes(mark.id)}
              onChange={(event) =>
                set({
                  marks: event.target.checked
                    ? [...clips.marks, mark.id]
                    : clips.marks.filter((id) => id !== mark.id),
                })
              }
            />
            <span className="min-w-0 break-words">
              Clip: {mark.name}{' '}
              <span className="text-soft">
                {formatClock(clip.fromS)}–{formatClock(clip.untilS ?? lengthS)}
              </span>
            </span>
          </label>
        );
      })}
      {clips.marks.length > MOST_PIECES && (
        <p role="alert" className="text-clay">
          No more than {MOST_PIECES} videos can be made in one go.
        </p>
      )}
      {marks.length === 0 && <p className="text-soft">Set marks below to make clips of them.</p>}
      {isAnyPoint && (
        <p className="flex flex-wrap items-center gap-2 pl-6 text-soft">
          from
          <SetFigure
            value={clips.beforeS}
            label="A clip begins before its mark by"
            unit="s"
            min={0}
            max={600}
            className="w-14"
            onChange={(beforeS) => set({ beforeS })}
          />
          before to
          <SetFigure
            value={clips.afterS}
            label="A clip ends after its mark by"
            unit="s"
            min={1}
            max={600}
            className="w-14"
            onChange={(afterS) => set({ afterS })}
          />
          after it
        </p>
      )}
    </fieldset>
  );
}

/** A moment of the recording (s), typed in seconds or with colons. */
function TimeField({
  value,
  label,
  max,
  empty,
  onChange,
}: {
  value: number | null;
  label: string;
  max: number;
  empty?: string;
  onChange: (value: number | null) => void;
}) {
  return (
    <FigureField
      value={value}
      label={label}
      unit=""
      min={0}
      max={Math.ceil(max)}
      say={formatTime}
      parse={parseTime}
      empty={empty}
      className="w-20"
      onChange={onChange}
    />
  );
}
