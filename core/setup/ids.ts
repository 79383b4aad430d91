import type { Setup } from './schema.ts';

/** The lists of a setup whose things have ids; an id is used once over all of them. */
export const NAMED_LISTS = [
  'machines',
  'devices',
  'links',
  'mixes',
  'scenes',
  'sources',
  'pickups',
  'tracks',
  'destinations',
] as const;
export type NamedList = (typeof NAMED_LISTS)[number];

/**
 * Returns a short readable id made from a name ("Lock & Paddle" gives "lock-paddle"), unlike every id of the setup.
 * A name without a Latin letter or digit gives "thing", "thing-2" and so on.
 */
export function newId(setup: Setup, name: string): string {
  const taken = new Set(
    [...NAMED_LISTS.map((list) => setup[list]), setup.groups ?? []].flatMap((things) =>
      things.map(({ id }) => id),
    ),
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
