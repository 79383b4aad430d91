import type { Sound } from '../engine/arrivingSounds.ts';
import {
  BLOCK_S,
  type Covariances,
  condense,
  highest,
  loudnessOfPowers,
  MOMENTARY_BLOCKS,
  meansOf,
  powersOfMix,
} from '../measure/covariance.ts';
import { type Loudness, toLufs } from '../measure/loudness.ts';
import { soundingBlocks } from '../proof/moments.ts';
import type { Setup } from '../setup/schema.ts';
import { ROLES, roleOf } from './aims.ts';
import type { StaticMix } from './sounds.ts';

/** A voice that is less than this above the bed (LU) is hard to follow. */
export const BURIED_LU = 3;
/** It counts from this length on (blocks), and passages that are this close are one. */
const BURIED_BLOCKS = 5;

/** What a destination sounds like, found without a render. */
export interface MixFigures extends Loudness {
  /** How far the bed lies under the voices while somebody speaks (LU); null where one of them is missing. */
  voiceOverBedLu: number | null;
  /** Passages in which a voice is buried. */
  buried: { fromS: number; untilS: number }[];
}

/** Power over time (100 ms) of the voices, the bed and everything at a destination. */
export interface MixCourses {
  voice: Float64Array;
  bed: Float64Array;
  sum: Float64Array;
}

/** The gains of those sounds that belong to some sources, and 0 for the others. */
export function gainsOf(
  sounds: Sound[],
  gains: Float64Array,
  belongs: (sourceId: string) => boolean,
): Float64Array {
  return gains.map((gain, index) => (belongs(sounds[index].sourceId) ? gain : 0));
}

/** Returns the courses of voice, bed and sum at a destination. */
export function coursesOf(
  setup: Setup,
  sounds: Sound[],
  { gains }: Pick<StaticMix, 'gains'>,
  covariances: Covariances,
): MixCourses {
  const roles = new Map(setup.sources.map((source) => [source.id, ROLES.indexOf(roleOf(source))]));
  const partOf = sounds.map(({ sourceId }) => roles.get(sourceId) ?? 0);
  const condensed = condense(covariances, gains, partOf, ROLES.length);
  return {
    voice: powersOfMix(condensed, [1, 0, 0]),
    bed: powersOfMix(condensed, [0, 1, 0]),
    sum: powersOfMix(condensed, [1, 1, 1]),
  };
}

/** Returns the figures of a destination from its courses. */
export function figuresOf({ voice, bed, sum }: MixCourses): MixFigures {
  return {
    ...loudnessOfPowers(sum),
    voiceOverBedLu: voiceOverBed(voice, bed),
    buried: buriedPassages(voice, bed),
  };
}

/** The loudness of the voices over that of the bed, both over the time in which somebody speaks. */
export function voiceOverBed(voice: Float64Array, bed: Float64Array): number | null {
  const speaking = soundingBlocks(voice);
  let voicePower = 0;
  let bedPower = 0;
  for (let block = 0; block < speaking.length; block++) {
    if (speaking[block] === 0) continue;
    voicePower += voice[block];
    bedPower += bed[block];
  }
  return voicePower > 0 && bedPower > 0 ? toLufs(voicePower) - toLufs(bedPower) : null;
}

/** A difference in LU as a ratio of powers. */
function fromLu(lu: number): number {
  return 10 ** (lu / 10);
}

function buriedPassages(voice: Float64Array, bed: Float64Array): MixFigures['buried'] {
  const voices = meansOf(voice, MOMENTARY_BLOCKS);
  const beds = meansOf(bed, MOMENTARY_BLOCKS);
  const loudest = highest(voices);
  const ratio = fromLu(BURIED_LU);
  const passages: { from: number; until: number }[] = [];
  for (let block = 0; block < voices.length; block++) {
    const isSpeech = voices[block] > loudest / 100;
    if (!isSpeech || voices[block] >= beds[block] * ratio) continue;
    const last = passages.at(-1);
    if (last && block - last.until <= BURIED_BLOCKS) last.until = block;
    else passages.push({ from: block, until: block });
  }
  return passages
    .filter(({ from, until }) => until - from + 1 >= BURIED_BLOCKS)
    .map(({ from, until }) => ({ fromS: from * BLOCK_S, untilS: (until + MOMENTARY_BLOCKS) * BLOCK_S }));
}
