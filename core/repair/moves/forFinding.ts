import type { Destination } from '../../reach/destinations.ts';
import type { About, Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';

import type { Target } from '../target.ts';
import { airMoves } from './air.ts';
import { closings, loopBreakers } from './closing.ts';
import { levelMoves } from './levels.ts';
import { mixMoves } from './mixes.ts';
import { endedListening } from './monitoring.ts';
import { onceOnly } from './onceOnly.ts';

import { openings } from './opening.ts';
import { outputs } from './outputs.ts';
import { separations } from './separate.ts';
import {
  calledRight,
  drivenTogether,
  lineMoves,
  overrulings,
  pairsTaken,
  pins,
  unstuck,
} from './settings.ts';
import { exchangedOnAir, newUse, ownTracks, recorded, trackLimit, trackUses, vodSplit } from './tracks.ts';

/** Returns the acts near what a finding is about, in the order in which a creator would rather do them; none is tried yet. */
export function movesFor(room: Room, finding: Target, scene: string | null): Candidate[] {
  const { code, source, destination, detail } = finding;
  const about: About | null = source === null ? null : { source, destination, scene };
  switch (code) {
    case 'uses':
      return usesMoves(room, finding);
    case 'track-limit':
      return trackLimit(room);
    case 'hum-risk':
    case 'drift':
    case 'rate-mismatch':
      return lineMoves(room, finding);
    case 'own-clock':
      return drivenTogether(room, detail);
    case 'on-default':
      return source === null ? [] : pins(room, source);
    case 'overruled':
      return source === null ? [] : overrulings(room, source);
    case 'stuck':
      return source === null ? [] : unstuck(room, source);
    case 'not-called':
      return source === null ? [] : calledRight(room, source);
    case 'player-volume':
      return about ? levelMoves(room, about) : [];
    case 'double-processing':
      return source === null ? [] : onceOnly(room, source, finding);
    case 'feedback':
      return about ? movesAbout(room, about) : loopBreakers(room);
    case 'listening-in':
      return endedListening(room, detail);
    case 'open-loudspeakers':
      return airMoves(room, detail);
    case 'swallowed':
      return about
        ? movesAbout(room, { ...about, destination: destination ?? wishedFirst(room, about.source) })
        : [];
    case 'no-own-track':
      return about ? ownTrackMoves(room, about) : [];
    case 'fused':
      return about ? fusedMoves(room, about, detail) : [];
    default:
      return about ? movesAbout(room, about) : [];
  }
}

/** Returns larger rebuildings, for when no single act does: ways for a source to come to the recorder apart from others. */
export function rebuildingsFor(
  room: Room,
  { code, source: id, destination: destinationId, detail }: Target,
): Candidate[] {
  const source = room.source(id);
  if (code === 'fused')
    return room.sourcesAt(detail ?? '').flatMap((one) => {
      const carried = room.source(one);
      return carried ? separations(room, carried) : [];
    });
  if (!source) return [];
  if (code === 'no-own-track') return separations(room, source);
  const destination = room.destination(destinationId);
  const isUnwanted =
    destination && room.arrival(source.id, destination) && room.wishDb(source.id, destination) === null;
  return isUnwanted ? separations(room, source) : [];
}

/** Everything near a source at a destination: what keeps it away, what brings it on, what changes its level or its way. */
export function movesAbout(room: Room, about: About): Candidate[] {
  const destination = room.destination(about.destination);
  const arrives = destination && room.arrival(about.source, destination);
  const onAir = usesInQuestion(room).filter(
    (use) =>
      destination?.kind === use ||
      destination?.track?.uses.includes(use) ||
      isWithoutWishes(room, destination),
  );
  const isUnwanted = destination && arrives && room.wishDb(about.source, destination) === null;
  return [
    ...unstuck(room, about.source),
    ...calledRight(room, about.source),
    ...pairsTaken(room, about.source),
    ...overrulings(room, about.source),
    ...(arrives ? levelMoves(room, about) : airMoves(room)),
    ...closings(room, about),
    ...openings(room, about),
    ...onAir.flatMap((use) => trackUses(room, use)),
    ...(onAir.length === 0 && isOnAirBoth(room) ? exchangedOnAir(room) : []),
    ...onAir.flatMap((use) => newUse(room, use)),
    ...(onAir.length > 0 && isUnwanted ? vodSplit(room) : []),
    ...outputs(room, about),
    ...mixMoves(room, about),
  ];
}

/**
 * The uses that another track may be meant for: one that no track has, or several, one that its track shares with the other, and both
 * where something is wanted on a track that is not one of the file any more.
 */
function usesInQuestion({ setup, judged }: Room): ('live' | 'vod')[] {
  const places = new Set(judged.destinations.map(({ id }) => id));
  const isMoved = setup.intent.some(({ destination }) => !places.has(destination));
  return (['live', 'vod'] as const).filter((use) => {
    const users = setup.tracks.filter(({ uses }) => uses.includes(use));
    return isMoved || users.length !== 1 || users[0].uses.filter((one) => one !== 'file').length > 1;
  });
}

/** Tells whether something is wrong at live and at the VOD. */
function isOnAirBoth({ judged }: Room): boolean {
  const wrong = new Set<string | null>();
  for (const { troubles } of judged.bySource.values())
    for (const { destination, weight } of troubles) if (weight >= 1) wrong.add(destination);
  return (['live', 'vod'] as const).every((use) =>
    judged.destinations.some(({ id, kind }) => kind === use && wrong.has(id)),
  );
}

/** Tells whether nobody is wanted on a track: its use may have been taken away. */
function isWithoutWishes(room: Room, destination: Destination | undefined): boolean {
  return (
    destination?.kind === 'file' &&
    room.setup.sources.every(({ id }) => room.wishDb(id, destination) === null)
  );
}

/** The first destination at which a source is wanted and does not arrive, or at which it is wanted at all. */
function wishedFirst(room: Room, source: string): string | null {
  const wished = room.judged.destinations.filter((destination) => room.wishDb(source, destination) !== null);
  return (wished.find((destination) => !room.arrival(source, destination)) ?? wished[0])?.id ?? null;
}

function ownTrackMoves(room: Room, { source, scene }: About): Candidate[] {
  const edit = room.judged.destinations.filter(({ track }) => track?.purpose === 'edit');
  const wished = edit.filter((destination) => room.wishDb(source, destination) !== null);
  return [
    ...wished.flatMap((destination) => othersClosed(room, source, destination, scene)),
    ...wished.flatMap(({ id }) => openings(room, { source, destination: id, scene })),
    ...ownTracks(room, source),
    ...outputs(room, { source, destination: wished[0]?.id ?? null, scene }),
  ];
}

function fusedMoves(room: Room, about: About, pickup: string | null): Candidate[] {
  const destination = room.destination(about.destination);
  const carried = room.sourcesAt(pickup ?? '');
  return [
    ...(destination ? othersClosed(room, about.source, destination, about.scene) : []),
    ...closings(room, about),
    ...carried.flatMap((id) => outputs(room, { source: id, destination: about.destination, scene: null })),
  ];
}

/** What keeps away from a destination whatever arrives there beside a source and is not wanted. */
function othersClosed(
  room: Room,
  source: string,
  destination: Destination,
  scene: string | null,
): Candidate[] {
  return room.setup.sources
    .filter(
      ({ id }) => id !== source && room.wishDb(id, destination) === null && room.arrival(id, destination),
    )
    .flatMap(({ id }) => closings(room, { source: id, destination: destination.id, scene }));
}

function usesMoves(room: Room, { detail, destination }: Target): Candidate[] {
  if (detail === 'idle') return recorded(room, destination);
  if (detail === 'record-vod') return recorded(room, null);
  const use = detail === 'vod' ? 'vod' : 'live';
  return [...trackUses(room, use), ...newUse(room, use)];
}
