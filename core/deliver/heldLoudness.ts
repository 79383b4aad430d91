import { fromDb, toDb } from '../audio/decibel.ts';
import { newStereo, SAMPLE_RATE, type Stereo } from '../audio/planes.ts';
import { KWeighting } from '../measure/kWeighting.ts';
import { gatedLoudness } from '../measure/loudness.ts';
import { shareOf } from '../signal/levelSwitch.ts';
import { MARGIN_DB } from '../signal/limiter.ts';
import { PEAK_FRAMES, PEAK_HISTORY, PEAK_PORTION, peakRoom } from '../signal/peaks.ts';

const { abs, max, min } = Math;

/** Power and peak are kept for each millisecond. */
const CELL_FRAMES = 48;
const CELLS_A_SECOND = SAMPLE_RATE / CELL_FRAMES;
/** Loudness is that of blocks of 400 ms, each 100 ms later than the one before (ITU-R BS.1770-5). */
const BLOCK_CELLS = 0.4 * CELLS_A_SECOND;
const HOP_CELLS = 0.1 * CELLS_A_SECOND;
/** How a limiter's ramp (72 frames) spreads over the cell itself and the two after it, where it looks ahead by 88 frames. */
const RAMP = [0.148, 0.62, 0.232];
const LOOK_CELLS = 2;
/** Peaks between samples are looked for where samples come within this of the highest peak so far (−8 dB): below, the samples say enough. */
const WORTH_A_LOOK = 0.4;

/**
 * Tells how loud a sound is once it is made louder and its peaks are held down, by its power and its peaks in each millisecond: to hold them down
 * at every gain that comes into question, and to measure each, would take longer than to code it. Takes 8 bytes for each millisecond.
 */
export class HeldLoudness {
  private readonly filter = new KWeighting(SAMPLE_RATE);
  private weighted = newStereo(0);
  private readonly history: Stereo = newStereo(PEAK_HISTORY);
  private powers = new Float32Array(1 << 16);
  private peaks = new Float32Array(1 << 16);
  private frames = 0;
  private highest = 0;

  /** Takes the next frames. */
  add(planes: Stereo, frames: number): void {
    const cells = Math.ceil((this.frames + frames) / CELL_FRAMES);
    if (cells > this.powers.length) {
      this.powers = longer(this.powers, cells);
      this.peaks = longer(this.peaks, cells);
    }
    this.addPowers(planes, frames);
    for (let from = 0; from < frames; from += PEAK_PORTION)
      this.addPeaks(planes, from, min(PEAK_PORTION, frames - from));
    this.frames += frames;
  }

  /** The true peak of all of it (dBTP); null where nothing sounds. */
  peakDbtp(): number | null {
    return this.highest > 0 ? toDb(this.highest) : null;
  }

  /** From when on so many seconds are louder than any others (s). */
  loudestFrom(seconds: number): number {
    const hops = new Float64Array(Math.floor(this.frames / CELL_FRAMES / HOP_CELLS) + 1);
    for (let cell = 0; cell < this.frames / CELL_FRAMES; cell++)
      hops[Math.floor(cell / HOP_CELLS)] += this.powers[cell];
    const count = Math.round((seconds * CELLS_A_SECOND) / HOP_CELLS);
    let [power, most, loudest] = [0, 0, 0];
    for (let hop = 0; hop < hops.length; hop++) {
      power += hops[hop] - (hop >= count ? hops[hop - count] : 0);
      if (power > most) [most, loudest] = [power, max(0, hop + 1 - count)];
    }
    return (loudest * HOP_CELLS) / CELLS_A_SECOND;
  }

  /** How loud it is as it came (LUFS); null where nothing sounds. */
  lufs(): number | null {
    return this.loudness(1, Number.POSITIVE_INFINITY, 1);
  }

  /** How loud it is with so much gain, its peaks held down to a ceiling by a limiter that lets go with a time constant. */
  lufsAt(gainDb: number, ceilingDbtp: number, releaseMs: number): number | null {
    const gain = fromDb(gainDb);
    const release = 1 - (1 - shareOf(releaseMs, SAMPLE_RATE)) ** CELL_FRAMES;
    return this.loudness(gain, fromDb(ceilingDbtp - MARGIN_DB) / gain, release);
  }

  /**
   * @param ceiling what no peak is above, before the gain
   * @param release which share of the way back a gain goes in each cell
   */
  private loudness(gain: number, ceiling: number, release: number): number | null {
    const { peaks, powers } = this;
    const hops = new Float64Array(Math.floor(this.frames / CELL_FRAMES / HOP_CELLS));
    const cells = hops.length * HOP_CELLS;
    // What the peaks of the last cells ask for, and what was held in the cell that is looked at and in the one after it.
    let [oldest, older, old, young] = [1, 1, 1, 1];
    let [held, next, now] = [1, 1, 1];
    for (let ahead = 0; ahead < cells + LOOK_CELLS; ahead++) {
      oldest = older;
      older = old;
      old = young;
      const peak = ahead < peaks.length ? peaks[ahead] : 0;
      young = peak > ceiling ? ceiling / peak : 1;
      now = next;
      next = held;
      const least = min(oldest, older, old, young);
      held = least < held ? least : held + release * (least - held);
      const cell = ahead - LOOK_CELLS;
      if (cell < 0) continue;
      const down = min(1, RAMP[0] * now + RAMP[1] * next + RAMP[2] * held);
      hops[Math.floor(cell / HOP_CELLS)] += powers[cell] * (gain * down) ** 2;
    }
    return gatedLoudness(blocksOf(hops));
  }

  private addPowers(planes: Stereo, frames: number): void {
    if (this.weighted[0].length < frames) this.weighted = newStereo(frames);
    const { powers, weighted } = this;
    this.filter.process(planes, 0, frames, weighted);
    const [left, right] = weighted;
    for (let i = 0, at = this.frames; i < frames; ) {
      const cell = Math.floor(at / CELL_FRAMES);
      const end = min(frames, i + (cell + 1) * CELL_FRAMES - at);
      let power = 0;
      at += end - i;
      for (; i < end; i++) power += left[i] * left[i] + right[i] * right[i];
      powers[cell] += power;
    }
  }

  private addPeaks(planes: Stereo, from: number, frames: number): void {
    const room = peakRoom();
    const { peaks } = this;
    room.peaks.fill(0, 0, frames);
    for (const [side, plane] of planes.entries()) {
      room.samples.set(this.history[side]);
      room.samples.set(plane.subarray(from, from + frames), PEAK_HISTORY);
      // With the newest samples, between which nothing can be looked for yet.
      this.highest = max(this.highest, room.highest(frames));
      room.raise(frames, this.highest * WORTH_A_LOOK);
      this.history[side].set(room.samples.subarray(frames, frames + PEAK_HISTORY));
      for (let i = 0, at = PEAK_HISTORY - PEAK_FRAMES; i < frames; i++, at++)
        room.peaks[i] = max(room.peaks[i], abs(room.samples[at]));
    }
    for (let i = 0, at = this.frames + from; i < frames; i++, at++) {
      const cell = Math.floor(at / CELL_FRAMES);
      if (room.peaks[i] > peaks[cell]) peaks[cell] = room.peaks[i];
    }
    this.highest = max(this.highest, room.highestPeak(frames));
  }
}

/** The mean power of each block, from the sums of the steps by which they lie apart. */
function blocksOf(hops: Float64Array): Float64Array {
  const count = BLOCK_CELLS / HOP_CELLS;
  const blocks = new Float64Array(max(0, hops.length - count + 1));
  for (let block = 0; block < blocks.length; block++)
    for (let hop = block; hop < block + count; hop++) blocks[block] += hops[hop];
  return blocks.map((sum) => sum / (BLOCK_CELLS * CELL_FRAMES));
}

function longer(values: Float32Array, least: number): Float32Array<ArrayBuffer> {
  const all = new Float32Array(max(least, 2 * values.length));
  all.set(values);
  return all;
}
