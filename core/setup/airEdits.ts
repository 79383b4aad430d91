import type { SimpleEdit } from './edits.ts';
import { AIR_DB, type Setup } from './schema.ts';

/** The edits that put loudspeakers into one room with every microphone that is not said to be there yet. */
export function inOneRoom(setup: Setup, destination: string): SimpleEdit[] {
  return setup.sources
    .filter(
      ({ id, kind }) =>
        kind === 'microphone' &&
        !setup.air?.some((one) => one.destination === destination && one.source === id),
    )
    .map(({ id }) => ({ edit: 'setAir', destination, source: id, gainDb: AIR_DB }));
}

const WORN = /headphones|loudspeakers/i;

/** A name that says “headphones” or “loudspeakers” says the other when that is what they become; other names stay. */
export function renamedFor(kind: 'headphones' | 'loudspeakers', name: string): string {
  return name.replace(WORN, (word) =>
    word[0] === word[0].toUpperCase() ? kind[0].toUpperCase() + kind.slice(1) : kind,
  );
}
