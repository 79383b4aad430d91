import { KWeighting } from './kWeighting.ts';

const { max } = Math;

/** What a loudness meter found. Silence (nothing above the absolute gate) gives null. */
export interface Loudness {
  integratedLufs: number | null;
  loudnessRangeLu: number | null;
  maxMomentaryLufs: number | null;
  maxShortTermLufs: number | null;
}

/** Windows slide in steps of 10 ms for the maxima; the gated figures use those that start on a tenth of a second. */
const STEP_S = 0.01;
const STEPS_A_BLOCK = 10;
const MOMENTARY_STEPS = 40;
const SHORT_TERM_STEPS = 300;
/** −70 LUFS, as a power. */
const ABSOLUTE_GATE_POWER = powerOf(-70);

/**
 * Measures gated loudness as sound passes by: ITU-R BS.1770-5 Annex 1 (integrated, momentary, short-term) and EBU
 * Tech 3342 (loudness range). Keeps one number for every 10 ms, so an hour takes 3 MB.
 *
 * @example
 * const meter = new LoudnessMeter(48_000, 2);
 * meter.add([left, right], left.length);
 * meter.result().integratedLufs;
 */
export class LoudnessMeter {
  /** The channels that count, in pairs; the last stands beside itself where their number is odd. */
  private readonly pairs: { first: number; second: number; weights: [number, number]; filter: KWeighting }[];
  private readonly sampleRate: number;
  private steps = new Float64Array(8192);
  private stepCount = 0;
  private stepEnd: number;
  private position = 0;
  private power = 0;

  /** @param channels 1 to 8; from four on, the order is L R C (LFE) Ls Rs …: see {@link channelWeights} */
  constructor(sampleRate: number, channels: number) {
    this.sampleRate = sampleRate;
    this.pairs = pairsOf(channelWeights(channels), sampleRate);
    this.stepEnd = Math.round(sampleRate * STEP_S);
  }

  /** Takes the next `frames` frames, from index `start` of each plane. */
  add(planes: ArrayLike<Float32Array>, frames: number, start = 0): void {
    let from = start;
    const end = start + frames;
    while (from < end) {
      const to = Math.min(end, from + this.stepEnd - this.position);
      for (let pair = 0; pair < this.pairs.length; pair++) {
        const { first, second, weights, filter } = this.pairs[pair];
        filter.process([planes[first], planes[second]], from, to - from);
        this.power += weights[0] * filter.powers[0] + weights[1] * filter.powers[1];
      }
      this.position += to - from;
      from = to;
      if (this.position === this.stepEnd) this.closeStep();
    }
  }

  /** The momentary loudness (last 400 ms) in LUFS, or null in silence and before 400 ms have passed. */
  momentary(): number | null {
    return finiteOrNull(this.windowLufs(this.stepCount, MOMENTARY_STEPS));
  }

  /** Returns what the whole of the sound so far measures. */
  result(): Loudness {
    const momentary = this.windows(MOMENTARY_STEPS);
    const shortTerm = this.windows(SHORT_TERM_STEPS);
    return {
      integratedLufs: gatedLoudness(onTheGrid(momentary)),
      loudnessRangeLu: loudnessRange(onTheGrid(shortTerm)),
      maxMomentaryLufs: finiteOrNull(toLufs(highest(momentary))),
      maxShortTermLufs: finiteOrNull(toLufs(highest(shortTerm))),
    };
  }

  /** Returns the short-term loudness (3 s windows) every 100 ms, in LUFS; −Infinity in silence. */
  shortTermCourse(): Float32Array {
    return Float32Array.from(onTheGrid(this.windows(SHORT_TERM_STEPS)), toLufs);
  }

  private closeStep(): void {
    if (this.stepCount === this.steps.length) {
      const larger = new Float64Array(this.steps.length * 2);
      larger.set(this.steps);
      this.steps = larger;
    }
    const start = Math.round(this.stepCount * STEP_S * this.sampleRate);
    const frames = Math.round((this.stepCount + 1) * STEP_S * this.sampleRate) - start;
    this.steps[this.stepCount] = this.power / frames;
    this.stepCount += 1;
    this.power = 0;
    this.position = 0;
    this.stepEnd = Math.round((this.stepCount + 1) * STEP_S * this.sampleRate) - start - frames;
  }

  private windowLufs(endStep: number, length: number): number {
    if (endStep < length) return Number.NEGATIVE_INFINITY;
    let sum = 0;
    for (let step = endStep - length; step < endStep; step++) sum += this.steps[step];
    return toLufs(sum / length);
  }

  /** The mean power of every window of `length` steps, in the order of their starts. */
  private windows(length: number): Float64Array {
    const count = Math.max(0, this.stepCount - length + 1);
    const means = new Float64Array(count);
    if (count === 0) return means;
    const sums = new Float64Array(this.stepCount + 1);
    for (let step = 0; step < this.stepCount; step++) sums[step + 1] = sums[step] + this.steps[step];
    for (let start = 0; start < count; start++)
      means[start] = Math.max(0, (sums[start + length] - sums[start]) / length);
    return means;
  }
}

function pairsOf(weights: number[], sampleRate: number) {
  const counting = weights.flatMap((weight, channel) => (weight > 0 ? [channel] : []));
  return Array.from({ length: Math.ceil(counting.length / 2) }, (_, pair) => {
    const first = counting[2 * pair];
    const second = counting[2 * pair + 1] ?? first;
    const own: [number, number] = [weights[first], second === first ? 0 : weights[second]];
    return { first, second, weights: own, filter: new KWeighting(sampleRate) };
  });
}

/**
 * Returns the weight of each channel: 1 for the front, 1.41 for the surrounds, 0 for the LFE (ITU-R BS.1770-5
 * Annex 1, table 4), by the usual order of channels for a count: 3 L R C, 4 L R Ls Rs, 5 L R C Ls Rs, 6 and 8 with
 * the LFE fourth.
 */
export function channelWeights(channels: number): number[] {
  const surround = 1.41;
  if (channels <= 3) return Array.from({ length: channels }, () => 1);
  if (channels === 4) return [1, 1, surround, surround];
  if (channels === 5) return [1, 1, 1, surround, surround];
  return [1, 1, 1, 0, ...Array.from({ length: channels - 4 }, () => surround)];
}

/** Returns the loudness of a mean weighted power. Source: ITU-R BS.1770-5 Annex 1, equation 2. */
export function toLufs(power: number): number {
  return -0.691 + 10 * Math.log10(power);
}

/** Returns the mean weighted power of a loudness (LUFS). */
export function powerOf(lufs: number): number {
  return 10 ** ((lufs + 0.691) / 10);
}

/** Two-stage gating over the powers of 400 ms blocks. Source: ITU-R BS.1770-5 Annex 1, equations 5 to 7. */
export function gatedLoudness(powers: Float64Array): number | null {
  const above = meanAbove(powers, ABSOLUTE_GATE_POWER);
  if (above === 0) return null;
  return finiteOrNull(toLufs(meanAbove(powers, max(ABSOLUTE_GATE_POWER, above / 10))));
}

/** The spread from the 10th to the 95th percentile of gated short-term loudness. Source: EBU Tech 3342. */
export function loudnessRange(powers: Float64Array): number | null {
  const above = meanAbove(powers, ABSOLUTE_GATE_POWER);
  if (above === 0) return null;
  const gate = max(ABSOLUTE_GATE_POWER, above / 100);
  const kept = new Float64Array(powers.length);
  let count = 0;
  for (let i = 0; i < powers.length; i++) if (powers[i] > gate) kept[count++] = powers[i];
  const loud = kept.subarray(0, count);
  const percentile = (share: number) => toLufs(nthSmallest(loud, Math.round((loud.length - 1) * share)));
  return percentile(0.95) - percentile(0.1);
}

/** The value that would stand at an index if the values were in order. They are moved about for it (quickselect; Hoare, 1961). */
function nthSmallest(values: Float64Array, index: number): number {
  let from = 0;
  let until = values.length - 1;
  while (from < until) {
    const pivot = values[(from + until) >> 1];
    let low = from;
    let high = until;
    while (low <= high) {
      while (values[low] < pivot) low++;
      while (values[high] > pivot) high--;
      if (low > high) break;
      const swapped = values[low];
      values[low++] = values[high];
      values[high--] = swapped;
    }
    if (index <= high) until = high;
    else if (index >= low) from = low;
    else break;
  }
  return values[index];
}

function onTheGrid(windows: Float64Array): Float64Array {
  return windows.filter((_, start) => start % STEPS_A_BLOCK === 0);
}

function highest(values: Float64Array): number {
  return values.reduce((top, value) => Math.max(top, value), 0);
}

/** The mean of the values above a gate; 0 when there is none. */
export function meanAbove(values: Float64Array, gate: number): number {
  let sum = 0;
  let count = 0;
  for (let i = 0; i < values.length; i++) {
    if (values[i] <= gate) continue;
    sum += values[i];
    count += 1;
  }
  return count > 0 ? sum / count : 0;
}

function finiteOrNull(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}
