import type { Sound } from '../engine/arrivingSounds.ts';
import { keysOf, type Processing, stepsOn, withKeys } from '../processors/processing.ts';
import type { Destination } from '../reach/destinations.ts';
import type { Reach } from '../reach/reach.ts';
import type { Setup } from '../setup/schema.ts';

/** A source that is heard, or listened to by another one: where its recording is, and what is done to it. */
export interface HeardSource {
  id: string;
  /** The path under which the setup names the recording. */
  path: string;
  processing: Processing;
}

/** One destination as a sum of sounds: a factor for each, in the order of the sounds. */
export interface StaticMix {
  destination: Destination;
  /** On a mono track the power of the one channel counts once: its factors are 3 dB lower. */
  gains: Float64Array;
  /** Whether it passes a step that works on several sounds together, which is left out of it. */
  isBlended: boolean;
}

/** Everything that arrives anywhere, as sounds of sources and sums of them. */
export interface StaticMixes {
  sources: HeardSource[];
  sounds: Sound[];
  mixes: StaticMix[];
}

/** What makes everything at a destination later by no more than this (10 ms: a limiter) is left out, for it changes no figure. */
const NOTHING_FRAMES = 480;

/**
 * Takes a setup apart into sounds and static mixes of them, one a destination. Sources without a recording are left
 * out, and so is what is not a sum of recordings: hum, drift, and the fold-down of a pair that lies on two sides unequally.
 */
export function staticMixes(setup: Setup, reach: Reach): StaticMixes {
  const sounds: Sound[] = [];
  const indexOf = new Map<string, number>();
  const arriving = reach.destinations.map((destination) => {
    const ways = setup.sources.flatMap((source) =>
      source.media ? (reach.at(source.id, destination.id)?.ways ?? []).map((way) => ({ source, way })) : [],
    );
    const earliest = Math.min(...ways.map(({ way }) => way.delayFrames));
    const left = earliest <= NOTHING_FRAMES ? earliest : 0;
    const parts = ways.map(({ source, way }) => {
      const delayFrames = way.delayFrames - left;
      const mono = way.mono || isMonoTrack(destination);
      const { processing } = way;
      const key = JSON.stringify([source.id, delayFrames, mono, processing]);
      let index = indexOf.get(key);
      if (index === undefined) {
        index = sounds.length;
        indexOf.set(key, index);
        sounds.push({ sourceId: source.id, delayFrames, mono, processing });
      }
      return { index, gain: way.gain, isBlended: way.isBlended };
    });
    return { destination, parts };
  });
  const mixes = arriving.map(({ destination, parts }): StaticMix => {
    const gains = new Float64Array(sounds.length);
    const share = isMonoTrack(destination) ? Math.SQRT1_2 : 1;
    for (const { index, gain } of parts) gains[index] += gain * share;
    return { destination, gains, isBlended: parts.some(({ isBlended }) => isBlended) };
  });
  return { sources: heardSources(setup, sounds), sounds, mixes };
}

function isMonoTrack({ track }: Destination): boolean {
  return track?.layout === 'mono';
}

/** The sources that sounds are made of, and those that they listen to; of each that has a recording. */
export function heardSources(setup: Pick<Setup, 'sources'>, sounds: Sound[]): HeardSource[] {
  const needed = withKeys(
    setup.sources,
    sounds.flatMap(({ sourceId, processing }) => [sourceId, ...keysOf(processing)]),
  );
  return setup.sources.flatMap(({ id, media, processing = [] }) =>
    media && needed.has(id) ? [{ id, path: media.path, processing: stepsOn(processing) }] : [],
  );
}
