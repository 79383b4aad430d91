import { useEffect, useRef } from 'react';
import { isTaken } from '../../parts/isTyping.ts';

interface RehearsalKeys {
  toggle(): void;
  choose(destination: number): void;
  compare(): void;
  moveRow(by: number): void;
  jump(byS: number): void;
  nudge(byDb: number): void;
  nudgeAll(byDb: number): void;
  mute(everywhere: boolean): void;
  hold(on: boolean, everywhere: boolean): void;
  solo(): void;
  nextMoment(): void;
  loop(): void;
  mark(): void;
}

/** The keyboard of a rehearsal, wherever the focus is, but for text fields. */
export function useRehearsalKeys(keys: RehearsalKeys): void {
  const latest = useRef(keys);
  latest.current = keys;
  useEffect(() => {
    const held = { on: false, everywhere: false };
    const down = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || isTaken(event)) return;
      if (!press(latest.current, event, held)) return;
      event.preventDefault();
    };
    const up = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() !== 'h' || !held.on) return;
      held.on = false;
      latest.current.hold(false, held.everywhere);
    };
    window.addEventListener('keydown', down);
    window.addEventListener('keyup', up);
    return () => {
      window.removeEventListener('keydown', down);
      window.removeEventListener('keyup', up);
    };
  }, []);
}

function press(
  keys: RehearsalKeys,
  event: KeyboardEvent,
  held: { on: boolean; everywhere: boolean },
): boolean {
  const { key } = event;
  if (/^[1-9]$/.test(key)) keys.choose(Number(key) - 1);
  else if (key === ' ') {
    if (event.target instanceof HTMLButtonElement || event.target instanceof HTMLInputElement) return false;
    keys.toggle();
  } else if (key === 'ArrowUp') keys.moveRow(-1);
  else if (key === 'ArrowDown') keys.moveRow(1);
  else if (key === 'ArrowLeft') keys.jump(-5);
  else if (key === 'ArrowRight') keys.jump(5);
  else if (key === '+' || key === '=') keys.nudge(1);
  else if (key === '-' || key === '−') keys.nudge(-1);
  else if (key === ']') keys.nudgeAll(1);
  else if (key === '[') keys.nudgeAll(-1);
  else if (key.toLowerCase() === 'm') keys.mute(event.shiftKey);
  else if (key.toLowerCase() === 's') keys.solo();
  else if (key.toLowerCase() === 'h') {
    if (held.on) return true;
    held.on = true;
    held.everywhere = event.shiftKey;
    keys.hold(true, event.shiftKey);
  } else if (key.toLowerCase() === 'c') keys.compare();
  else if (key.toLowerCase() === 'n') keys.nextMoment();
  else if (key.toLowerCase() === 'l') keys.loop();
  else if (key.toLowerCase() === 'k') keys.mark();
  else return false;
  return true;
}
