import { type KeyboardEvent, useRef, useState } from 'react';
import { parseFigure } from '../../format.ts';

/** A place on the board: row and column, counted from zero. */
export interface Place {
  row: number;
  column: number;
}

interface BoardKeys {
  rows: number;
  columns: number;
  at: Place;
  move(place: Place): void;
  toggle(): void;
  nudge(byDb: number): void;
  set(gainDb: number): void;
  close(): void;
}

const ARROWS: Record<string, [rows: number, columns: number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
};

/** A figure that follows a sign within this time belongs to it. */
const SIGN_HOLDS_MS = 1000;

/**
 * The keyboard of the board: arrows, Home and End move; space opens and closes; + and − change by 1 dB, and begin a
 * signed figure when one is typed right after; a figure that is typed is set with Enter, or by moving on.
 */
export function useBoardKeys({ rows, columns, at, move, toggle, nudge, set, close }: BoardKeys) {
  const [typed, setTyped] = useState<string | null>(null);
  const lastSign = useRef({ sign: '', time: 0 });

  const finish = (): boolean => {
    if (typed === null) return true;
    const gainDb = parseFigure(typed);
    setTyped(null);
    if (gainDb !== null) set(gainDb);
    return gainDb !== null;
  };

  const onKeyDown = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey) return;
    const { key } = event;
    const arrow = ARROWS[key];
    if (arrow) {
      finish();
      const clamp = (value: number, count: number) => Math.max(0, Math.min(count - 1, value));
      move({ row: clamp(at.row + arrow[0], rows), column: clamp(at.column + arrow[1], columns) });
    } else if (key === 'Home') move({ row: at.row, column: 0 });
    else if (key === 'End') move({ row: at.row, column: columns - 1 });
    else if (key === 'Enter' && typed !== null) finish();
    else if (key === 'Escape' && typed !== null) setTyped(null);
    else if (key === 'Backspace' && typed !== null) setTyped(typed.slice(0, -1));
    else if (/^[0-9.,]$/.test(key)) {
      const isSigned = event.timeStamp - lastSign.current.time < SIGN_HOLDS_MS;
      setTyped((typed ?? (isSigned ? lastSign.current.sign : '')) + key);
    } else if (key === ' ') toggle();
    else if (key === '+' || key === '=' || key === '-' || key === '−') {
      const isUp = key === '+' || key === '=';
      lastSign.current = { sign: isUp ? '' : '-', time: event.timeStamp };
      nudge(isUp ? 1 : -1);
    } else if (key === 'Delete' || key === 'Backspace') close();
    else return;
    event.preventDefault();
  };

  return { typed, onKeyDown, stopTyping: finish };
}
