import type { Pickup, Setup } from './schema.ts';

/**
 * Returns the scenes in which a pickup sounds; null for all of them. A pickup that is in groups sounds where one of its groups does, and
 * in the scenes that it names itself; one that is in none sounds where it says, or everywhere.
 */
export function soundingScenes(
  { groups = [], scenes }: Pick<Setup, 'groups' | 'scenes'>,
  pickup: Pickup,
): string[] | null {
  const own = groups.filter(({ pickups }) => pickups.includes(pickup.id)).map(({ id }) => id);
  if (own.length === 0) return pickup.scenes ?? null;
  return scenes
    .filter(
      (scene) => pickup.scenes?.includes(scene.id) || scene.groups?.some((group) => own.includes(group)),
    )
    .map(({ id }) => id);
}
