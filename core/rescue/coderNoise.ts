import { BINS, ROW } from './spectra.ts';

const { ceil, floor, max, min, sqrt } = Math;

/** Bands are so many bins wide at least (94 Hz), and so large a share of what lies below them, much as those of a coder. */
const LEAST_WIDTH = 4;
const WIDTH_SHARE = 0.12;
/** Noise is measured where the sound is loudest: in so large a share of its frames, of which it needs so many (1 s). */
const LOUD_SHARE = 1 / 3;
const LEAST_FRAMES = 47;
/** Half of those show how much is left of a sound’s power; what is only feared is a little less, since other sounds are in it as well. */
const SHOWN_BY = 0.5;
const FEARED_BY = 0.4;
/** No coder leaves more noise than this share of a sound’s power (−5 dB). Where nothing shows how much it is, this much is feared (−10 dB). */
const MOST_FEARED = 0.3;
const FEARED_UNSEEN = 0.1;
/** Noise is taken out where it is no more than this share (−13 dB), which grows above a bin (2.5 kHz) as coders get coarser there: more may be another sound. */
const MOST_TAKEN = 0.05;
const COARSER_ABOVE = 107;
const COARSER_BY = 1.5;
/** So many times what is shown is taken out, since noise comes and goes; but no bin is turned down further than to this share of its power (−8 dB). */
const TAKEN_TIMES = 1.5;
const LEAST_LEFT = 0.16;

/** The first bin of each band, and the one behind the last. */
const EDGES = bandEdges();
const BANDS = EDGES.length - 1;

/**
 * Takes out what a coder made of a sound along with the sound: noise that goes with the sound's own power, band by band. How much it is, is
 * what is left where the sound is loudest; where other sounds are louder than that, they stay as they are, in power.
 * @param mix the spectra of both sides of the mix, frame after frame
 * @param taken those of the sound as it lies in the mix; what is taken of the noise is added to them
 * @returns the power of the noise that may be left, and of what was taken of other sounds with it
 */
export function takeOutCoderNoise(mix: Float32Array[], taken: Float32Array[], frames: number): number {
  let wrong = 0;
  const gains = new Float64Array(BANDS);
  for (const [side, ours] of mix.entries()) {
    const sound = bandPowers(frames, (at) => taken[side][at]);
    const left = bandPowers(frames, (at) => ours[at] - taken[side][at]);
    const shares = sound.map((powers, band) => noiseShares(powers, left[band], band));
    for (let frame = 0; frame < frames; frame++) {
      for (let band = 0; band < BANDS; band++) {
        const power = left[band][frame];
        const noise = min(power, shares[band].taken * sound[band][frame]);
        const feared = min(power, shares[band].feared * sound[band][frame]);
        const kept = power > 0 ? max(LEAST_LEFT, 1 - noise / power) : 1;
        gains[band] = sqrt(kept);
        wrong += kept * feared + (1 - gains[band]) ** 2 * (power - feared);
      }
      turnDown(ours, taken[side], frame, gains);
    }
  }
  return wrong;
}

/** The power of spectra in each band, frame by frame, each with those beside it. */
function bandPowers(frames: number, valueAt: (at: number) => number): Float64Array[] {
  return Array.from({ length: BANDS }, (_, band) => {
    const powers = new Float64Array(frames);
    for (let frame = 0; frame < frames; frame++) {
      const end = frame * ROW + 2 * EDGES[band + 1];
      for (let at = frame * ROW + 2 * EDGES[band]; at < end; at++) powers[frame] += valueAt(at) ** 2;
    }
    smooth(powers);
    return powers;
  });
}

/** Which share of a sound’s power is noise of its coder in a band: what may be taken out of it, and what is feared. */
function noiseShares(
  sound: Float64Array,
  left: Float64Array,
  band: number,
): { taken: number; feared: number } {
  const sounding = [...sound.keys()].filter((frame) => sound[frame] > 0);
  const loudest = sounding.sort((a, b) => sound[b] - sound[a]).slice(0, ceil(sounding.length * LOUD_SHARE));
  if (loudest.length < LEAST_FRAMES) return { taken: 0, feared: FEARED_UNSEEN };
  const shares = Float64Array.from(loudest, (frame) => left[frame] / sound[frame]).sort();
  const shown = shares[floor(shares.length * SHOWN_BY)];
  const most = min(MOST_FEARED, MOST_TAKEN * max(1, EDGES[band] / COARSER_ABOVE) ** COARSER_BY);
  return {
    taken: shown <= most ? TAKEN_TIMES * shown : 0,
    feared: min(MOST_FEARED, shares[floor(shares.length * FEARED_BY)]),
  };
}

/** Turns down what is left of a frame: gains are those of the middle of bands, and go over into each other. */
function turnDown(mix: Float32Array, taken: Float32Array, frame: number, gains: Float64Array): void {
  const start = frame * ROW;
  let band = 0;
  for (let bin = 1; bin < BINS; bin++) {
    while (band < BANDS - 2 && bin > middleOf(band + 1)) band++;
    const [from, to] = [middleOf(band), middleOf(band + 1)];
    const share = max(0, min(1, (bin - from) / (to - from)));
    const less = 1 - (gains[band] + share * (gains[band + 1] - gains[band]));
    if (less === 0) continue;
    for (let at = start + 2 * bin; at < start + 2 * bin + 2; at++) taken[at] += less * (mix[at] - taken[at]);
  }
}

function middleOf(band: number): number {
  return (EDGES[band] + EDGES[band + 1] - 1) / 2;
}

function smooth(values: Float64Array): void {
  let before = values[0];
  for (let i = 0; i < values.length; i++) {
    const value = values[i];
    const after = values[min(values.length - 1, i + 1)];
    values[i] = (before + 2 * value + after) / 4;
    before = value;
  }
}

function bandEdges(): number[] {
  const edges = [1];
  for (;;) {
    const from = edges[edges.length - 1];
    const to = from + max(LEAST_WIDTH, floor(WIDTH_SHARE * from));
    if (to + LEAST_WIDTH > BINS) return [...edges, BINS];
    edges.push(to);
  }
}
