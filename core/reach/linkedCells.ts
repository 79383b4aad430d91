import { applyEdit, type Edit, type SimpleEdit } from '../setup/edits.ts';
import { nearestGain, type Setup } from '../setup/schema.ts';
import { cellEdit } from './cell.ts';
import { reachOf } from './reach.ts';

/** The other destinations whose levels move with those of one. */
export function linkedWith(
  { linkedFaders = [] }: Pick<Setup, 'linkedFaders'>,
  destination: string,
): string[] {
  const group = linkedFaders.find((one) => one.includes(destination)) ?? [];
  return group.filter((one) => one !== destination);
}

/**
 * Returns the edit of a cell as somebody makes it with a fader: where its destination is linked with others, the level of the source
 * moves there by as many dB, if the source arrives there. Opening and closing are left to each cell.
 * @throws {EditError} as `cellEdit` does, for any of them
 */
export function faderEdit(setup: Setup, source: string, destination: string, gainDb: number | null): Edit {
  const first = cellEdit(setup, source, destination, gainDb);
  const others = linkedWith(setup, destination);
  if (others.length === 0 || gainDb === null) return first;
  const reach = reachOf(setup);
  const present = reach.at(source, destination)?.gainDb;
  if (present === undefined) return first;
  let now = applyEdit(setup, first);
  const edits = simple(first);
  for (const other of others) {
    const before = reach.at(source, other)?.gainDb;
    if (before === undefined) continue;
    const wanted = nearestGain(before + gainDb - present);
    // What is one fader for both has moved already.
    if (Math.abs((reachOf(now).at(source, other)?.gainDb ?? wanted) - wanted) < 0.001) continue;
    const next = cellEdit(now, source, other, wanted);
    edits.push(...simple(next));
    now = applyEdit(now, next);
  }
  return edits.length === simple(first).length ? first : { edit: 'batch', label: labelOf(first), edits };
}

/** The groups after a destination was linked with another, or taken out of its group (null). */
export function groupsAfter(
  { linkedFaders = [] }: Pick<Setup, 'linkedFaders'>,
  destination: string,
  other: string | null,
): string[][] {
  const without = linkedFaders
    .map((group) => group.filter((one) => one !== destination))
    .filter((group) => group.length > 1 || (other !== null && group.includes(other)));
  if (other === null) return without;
  if (!without.some((group) => group.includes(other))) return [...without, [destination, other]];
  return without.map((group) => (group.includes(other) ? [...group, destination] : group));
}

function simple(edit: Edit): SimpleEdit[] {
  return edit.edit === 'batch' ? [...edit.edits] : [edit];
}

function labelOf(edit: Edit): string {
  return edit.edit === 'batch'
    ? `${edit.label}, and what moves with it`.slice(0, 120)
    : 'set levels that move together';
}
