import type { Destination } from '../routing/destinations.ts';
import type { Reach } from '../routing/reach.ts';
import type { Processing } from '../setup/processing.ts';
import type { Setup } from '../setup/schema.ts';

/** A recording as it arrives by some path: late by so many frames, and perhaps folded to mono. */
export interface Sound {
  sourceId: string;
  /** The path under which the setup names the recording. */
  path: string;
  delayFrames: number;
  mono: boolean;
  processing?: Processing;
}

/** One destination as a sum of sounds: a factor for each, in the order of the sounds. */
export interface StaticMix {
  destination: Destination;
  /** On a mono track the power of the one channel counts once: its factors are 3 dB lower. */
  gains: Float64Array;
}

/** Everything that arrives anywhere, as sounds and sums of them. */
export interface StaticMixes {
  sounds: Sound[];
  mixes: StaticMix[];
}

/**
 * Takes a setup apart into sounds and static mixes of them, one a destination. Sources without a recording are left
 * out, and so is what is not a sum of recordings: hum, drift, and the fold-down of a pair that lies on two sides unequally.
 */
export function staticMixes(setup: Setup, reach: Reach): StaticMixes {
  const sounds: Sound[] = [];
  const indexOf = new Map<string, number>();
  const arriving = reach.destinations.map((destination) => {
    const parts = setup.sources.flatMap((source) =>
      (reach.at(source.id, destination.id)?.ways ?? []).flatMap((way) => {
        if (!source.media) return [];
        const { delayFrames } = way;
        const mono = way.mono || isMonoTrack(destination);
        const key = `${source.id} ${delayFrames} ${mono}`;
        let index = indexOf.get(key);
        if (index === undefined) {
          index = sounds.length;
          indexOf.set(key, index);
          const { processing } = source;
          sounds.push({ sourceId: source.id, path: source.media.path, delayFrames, mono, processing });
        }
        return [{ index, gain: way.gain }];
      }),
    );
    return { destination, parts };
  });
  const mixes = arriving.map(({ destination, parts }): StaticMix => {
    const gains = new Float64Array(sounds.length);
    const share = isMonoTrack(destination) ? Math.SQRT1_2 : 1;
    for (const { index, gain } of parts) gains[index] += gain * share;
    return { destination, gains };
  });
  return { sounds, mixes };
}

function isMonoTrack({ track }: Destination): boolean {
  return track?.layout === 'mono';
}

/** What makes two lists of sounds the same, however loud each is. */
export function soundsKey(sounds: Sound[]): string {
  return JSON.stringify(
    sounds.map(({ path, delayFrames, mono, processing }) => [path, delayFrames, mono, processing]),
  );
}
