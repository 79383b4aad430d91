import { destinationsOf, trackLimitOf } from '../reach/destinations.ts';
import { type Arrival, AUDIBLE_DB, type Reach, reachOf } from '../reach/reach.ts';
import { type ClearanceUse, isCleared } from '../setup/clearance.ts';
import type { Setup, Source, Track, Wish } from '../setup/schema.ts';

/**
 * What weighs how much. Sound that reaches somebody without clearance weighs most, then a loop, then wanted sound that does not
 * arrive, then a level that is off, sound that is not wanted, copies, and the own voice late.
 */
const WEIGHTS = {
  uncleared: 1000,
  loop: 600,
  echo: 400,
  impossible: 300,
  missing: 100,
  unwanted: 40,
  shared: 30,
  copies: 15,
  late: 10,
  /** For each dB that a level is off, from 1 dB on. */
  offLevelADb: 1,
} as const;
const MOST_OFF_DB = 60;
/** Copies that lie further below the loudest (dB) change nothing that is heard. */
const COPY_COUNTS_DB = 0.5;
const OWN_VOICE_LATE_MS = 10;

/** What is wanted and allowed: it stays as it is while ways to get there are compared. */
export interface Wanted {
  intent: Wish[];
  sources: Pick<Source, 'id' | 'clearance' | 'ownTrack'>[];
  tracks: Pick<Track, 'id' | 'uses' | 'purpose'>[];
  /** The destinations that there are; at one that a repair brings, nothing is wanted or unwanted. */
  places: string[];
  recordVod: boolean;
}

/** Returns what a setup wants and allows. */
export function wantedOf(setup: Setup): Wanted {
  const { intent, sources, tracks, recorder } = setup;
  const places = destinationsOf(setup).map(({ id }) => id);
  return { intent, sources, tracks, places, recordVod: recorder.recordVod ?? false };
}

/**
 * Measures how far a setup is from what is wanted, in every scene: 0 where everything arrives as wished and nothing else does.
 * The unit has no meaning but for comparing.
 * @param wanted what counts as wanted; what the setup itself says when left out
 * @param today `YYYY-MM-DD`, for clearances that expire
 */
export function distanceOf(setup: Setup, today: string, wanted: Wanted = wantedOf(setup)): number {
  const whole = reachOf(setup);
  const states =
    setup.scenes.length > 0 ? setup.scenes.map(({ id }) => reachOf(setup, { scene: id })) : [whole];
  const inScenes =
    states.reduce((sum, reach) => sum + ofCells(setup, reach, today, wanted), 0) / states.length;
  return inScenes + ofSetup(setup, whole, today, wanted);
}

function ofCells(setup: Setup, reach: Reach, today: string, wanted: Wanted): number {
  const wishes = new Map(wanted.intent.map((wish) => [`${wish.source} ${wish.destination}`, wish.gainDb]));
  let sum = 0;
  for (const source of setup.sources) {
    const clearance = (wanted.sources.find(({ id }) => id === source.id) ?? source).clearance;
    for (const destination of reach.destinations) {
      const key = `${source.id} ${destination.id}`;
      const wishDb = wishes.get(key);
      wishes.delete(key);
      const arrival = reach.at(source.id, destination.id);
      const isForbidden = usesOf(destination.track, wanted).some((use) => !isCleared(clearance, use, today));
      if (isForbidden) {
        if (arrival) sum += WEIGHTS.uncleared;
        continue;
      }
      if (wishDb !== undefined) sum += ofWanted(arrival, wishDb);
      else if (arrival && wanted.places.includes(destination.id)) sum += WEIGHTS.unwanted;
      if (arrival) sum += ofTiming(source, destination.kind, arrival);
    }
  }
  // What is wanted at a place that is not there any more does not arrive.
  const known = new Set(wanted.sources.map(({ id }) => id));
  for (const key of wishes.keys()) if (known.has(key.split(' ')[0])) sum += WEIGHTS.missing;
  return sum;
}

function ofWanted(arrival: Arrival | null, wishDb: number): number {
  if (!arrival || arrival.gainDb < AUDIBLE_DB) return WEIGHTS.missing;
  const off = Math.abs(arrival.gainDb - wishDb);
  return off < 1 ? 0 : Math.min(off, MOST_OFF_DB) * WEIGHTS.offLevelADb;
}

function ofTiming(source: Source, kind: string, arrival: Arrival): number {
  let sum = (arrival.doubling?.gainChangeDb ?? 0) > COPY_COUNTS_DB ? WEIGHTS.copies : 0;
  if (source.kind === 'voice chat' && kind === 'friends') sum += WEIGHTS.echo;
  if (source.kind === 'microphone' && kind === 'loudspeakers') sum += WEIGHTS.loop;
  if (source.kind === 'microphone' && kind === 'headphones' && arrival.latestMs > OWN_VOICE_LATE_MS)
    sum += WEIGHTS.late;
  return sum;
}

/** What is wrong with the setup as such: loops, uses that cannot be, tracks that are shared or too many. */
function ofSetup(setup: Setup, reach: Reach, today: string, wanted: Wanted): number {
  let sum = reach.graph.loops.length * WEIGHTS.loop;
  sum += Math.max(0, setup.tracks.length - trackLimitOf(setup)) * WEIGHTS.impossible;
  for (const use of ['live', 'vod'] as const) {
    const users = setup.tracks.filter((track) => track.uses.includes(use)).length;
    if (users > 1) sum += WEIGHTS.impossible;
  }
  if (wanted.recordVod && setup.tracks.some(({ uses }) => uses.includes('vod') && !uses.includes('file')))
    sum += WEIGHTS.shared;
  return sum + ofOwnTracks(setup, reach, today, wanted);
}

function ofOwnTracks(setup: Setup, reach: Reach, today: string, wanted: Wanted): number {
  const edit = destinationsOf(setup).filter(
    ({ track }) => track?.purpose === 'edit' && track.uses.includes('file'),
  );
  const channelsAt = (source: string, place: string) => reach.at(source, place)?.channels ?? [];
  return wanted.sources.reduce((sum, { id, clearance, ownTrack }) => {
    if (ownTrack === false || !isCleared(clearance, 'edit', today)) return sum;
    const isAlone = edit.some((place) => {
      if (!reach.at(id, place.id)) return false;
      const mine = channelsAt(id, place.id);
      return !setup.sources.some(
        (other) =>
          other.id !== id &&
          reach.at(other.id, place.id) &&
          (mine.length === 0 || channelsAt(other.id, place.id).some((one) => mine.includes(one))),
      );
    });
    return isAlone ? sum : sum + WEIGHTS.shared;
  }, 0);
}

/** The uses of a track as they are wanted: a track that changes its purpose goes on being published until somebody says so. */
function usesOf(track: Track | null, wanted: Wanted): ClearanceUse[] {
  if (!track) return [];
  const onAir = (['live', 'vod'] as const).filter((use) => track.uses.includes(use));
  const before = wanted.tracks.find(({ id }) => id === track.id);
  return (before ?? track).purpose === 'publish' ? [...onAir, 'upload'] : onAir;
}
