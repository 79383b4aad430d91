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
/** No coder leaves more noise than this share of a sound’s power (−5 dB). */
const MOST_NOISE = 0.3;
/** Noise is taken out where it is no more than this share (−13 dB), which grows above a bin (2.5 kHz) as coders get coarser there: more may be another sound. */
const MOST_TAKEN = 0.05;
const COARSER_ABOVE = 107;
const COARSER_BY = 1.5;
/** Where others are louder, so many times of that is feared. */
const FEARED_TIMES = 2;
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
    const { sound, left } = bandPowers(ours, taken[side], frames);
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

/** The power of a sound and of what is left of a mix without it, in each band, frame by frame, each with those beside it. */
function bandPowers(mix: Float32Array, taken: Float32Array, frames: number) {
  const powers = () => Array.from({ length: BANDS }, () => new Float64Array(frames));
  const [sound, left] = [powers(), powers()];
  for (let frame = 0; frame < frames; frame++)
    for (let band = 0; band < BANDS; band++) {
      let own = 0;
      let rest = 0;
      const end = frame * ROW + 2 * EDGES[band + 1];
      for (let at = frame * ROW + 2 * EDGES[band]; at < end; at++) {
        const value = taken[at];
        const apart = mix[at] - value;
        own += value * value;
        rest += apart * apart;
      }
      sound[band][frame] = own;
      left[band][frame] = rest;
    }
  for (const values of [...sound, ...left]) smooth(values);
  return { sound, left };
}

/** Which share of a sound’s power is noise of its coder in a band: what may be taken out of it, and what is feared. */
function noiseShares(
  sound: Float64Array,
  left: Float64Array,
  band: number,
): { taken: number; feared: number } {
  const most = min(MOST_NOISE, MOST_TAKEN * max(1, EDGES[band] / COARSER_ABOVE) ** COARSER_BY);
  const mostFeared = min(MOST_NOISE, FEARED_TIMES * most);
  const sounding = sound.filter((power) => power > 0).sort();
  const quiet = floor(sounding.length * (1 - LOUD_SHARE));
  if (sounding.length - quiet < LEAST_FRAMES) return { taken: 0, feared: mostFeared };
  const least = sounding[quiet];
  const shares = left.map((power, frame) => (sound[frame] >= least ? power / sound[frame] : -1)).sort();
  const loudest = shares.subarray(shares.findIndex((share) => share >= 0));
  const shown = loudest[floor(loudest.length * SHOWN_BY)];
  return {
    taken: shown <= most ? TAKEN_TIMES * shown : 0,
    feared: min(mostFeared, loudest[floor(loudest.length * FEARED_BY)]),
  };
}

/** Turns down what is left of a frame: gains are those of the middle of bands, and go over into each other. */
function turnDown(mix: Float32Array, taken: Float32Array, frame: number, gains: Float64Array): void {
  const start = frame * ROW;
  for (let band = 0; band < BANDS - 1; band++) {
    const [gain, next] = [gains[band], gains[band + 1]];
    if (gain === 1 && next === 1) continue;
    const [from, to] = [middleOf(band), middleOf(band + 1)];
    const first = band === 0 ? 1 : ceil(from);
    const end = band === BANDS - 2 ? BINS : ceil(to);
    for (let bin = first; bin < end; bin++) {
      const share = max(0, min(1, (bin - from) / (to - from)));
      const less = 1 - gain - share * (next - gain);
      const at = start + 2 * bin;
      taken[at] += less * (mix[at] - taken[at]);
      taken[at + 1] += less * (mix[at + 1] - taken[at + 1]);
    }
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
