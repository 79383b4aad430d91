import { useEffect, useState } from 'react';
import type { Check } from '../../../core/check/records.ts';
import type { Delivery, Mark, MarkValues } from '../../../core/deliver/records.ts';
import { addMarks, changeMark, type MarkOwner } from '../../api/marks.ts';
import { isTaken } from '../../parts/isTyping.ts';
import { KeyLegend } from '../../parts/KeyLegend.tsx';
import { MarkList } from '../../parts/MarkList.tsx';
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
  const owner: MarkOwner = { kind: 'checks', id: check.id };
  const run = (work: Promise<unknown>) => void work.catch((error: Error) => notify('trouble', error.message));
  const add = (values: MarkValues[]) => run(addMarks(owner, values));
  useMarkKeys({
    onJump: (toS) => hear(Math.max(0, Math.min((check.durationS ?? 0) - 1, toS))),
    onMark: (atS) => add([{ atS, endS: null, name: `Mark ${marks.length + 1}` }]),
    onEnd: (endS) => {
      const last = marks.filter(({ atS }) => atS < endS).at(-1);
      if (last) run(changeMark(owner, last.id, { atS: last.atS, endS, name: last.name }));
    },
  });
  const hear = (atS: number) => play({ track: track + 1, atS, endS: check.durationS ?? undefined });
  return (
    <section aria-label="Marks">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">Marks</h2>
      <MarkStrip check={check} marks={marks} track={track} onTrack={setTrack} onHear={hear} onStop={stop} />
      <KeyLegend
        keys={[
          ['K', 'set a mark while it plays'],
          ['Shift K', 'end it here'],
          ['← →', '5 s'],
          ['Esc', 'stop'],
        ]}
      />
      <MarkList owner={owner} marks={marks} onHear={(atS) => (playing?.atS === atS ? stop() : hear(atS))} />
      <Suggestions marks={marks} search={search} onSearch={onSearch} onAdd={add} onHear={hear} />
    </section>
  );
}

/** What is heard at first: a mix that may be, else the first track. */
function firstTrack(check: Check): number {
  const mix = check.inspected?.proposals.find(({ role }) => role === 'mix');
  return mix?.track ?? 0;
}

/** The arrows jump by so much (s). */
const JUMP_S = 5;

/** K sets a mark where it plays, Shift K ends the last one there, and the arrows go back and on. */
function useMarkKeys({
  onMark,
  onEnd,
  onJump,
}: {
  onMark: (atS: number) => void;
  onEnd: (endS: number) => void;
  onJump: (toS: number) => void;
}): void {
  const { positionS } = usePassages();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const atS = positionS();
      if (event.ctrlKey || event.metaKey || event.altKey || isTaken(event) || atS === null) return;
      const rounded = Math.max(0, Math.round(atS * 100) / 100);
      if (event.key.toLowerCase() === 'k') (event.shiftKey ? onEnd : onMark)(rounded);
      else if (event.key === 'ArrowLeft') onJump(rounded - JUMP_S);
      else if (event.key === 'ArrowRight') onJump(rounded + JUMP_S);
      else return;
      event.preventDefault();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
}
