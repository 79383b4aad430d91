import { useEffect, useState } from 'react';
import type { Check } from '../../../core/check/records.ts';
import type { Delivery, Mark, MarkValues } from '../../../core/deliver/records.ts';
import { addMarks, changeMark, removeMark } from '../../api/deliveries.ts';
import { formatClock } from '../../format.ts';
import { Button, NameField, RemoveButton } from '../../parts/controls.tsx';
import { isTaken } from '../../parts/isTyping.ts';
import { KeyLegend } from '../../parts/KeyLegend.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { usePassages } from '../check/passages.tsx';
import { MarkStrip } from './MarkStrip.tsx';
import { Suggestions } from './Suggestions.tsx';

/** Marks: set while listening, proposed, named, and made into clips above. */
export function Marks({
  check,
  marks,
  search,
  onSearch,
}: {
  check: Check;
  marks: Mark[];
  /** The search for moments, where there was one. */
  search: Delivery | undefined;
  onSearch: () => void;
}) {
  const notify = useNotify();
  const { play, playing, stop } = usePassages();
  const [track, setTrack] = useState(() => firstTrack(check));
  const run = (work: Promise<unknown>) => void work.catch((error: Error) => notify('trouble', error.message));
  const [removed, setRemoved] = useState<Mark | null>(null);
  const add = (values: MarkValues[]) => run(addMarks(check.id, values));
  const change = (mark: Mark, values: Partial<MarkValues>) =>
    run(changeMark(check.id, mark.id, { atS: mark.atS, endS: mark.endS, name: mark.name, ...values }));
  const takeBack = () => {
    if (removed) add([{ atS: removed.atS, endS: removed.endS, name: removed.name }]);
    setRemoved(null);
  };
  useMarkKeys({
    onUndo: takeBack,
    onMark: (atS) => add([{ atS, endS: null, name: `Mark ${marks.length + 1}` }]),
    onEnd: (endS) => {
      const last = marks.filter(({ atS }) => atS < endS).at(-1);
      if (last) change(last, { endS });
    },
  });
  const hear = (atS: number) => play({ track: track + 1, atS, endS: check.durationS ?? undefined });
  return (
    <section aria-label="Marks">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Marks</h2>
      <MarkStrip check={check} marks={marks} track={track} onTrack={setTrack} onHear={hear} onStop={stop} />
      <KeyLegend
        keys={[
          ['M', 'set a mark while it plays'],
          ['Shift M', 'end it here'],
          ['Esc', 'stop'],
        ]}
      />
      {marks.length > 0 && (
        <ul aria-label="Marks" className="mt-2 text-sm">
          {marks.map((mark) => (
            <li key={mark.id} className="flex items-center gap-3 border-b border-rule py-1">
              <Button
                weight="quiet"
                aria-label={`Hear ${mark.name}`}
                title="Hear it from here"
                className="w-28 justify-start text-water tabular-nums"
                onClick={() => (playing?.atS === mark.atS ? stop() : hear(mark.atS))}
              >
                {formatClock(mark.atS)}
                {mark.endS !== null && `–${formatClock(mark.endS)}`}
              </Button>
              <NameField
                value={mark.name}
                label={`Name of the mark at ${formatClock(mark.atS)}`}
                className="min-w-0 flex-1"
                onChange={(name) => change(mark, { name })}
              />
              <RemoveButton
                label={`Remove ${mark.name}`}
                onClick={() => run(removeMark(check.id, mark.id).then(() => setRemoved(mark)))}
              />
            </li>
          ))}
        </ul>
      )}
      {removed && (
        <p role="status" className="flex items-center gap-3 pt-1 text-sm text-soft">
          Removed “{removed.name}”. <Button onClick={takeBack}>Take it back</Button>
        </p>
      )}
      <Suggestions marks={marks} search={search} onSearch={onSearch} onAdd={add} onHear={hear} />
    </section>
  );
}

/** What is heard at first: a mix that may be, else the first track. */
function firstTrack(check: Check): number {
  const mix = check.inspected?.proposals.find(({ role }) => role === 'mix');
  return mix?.track ?? 0;
}

/** M sets a mark where it plays, Shift M ends the last one there, Ctrl Z brings back the one that was removed. */
function useMarkKeys({
  onMark,
  onEnd,
  onUndo,
}: {
  onMark: (atS: number) => void;
  onEnd: (endS: number) => void;
  onUndo: () => void;
}): void {
  const { positionS } = usePassages();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (isTaken(event) || event.altKey) return;
      const key = event.key.toLowerCase();
      const isCommand = event.ctrlKey || event.metaKey;
      const atS = positionS();
      if (isCommand && key === 'z') onUndo();
      else if (!isCommand && key === 'm' && atS !== null) {
        const rounded = Math.max(0, Math.round(atS * 100) / 100);
        if (event.shiftKey) onEnd(rounded);
        else onMark(rounded);
      } else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
}
