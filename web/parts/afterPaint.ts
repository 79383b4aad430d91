import { startTransition, useEffect, useState } from 'react';

/** A hidden page draws no frames; there the call comes after this time (ms). */
const UNSEEN_MS = 100;

/**
 * Calls a function once the next frame is on the screen. Returns a function that cancels the call. After the page has drawn a frame,
 * other threads of the browser still paint it; work at that moment would slow them down, so the call waits for one more frame.
 */
export function afterPaint(run: () => void): () => void {
  let isOver = false;
  const once = () => {
    if (isOver) return;
    isOver = true;
    run();
  };
  let frame = requestAnimationFrame(() => {
    frame = requestAnimationFrame(() => setTimeout(once));
  });
  const unseen = setTimeout(once, UNSEEN_MS);
  return () => {
    isOver = true;
    cancelAnimationFrame(frame);
    clearTimeout(unseen);
  };
}

/** Returns a value one frame late, so that slow computations that need it run once the value itself is on the screen. */
export function useAfterPaint<T>(value: T): T {
  const [drawn, setDrawn] = useState(value);
  useEffect(() => {
    if (drawn === value) return;
    return afterPaint(() => startTransition(() => setDrawn(value)));
  }, [value, drawn]);
  return drawn;
}
