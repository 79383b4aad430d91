import { startTransition, useEffect, useState } from 'react';

/** A page that is not seen draws no frames: there, what waits for one is done after so long (ms). */
const UNSEEN_MS = 100;

/** Calls a function once the next frame has been drawn. Returns what calls it off. */
export function afterPaint(run: () => void): () => void {
  let isOver = false;
  const once = () => {
    if (isOver) return;
    isOver = true;
    run();
  };
  const frame = requestAnimationFrame(() => setTimeout(once));
  const unseen = setTimeout(once, UNSEEN_MS);
  return () => {
    isOver = true;
    cancelAnimationFrame(frame);
    clearTimeout(unseen);
  };
}

/** Returns a value one frame late: what follows from it slowly is computed once the value itself is on the screen. */
export function useAfterPaint<T>(value: T): T {
  const [drawn, setDrawn] = useState(value);
  useEffect(() => {
    if (drawn === value) return;
    return afterPaint(() => startTransition(() => setDrawn(value)));
  }, [value, drawn]);
  return drawn;
}
