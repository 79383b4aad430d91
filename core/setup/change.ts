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
  'accepted',
  'air',
  'groups',
  'linkedFaders',
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

/** Thrown when a change cannot be replayed, since what it is about was changed otherwise in the meantime. */
export class ChangeConflict extends Error {
  /** The part of the setup, and the thing in it. */
  readonly where: string;

  constructor(where: string) {
    super(`cannot replay: ${where} is not as the change expects it`);
    this.name = 'ChangeConflict';
    this.where = where;
  }
}

/**
 * Returns the setup with the change replayed on it. Other things may have changed since: in a list, only the things that the
 * change is about must be as it expects them.
 * @throws {ChangeConflict} when one of them is not
 */
export function replayChange(setup: Setup, change: SetupChange): Setup {
  const next: Record<string, unknown> = { ...setup };
  for (const [part, { before, after }] of Object.entries(change)) {
    const now = next[part];
    if (isSame(now, before)) next[part] = after;
    else if (Array.isArray(now) && Array.isArray(before) && Array.isArray(after))
      next[part] = mergedList(part, now, before, after);
    else if (isRecord(now) && isRecord(before) && isRecord(after))
      next[part] = Object.fromEntries(
        merged(
          part,
          new Map(Object.entries(now)),
          new Map(Object.entries(before)),
          new Map(Object.entries(after)),
        ),
      );
    else throw new ChangeConflict(part);
  }
  return next as Setup;
}

/** What tells the things of a list apart: an id, the two ends of a send or a wish, or all that is in a group. */
function keyOf(thing: unknown): string {
  if (Array.isArray(thing)) return thing.join(' ');
  const { id, pickup, to, source, destination } = thing as Record<string, unknown>;
  return String(id ?? (pickup !== undefined ? `${pickup} ${to}` : `${source ?? ''} ${destination}`));
}

function mergedList(part: string, now: unknown[], before: unknown[], after: unknown[]): unknown[] {
  const [nowBy, beforeBy, afterBy] = [now, before, after].map(
    (list) => new Map(list.map((thing) => [keyOf(thing), thing])),
  );
  const result = merged(part, nowBy, beforeBy, afterBy);
  const common = (list: Map<string, unknown>) =>
    [...list.keys()].filter((key) => beforeBy.has(key) && afterBy.has(key));
  if (isSame(common(beforeBy), common(afterBy))) return insertedAsIn([...afterBy.keys()], nowBy, result);
  // The change moved things: that can be replayed where the same things stand in the order it expects.
  if (!isSame([...nowBy.keys()], [...beforeBy.keys()])) throw new ChangeConflict(part);
  return [...afterBy.keys()].map((key) => result.get(key));
}

/** Things that are new come after the one that they follow in the change. */
function insertedAsIn(order: string[], now: Map<string, unknown>, result: Map<string, unknown>): unknown[] {
  const keys = [...now.keys()].filter((key) => result.has(key));
  order.forEach((key, index) => {
    if (keys.includes(key)) return;
    const previous = order
      .slice(0, index)
      .reverse()
      .find((one) => keys.includes(one));
    keys.splice(previous === undefined ? 0 : keys.indexOf(previous) + 1, 0, key);
  });
  return keys.map((key) => result.get(key));
}

function merged(
  part: string,
  now: Map<string, unknown>,
  before: Map<string, unknown>,
  after: Map<string, unknown>,
): Map<string, unknown> {
  const result = new Map(now);
  for (const key of new Set([...before.keys(), ...after.keys()])) {
    if (isSame(before.get(key), after.get(key))) continue;
    if (!isSame(now.get(key), before.get(key))) throw new ChangeConflict(`${part}, ${key}`);
    if (after.has(key)) result.set(key, after.get(key));
    else result.delete(key);
  }
  return result;
}

function isSame(one: unknown, other: unknown): boolean {
  return one === other || JSON.stringify(one) === JSON.stringify(other);
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
