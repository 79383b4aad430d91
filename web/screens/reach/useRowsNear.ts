import { type RefObject, useEffect, useState } from 'react';

/** A board with more rows than this draws only those that are seen, or nearly. */
const DRAWN_AT_ONCE = 16;
/** Rows this far outside of what is seen are drawn already (px). */
const NEAR_PX = 160;

/**
 * Tells which rows, by the ids of their sources, of a long board are seen, or nearly: the others keep their cells, and what these say, but are not drawn.
 * @param frame what the rows scroll in
 */
export function useRowsNear(frame: RefObject<HTMLElement | null>, ids: string[]): (id: string) => boolean {
  const [near, setNear] = useState<ReadonlySet<string>>(new Set());
  const isLong = ids.length > DRAWN_AT_ONCE;
  const rowsThere = ids.join(' ');
  // biome-ignore lint/correctness/useExhaustiveDependencies: other rows have to be looked at when they come, go or change places
  useEffect(() => {
    const root = frame.current;
    if (!isLong || !root) return;
    const observer = new IntersectionObserver(
      (entries) =>
        setNear((known) => {
          const next = new Set(known);
          for (const { target, isIntersecting } of entries)
            if (isIntersecting) next.add((target as HTMLElement).dataset.row ?? '');
            else next.delete((target as HTMLElement).dataset.row ?? '');
          return next;
        }),
      { root, rootMargin: `${NEAR_PX}px 0px` },
    );
    for (const row of root.querySelectorAll('[data-row]')) observer.observe(row);
    return () => observer.disconnect();
  }, [frame, isLong, rowsThere]);
  return (id) => !isLong || near.has(id) || (near.size === 0 && ids.indexOf(id) < DRAWN_AT_ONCE);
}
