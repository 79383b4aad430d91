import type { Setup } from './schema.ts';

/**
 * Returns a short readable id made from a name ("Lock & Paddle" gives "lock-paddle"), unlike every id of the setup.
 * A name without a Latin letter or digit gives "thing", "thing-2" and so on.
 */
export function newId(setup: Setup, name: string): string {
  const taken = new Set(
    [...setup.sources, ...setup.pickups, ...setup.tracks, ...setup.destinations].map(({ id }) => id),
  );
  const base =
    name
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[\u0300-\u036f]/g, '')
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 48)
      .replace(/-+$/, '') || 'thing';
  for (let count = 1; ; count++) {
    const id = count === 1 ? base : `${base}-${count}`;
    if (!taken.has(id)) return id;
  }
}

/** Returns the id of the pickup that belongs to a source with the given id. */
export function pickupIdFor(sourceId: string): string {
  return `${sourceId.slice(0, 57)}.pickup`;
}
