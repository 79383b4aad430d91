import { toDb } from '../audio/decibel.ts';
import type { RealFft } from './fft.ts';

const { abs, max, min, round, sqrt, sin } = Math;

const RATE = 48_000;
const BLOCK_FRAMES = RATE / 20;
/** Digital silence counts as this (dBFS). */
const LOWEST_DB = -120;
/** Speech closer to the floor than this (dB) cannot be told from it: there is none. */
const LEAST_CONTRAST_DB = 6;
/** A gate opens this far (dB) under the quietest speech, and never nearer to the floor than that. */
const UNDER_SPEECH_DB = 3;
const OVER_FLOOR_DB = 6;
/** With the quietest speech nearer to the floor than this (dB), a gate chops words. */
const CHOPS_DB = 9;
const HUM_FINDING_DB = 10;
const HARMONICS = 8;
const FFT_FRAMES = 16_384;

/** What was read from a passage of a voice. Levels are RMS over 50 ms in dBFS; null where there was nothing to read. */
export interface Calibration {
  durationS: number;
  /** The 10th percentile of the pauses. */
  floorDb: number | null;
  /** The mean power of speech. */
  speechDb: number | null;
  /** The level that 5 % of the speech stay under. */
  quietSpeechDb: number | null;
  /** What parts pauses from speech. */
  thresholdDb: number | null;
  /** Where a noise gate should open; null where there is no speech. */
  gateDb: number | null;
  /** A gate would chop words: reduce the noise, or bring the microphone closer. */
  gateChops: boolean;
  hum: { hz: 50 | 60; overDb: number } | null;
  /** By how much it is off centre, as a microphone may be (a share of full scale). */
  dcOffset: number;
  /** The share of samples at full scale. */
  clippedShare: number;
  /** What it was read from: how many 50 ms blocks lie in each decibel, from −120 dBFS up. */
  histogram: number[];
  /** What a creator should know about it, in sentences. */
  remarks: string[];
}

/**
 * Reads a noise floor, a speech level, a gate threshold and mains hum from a passage. The histogram of levels is parted by
 * Otsu's method (Otsu, 1979: the threshold with the largest variance between both sides).
 * @param samples mono at 48 kHz
 */
export function calibrate(makeFft: (size: number) => RealFft, samples: Float32Array): Calibration {
  const dcOffset = offsetOf(samples);
  const levels = levelsOf(samples, dcOffset);
  const histogram = histogramOf(levels);
  const sounding = levels.filter((level) => level > LOWEST_DB);
  const found = {
    durationS: samples.length / RATE,
    dcOffset,
    clippedShare: clippedShareOf(samples),
    histogram,
  };
  if (sounding.length === 0) {
    const nothing = { floorDb: null, speechDb: null, quietSpeechDb: null, thresholdDb: null, gateDb: null };
    return { ...found, ...nothing, gateChops: false, hum: null, remarks: ['Nothing sounds in it.'] };
  }
  const thresholdDb = otsu(histogram);
  const pauses = sorted(sounding.filter((level) => level < thresholdDb));
  const speech = sorted(sounding.filter((level) => level >= thresholdDb));
  const floorDb = percentile(pauses.length > 0 ? pauses : speech, 0.1);
  const isSpeech = speech.length > 0 && percentile(speech, 0.5) - floorDb >= LEAST_CONTRAST_DB;
  const quietSpeechDb = isSpeech ? percentile(speech, 0.05) : null;
  const gateDb =
    quietSpeechDb === null ? null : max(quietSpeechDb - UNDER_SPEECH_DB, floorDb + OVER_FLOOR_DB);
  const gateChops = quietSpeechDb !== null && quietSpeechDb - floorDb < CHOPS_DB;
  const hum = humOf(makeFft, samples, levels, thresholdDb);
  const calibration = {
    ...found,
    floorDb,
    speechDb: isSpeech ? meanPowerDb(speech) : null,
    quietSpeechDb,
    thresholdDb: isSpeech ? thresholdDb : null,
    gateDb,
    gateChops,
    hum,
  };
  return { ...calibration, remarks: remarksOn(calibration) };
}

function remarksOn(found: Omit<Calibration, 'remarks'>): string[] {
  const remarks: string[] = [];
  if (found.durationS < 5)
    remarks.push(`It is ${found.durationS.toFixed(1)} s long; ten seconds with pauses would tell more.`);
  if (found.speechDb === null) remarks.push('No speech stands out of it, so no gate can be set from it.');
  if (found.gateChops)
    remarks.push('A gate would chop words: reduce the noise first, or bring the microphone closer.');
  if (found.hum)
    remarks.push(
      `It hums at ${found.hum.hz} Hz and harmonics, ${found.hum.overDb.toFixed(0)} dB above what is beside them.`,
    );
  if (found.clippedShare > 1e-4)
    remarks.push(
      `${(100 * found.clippedShare).toFixed(found.clippedShare < 0.1 ? 2 : 0)} % of it is at full scale: it clips. Turn the input down.`,
    );
  if (abs(found.dcOffset) > 0.005)
    remarks.push(
      `It is off centre by ${(100 * found.dcOffset).toFixed(1)} % of full scale (DC offset); a high-pass takes that out.`,
    );
  return remarks;
}

/** The median of the means of all blocks: what is there in the pauses, too. */
function offsetOf(samples: Float32Array): number {
  const means = new Float64Array(Math.floor(samples.length / BLOCK_FRAMES));
  for (let block = 0; block < means.length; block++) {
    let sum = 0;
    for (let i = block * BLOCK_FRAMES; i < (block + 1) * BLOCK_FRAMES; i++) sum += samples[i];
    means[block] = sum / BLOCK_FRAMES;
  }
  return means.length > 0 ? percentile(means.sort(), 0.5) : 0;
}

function clippedShareOf(samples: Float32Array): number {
  let count = 0;
  for (let i = 0; i < samples.length; i++) if (abs(samples[i]) >= 0.9999) count += 1;
  return samples.length > 0 ? count / samples.length : 0;
}

function levelsOf(samples: Float32Array, dcOffset: number): Float64Array {
  const levels = new Float64Array(Math.floor(samples.length / BLOCK_FRAMES));
  for (let block = 0; block < levels.length; block++) {
    let power = 0;
    for (let i = block * BLOCK_FRAMES; i < (block + 1) * BLOCK_FRAMES; i++)
      power += (samples[i] - dcOffset) * (samples[i] - dcOffset);
    levels[block] = max(LOWEST_DB, toDb(sqrt(power / BLOCK_FRAMES)));
  }
  return levels;
}

function histogramOf(levels: Float64Array): number[] {
  const histogram = new Array<number>(-LOWEST_DB + 1).fill(0);
  for (const level of levels) histogram[binOf(level)] += 1;
  return histogram;
}

function binOf(level: number): number {
  return min(-LOWEST_DB, max(0, round(level - LOWEST_DB)));
}

/** The level (dBFS) that parts a histogram best; digital silence is left out of it. */
function otsu(histogram: number[]): number {
  const counts = histogram.map((count, bin) => (bin === 0 ? 0 : count));
  const total = counts.reduce((sum, count) => sum + count, 0);
  const sum = counts.reduce((all, count, bin) => all + count * bin, 0);
  let below = 0;
  let sumBelow = 0;
  let best = { variance: -1, from: 0, until: 0 };
  for (let bin = 0; bin < counts.length - 1; bin++) {
    below += counts[bin];
    sumBelow += counts[bin] * bin;
    if (below === 0 || below === total) continue;
    const apart = sumBelow / below - (sum - sumBelow) / (total - below);
    const variance = below * (total - below) * apart * apart;
    if (variance > best.variance * (1 + 1e-9)) best = { variance, from: bin, until: bin };
    else if (variance > best.variance * (1 - 1e-9)) best = { ...best, until: bin };
  }
  return LOWEST_DB + (best.from + best.until) / 2 + 0.5;
}

function sorted(levels: Float64Array): Float64Array {
  return Float64Array.from(levels).sort();
}

function percentile(levels: Float64Array, share: number): number {
  return levels[min(levels.length - 1, Math.floor(levels.length * share))];
}

function meanPowerDb(levels: Float64Array): number {
  return 10 * Math.log10(levels.reduce((sum, level) => sum + 10 ** (level / 10), 0) / levels.length);
}

/**
 * Looks for mains hum in the pauses (or, without any, in the quietest fifth): the power at the mains frequency and its
 * harmonics, over the median of what is beside each.
 */
function humOf(
  makeFft: (size: number) => RealFft,
  samples: Float32Array,
  levels: Float64Array,
  thresholdDb: number,
): Calibration['hum'] {
  const spectrum = pauseSpectrum(makeFft, samples, levels, thresholdDb);
  if (!spectrum) return null;
  const found = ([50, 60] as const).map((hz) => ({ hz, overDb: humOver(spectrum, hz) }));
  const best = found[0].overDb >= found[1].overDb ? found[0] : found[1];
  return best.overDb >= HUM_FINDING_DB ? best : null;
}

function pauseSpectrum(
  makeFft: (size: number) => RealFft,
  samples: Float32Array,
  levels: Float64Array,
  thresholdDb: number,
): Float64Array | null {
  const blocks = Math.ceil(FFT_FRAMES / BLOCK_FRAMES);
  const windows = Array.from({ length: max(0, levels.length - blocks + 1) }, (_, start) => ({
    start,
    loudest: levels.subarray(start, start + blocks).reduce((top, level) => max(top, level), LOWEST_DB),
  })).filter(({ start, loudest }) => start % 2 === 0 && loudest > LOWEST_DB);
  if (windows.length === 0) return null;
  windows.sort((a, b) => a.loudest - b.loudest);
  const quiet = windows.filter(({ loudest }) => loudest < thresholdDb);
  const used = quiet.length >= 3 ? quiet : windows.slice(0, max(1, Math.ceil(windows.length / 5)));
  const fft = makeFft(FFT_FRAMES);
  const frame = new Float32Array(FFT_FRAMES);
  const bins = new Float32Array(FFT_FRAMES);
  const powers = new Float64Array(FFT_FRAMES / 2);
  for (const { start } of used) {
    for (let i = 0; i < FFT_FRAMES; i++)
      frame[i] = samples[start * BLOCK_FRAMES + i] * sin((Math.PI * (i + 0.5)) / FFT_FRAMES) ** 2;
    fft.forward(frame, bins);
    for (let bin = 1; bin < powers.length; bin++)
      powers[bin] += bins[2 * bin] * bins[2 * bin] + bins[2 * bin + 1] * bins[2 * bin + 1];
  }
  fft.close();
  return powers;
}

/** By how much (dB) the sum of the harmonics stands over that of the local medians. */
function humOver(spectrum: Float64Array, hz: number): number {
  let lines = 0;
  let beside = 0;
  for (let harmonic = 1; harmonic <= HARMONICS; harmonic++) {
    const bin = (hz * harmonic * FFT_FRAMES) / RATE;
    const [from, until] = [Math.floor(bin) - 1, Math.ceil(bin) + 1];
    const near: number[] = [];
    for (let i = max(1, from - 6); i <= until + 6; i++) if (i < from || i > until) near.push(spectrum[i]);
    near.sort((a, b) => a - b);
    const median = near[Math.floor(near.length / 2)];
    for (let i = from; i <= until; i++) {
      lines += spectrum[i];
      beside += median;
    }
  }
  return beside > 0 ? 10 * Math.log10(lines / beside) : 0;
}
