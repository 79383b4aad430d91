/**
 * Returns what a record holds under a key that comes from outside: an id may be `constructor`, which every object inherits.
 */
export function own<T>(record: Readonly<Record<string, T>> | undefined, key: string): T | undefined {
  return record !== undefined && Object.hasOwn(record, key) ? record[key] : undefined;
}
