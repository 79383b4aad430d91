import { NAMED_LISTS } from './ids.ts';
import type { Setup } from './schema.ts';

type Part = Exclude<keyof Setup, 'format' | 'version'>;
const PARTS = [
  'name',
  'recorder',
  ...NAMED_LISTS,
  'sends',
  'intent',
  'balance',
  'ticks',
] as const satisfies Part[];
/** Fails to compile when a part of the setup is missing above: its edits could not be stored. */
type Missing = Exclude<Part, (typeof PARTS)[number]>;
const _complete: [Missing] extends [never] ? true : Missing = true;
void _complete;

/**
 * What an edit did, as data: for each part of the setup that it touched, that part before and after. A change can
 * be reversed and replayed, and goes into the store as JSON.
 */
export type SetupChange = { [P in Part]?: { before: Setup[P]; after: Setup[P] } };

/** Returns the change that leads from one setup to another; empty when they are equal. */
export function changeBetween(before: Setup, after: Setup): SetupChange {
  const change: Record<string, unknown> = {};
  for (const part of PARTS) {
    if (before[part] !== after[part] && JSON.stringify(before[part]) !== JSON.stringify(after[part])) {
      change[part] = { before: before[part], after: after[part] };
    }
  }
  return change as SetupChange;
}

/** Tells whether a change changes nothing. */
export function isEmptyChange(change: SetupChange): boolean {
  return Object.keys(change).length === 0;
}

/** Returns the change that takes this one back. */
export function reverseChange(change: SetupChange): SetupChange {
  const reversed = Object.entries(change).map(([part, { before, after }]) => [
    part,
    { before: after, after: before },
  ]);
  return Object.fromEntries(reversed) as SetupChange;
}

/**
 * Returns the setup with the change replayed on it.
 * @throws {Error} when the setup is not in the state that the change starts from.
 */
export function replayChange(setup: Setup, change: SetupChange): Setup {
  const next: Record<string, unknown> = { ...setup };
  for (const [part, { before, after }] of Object.entries(change)) {
    if (JSON.stringify(next[part]) !== JSON.stringify(before)) {
      throw new Error(`cannot replay: "${part}" is not as the change expects it`);
    }
    next[part] = after;
  }
  return next as Setup;
}
