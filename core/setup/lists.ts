import { EditError } from './editError.ts';

/**
 * Returns the thing with the id.
 * @throws {EditError} saying that there is no such `noun` any more
 */
export function find<T extends { id: string }>(list: T[], noun: string, id: string): T {
  const found = list.find((one) => one.id === id);
  if (!found)
    throw new EditError(
      'id',
      `there is no ${noun} "${id}" any more; it may have been removed in another window`,
    );
  return found;
}

/** Returns the list with new values in one thing, and without the optional fields that are to be cleared. */
export function patched<T extends { id: string }>(
  list: T[],
  noun: string,
  id: string,
  values: Partial<T>,
  clear: (keyof T)[] = [],
): T[] {
  find(list, noun, id);
  return list.map((one) => {
    if (one.id !== id) return one;
    const next = { ...one, ...values };
    for (const field of clear) delete next[field];
    return next;
  });
}

export function moved<T extends { id: string }>(list: T[], noun: string, id: string, to: number): T[] {
  const one = find(list, noun, id);
  return inserted(
    list.filter((other) => other !== one),
    one,
    to,
  );
}

export function inserted<T>(list: T[], one: T, at = list.length): T[] {
  return [...list.slice(0, at), one, ...list.slice(at)];
}

/** Returns the list with the thing that `isIt` replaced by another, or added; null takes it away. */
export function replaced<T>(list: T[], isIt: (one: T) => boolean, by: T | null): T[] {
  if (by === null) return list.filter((one) => !isIt(one));
  return list.some(isIt) ? list.map((one) => (isIt(one) ? by : one)) : [...list, by];
}
