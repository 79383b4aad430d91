import { useEffect } from 'react';

/** Meters and the place that is played are drawn this often (ms): more would take the processor from the sound. */
const DRAWN_EVERY_MS = 40;
const drawings = new Set<() => void>();
let lastDrawnMs = 0;

function drawAll(nowMs: number): void {
  if (nowMs - lastDrawnMs >= DRAWN_EVERY_MS) {
    lastDrawnMs = nowMs;
    for (const draw of drawings) draw();
  }
  if (drawings.size > 0) requestAnimationFrame(drawAll);
}

/** Calls a function whenever what moves is drawn, about 25 times a second; all of them together. */
export function useEveryFrame(draw: () => void): void {
  useEffect(() => {
    if (drawings.size === 0) requestAnimationFrame(drawAll);
    drawings.add(draw);
    return () => {
      drawings.delete(draw);
    };
  }, [draw]);
}
