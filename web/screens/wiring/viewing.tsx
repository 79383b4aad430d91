import { clsx } from 'clsx';
import { createContext, type ReactNode, useContext } from 'react';
import type { Loss } from '../../../core/reach/noticed.ts';
import type { Reach } from '../../../core/reach/reach.ts';

/** How Wiring is looked at: what is looked for, which source is followed, and who would notice if a place went. */
export interface Viewing {
  /** What is looked for, in small letters; empty for everything. */
  find: string;
  /** The source that is followed through all places. */
  followed: string | null;
  reach: Reach;
  losses: Map<string, Loss[]>;
  /** The machines that are folded. */
  folded: ReadonlySet<string>;
  fold: (machine: string, isFolded: boolean) => void;
}

export const ViewingContext = createContext<Viewing | null>(null);

export function useViewing(): Viewing {
  const viewing = useContext(ViewingContext);
  if (!viewing) throw new Error('there is no wiring to look at');
  return viewing;
}

/** Tells whether what is looked for stands in some words. */
export function isFound(find: string, words: readonly (string | undefined)[]): boolean {
  return find === '' || words.some((one) => one?.toLowerCase().includes(find));
}

/** How a line of Wiring looks: left out where it is not what is looked for, pale where the followed source does not pass. */
export function useLine(places: readonly string[], words: readonly (string | undefined)[]) {
  const { find, followed, reach } = useViewing();
  const passes = followed !== null && places.some((id) => reach.sourcesAt(id).includes(followed));
  return {
    isShown: isFound(find, words),
    className: followed === null ? '' : passes ? 'bg-water-pale/40' : 'opacity-60',
    'data-passes': followed === null ? undefined : passes,
  };
}

/** A row of a table of Wiring. */
export function Line({
  places,
  words,
  className = '',
  children,
}: {
  places: readonly string[];
  words: readonly (string | undefined)[];
  className?: string;
  children: ReactNode;
}) {
  const { isShown, className: look, ...passing } = useLine(places, words);
  if (!isShown) return null;
  return (
    <tr className={clsx('border-t border-rule', className, look)} {...passing}>
      {children}
    </tr>
  );
}
