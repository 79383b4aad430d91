import { type RefObject, useEffect, useState } from 'react';

/** A board with more rows than this draws only those that are seen, or nearly. */
const DRAWN_AT_ONCE = 16;
/** Rows this far outside of what is seen are drawn already (px). */
const NEAR_PX = 160;

/**
 * Tells which rows of a long board are seen, or nearly: the others keep their cells, and what these say, but are not drawn.
 * @param frame what the rows scroll in
 */
export function useRowsNear(frame: RefObject<HTMLElement | null>, count: number): (row: number) => boolean {
  const [near, setNear] = useState<ReadonlySet<number>>(new Set());
  const isLong = count > DRAWN_AT_ONCE;
  useEffect(() => {
    const root = frame.current;
    if (!isLong || !root) return;
    const rows = [...root.querySelectorAll('tbody tr')].slice(0, count);
    const observer = new IntersectionObserver(
      (entries) =>
        setNear((known) => {
          const next = new Set(known);
          for (const { target, isIntersecting } of entries)
            if (isIntersecting) next.add(rows.indexOf(target));
            else next.delete(rows.indexOf(target));
          return next;
        }),
      { root, rootMargin: `${NEAR_PX}px 0px` },
    );
    for (const row of rows) observer.observe(row);
    return () => observer.disconnect();
  }, [frame, isLong, count]);
  return (row) => !isLong || near.has(row) || (near.size === 0 && row < DRAWN_AT_ONCE);
}
