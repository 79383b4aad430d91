import { fromDb } from './decibel.ts';

/** Channel weights that bring a layout to stereo: `left[c]` and `right[c]` for each channel c. */
export interface FoldDown {
  left: number[];
  right: number[];
}

const HALF_POWER = Math.SQRT1_2;

/**
 * Returns the weights that fold a number of channels down to stereo. Mono goes to both sides at full level; 5.1 and
 * 7.1 (L R C LFE Ls Rs …) follow ITU-R BS.775-3 Annex 4, table 2, without the LFE; for other counts, channels
 * alternate left and right, scaled so that the loudest side keeps its power.
 */
export function foldDownFor(channels: number): FoldDown {
  if (channels === 1) return { left: [1], right: [1] };
  if (channels === 2) return { left: [1, 0], right: [0, 1] };
  if (channels === 6) {
    return { left: [1, 0, HALF_POWER, 0, HALF_POWER, 0], right: [0, 1, HALF_POWER, 0, 0, HALF_POWER] };
  }
  if (channels === 8) {
    return {
      left: [1, 0, HALF_POWER, 0, HALF_POWER, 0, HALF_POWER, 0],
      right: [0, 1, HALF_POWER, 0, 0, HALF_POWER, 0, HALF_POWER],
    };
  }
  const gain = 1 / Math.sqrt(Math.ceil(channels / 2));
  const side = (odd: number) =>
    Array.from({ length: channels }, (_, channel) => (channel % 2 === odd ? gain : 0));
  return { left: side(0), right: side(1) };
}

/** Returns the weights that bring each channel to a side, or to both, with a gain in dB; null leaves a channel out. */
export function fromSides(
  channels: ({ side: 'left' | 'right' | 'both'; gainDb: number } | null)[],
): FoldDown {
  const weights = (other: 'left' | 'right') =>
    channels.map((one) => (one === null || one.side === other ? 0 : fromDb(one.gainDb)));
  return { left: weights('right'), right: weights('left') };
}

/** The gain (a factor) with which a sound that stands on some channels, counted from one, comes through in the middle. */
export function gainThrough({ left, right }: FoldDown, channels: number[]): number {
  return channels.reduce((sum, channel) => sum + (left[channel - 1] + right[channel - 1]) / 2, 0);
}

/**
 * Folds planar channels of equal length down to two.
 * @param channels planes of `frames` samples each
 * @param weights the usual ones for as many channels, when left out
 */
export function foldToStereo(channels: Float32Array[], weights?: FoldDown): [Float32Array, Float32Array] {
  if (weights) return [weighted(channels, weights.left), weighted(channels, weights.right)];
  if (channels.length === 1) return [channels[0], channels[0]];
  if (channels.length === 2) return [channels[0], channels[1]];
  return foldToStereo(channels, foldDownFor(channels.length));
}

function weighted(channels: Float32Array[], weights: number[]): Float32Array {
  const sum = new Float32Array(channels[0].length);
  channels.forEach((plane, index) => {
    const weight = weights[index];
    if (weight === 0) return;
    for (let frame = 0; frame < sum.length; frame++) sum[frame] += plane[frame] * weight;
  });
  return sum;
}
