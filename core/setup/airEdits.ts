import type { SimpleEdit } from './edits.ts';
import { AIR_DB, type Setup } from './schema.ts';

/** The rooms of loudspeakers and of a microphone where they are not the same; null where they are, or nothing is said. */
export function roomsApart(
  { machines, devices, destinations, sources }: Setup,
  destination: string,
  source: string,
): { loudspeakers: string; microphone: string } | null {
  const roomOf = (machine: string | undefined) => machines.find(({ id }) => id === machine)?.room;
  const hears = destinations.find(({ id }) => id === destination)?.hears ?? [];
  const rooms = hears.flatMap((id) => roomOf(devices.find((one) => one.id === id)?.machine) ?? []);
  const microphone = roomOf(sources.find(({ id }) => id === source)?.machine);
  const isThere = rooms.some((one) => one.toLowerCase() === microphone?.toLowerCase());
  return microphone === undefined || rooms.length === 0 || isThere
    ? null
    : { loudspeakers: rooms[0], microphone };
}

/** The edits that put loudspeakers into one room with every microphone that may be there, and is not said to be yet. */
export function inOneRoom(setup: Setup, destination: string): SimpleEdit[] {
  return setup.sources
    .filter(
      ({ id, kind }) =>
        kind === 'microphone' &&
        roomsApart(setup, destination, id) === null &&
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
