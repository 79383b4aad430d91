import type { Stereo } from '../audio/planes.ts';
import { pairRoom, ROOM_FRAMES } from '../kernels/pairRoom.ts';
import { coarser } from './waveform.ts';

const { abs, log10, max, min, sqrt } = Math;

/** What was counted of one track, beside its loudness. */
export interface TrackStats {
  /** The share of its time in which nothing sounds, 0 to 1. */
  silentShare: number;
  /** The level of the quietest tenth of what sounds at all (dBFS, RMS of 50 ms); null where nothing sounds. */
  noiseFloorDb: number | null;
  /** In how many places it is clipped: three or more samples in a row at full scale. */
  clippedPlaces: number;
  /** Both sides the same, one side silent, one side the other turned over, or two of their own. */
  sides: 'one channel' | 'two alike' | 'left only' | 'right only' | 'turned over' | 'stereo';
}

/** Blocks of so long (s) are silent or not. */
const BLOCK_S = 0.05;
const SILENT_RMS = 10 ** (-75 / 20);
/** A sample this near to full scale is at it. */
const FULL = 0.9995;
const CLIP_ROW = 3;
/** Sides are alike when what differs is this much below them (as a share of power; −40 dB), so that lossy coding does not matter. */
const ALIKE = 1e-4;
/** One side is silent when it has less than this share of the other's power. */
const ONE_SIDED = 1e-5;

/** Counts silence, clipping and what both sides have in common, as a track passes by. */
export class TrackStatsMeter {
  private readonly blockFrames: number;
  private readonly levels: number[] = [];
  private readonly rows: number[];
  private readonly room = pairRoom();
  private readonly peaks: number[] = [];
  private readonly power: [number, number] = [0, 0];
  private peak = 0;
  private filled = 0;
  private clipped = 0;
  private left = 0;
  private right = 0;
  private product = 0;
  private readonly channels: number;

  constructor(sampleRate: number, channels: number) {
    this.blockFrames = Math.round(BLOCK_S * sampleRate);
    this.channels = channels;
    this.rows = new Array(channels).fill(0);
  }

  /** Takes the next frames of every channel. */
  add(planes: readonly Float32Array[], frames: number): void {
    const pair: Stereo = [planes[0], planes[1] ?? planes[0]];
    for (let from = 0; from < frames; ) {
      const count = min(ROOM_FRAMES, this.blockFrames - this.filled, frames - from);
      this.addPiece(pair, from, count);
      from += count;
      if (this.filled === this.blockFrames) this.closeBlock();
    }
  }

  private addPiece(pair: Stereo, from: number, count: number): void {
    const { kernels, leftAt, rightAt } = this.room;
    const { dot, highest } = kernels.loops;
    this.room.take(pair, from, count);
    const [left, right] = [dot(leftAt, leftAt, count), dot(rightAt, rightAt, count)];
    this.left += left;
    this.right += right;
    this.product += dot(leftAt, rightAt, count);
    this.power[0] += left;
    this.power[1] += right;
    this.filled += count;
    for (let channel = 0; channel < this.channels; channel++) {
      const peak = highest(channel === 0 ? leftAt : rightAt, count);
      this.peak = max(this.peak, peak);
      if (peak >= FULL || this.rows[channel] > 0)
        this.countClips(channel, pair[channel].subarray(from, from + count), count);
    }
  }

  /** The outline for drawing: the largest magnitude of each 50 ms, or of several of them, so that there are at most so many. */
  outline(most: number): number[] {
    return coarser(this.peaks, most);
  }

  result(): TrackStats {
    if (this.filled > this.blockFrames / 2) this.closeBlock();
    const sounding = this.levels.filter((rms) => rms >= SILENT_RMS).sort((a, b) => a - b);
    const blocks = max(1, this.levels.length);
    return {
      silentShare: (this.levels.length - sounding.length) / blocks,
      noiseFloorDb: sounding.length > 0 ? 20 * log10(sounding[Math.floor((sounding.length - 1) / 10)]) : null,
      clippedPlaces: this.clipped,
      sides: this.sides(),
    };
  }

  private sides(): TrackStats['sides'] {
    const { left, right, product } = this;
    if (this.channels < 2) return 'one channel';
    const whole = left + right;
    const [sum, difference] = [whole + 2 * product, whole - 2 * product];
    if (whole > 0 && right <= ONE_SIDED * whole) return 'left only';
    if (whole > 0 && left <= ONE_SIDED * whole) return 'right only';
    if (difference <= ALIKE * max(sum, 1e-20)) return 'two alike';
    return sum <= ALIKE * difference ? 'turned over' : 'stereo';
  }

  private closeBlock(): void {
    this.levels.push(sqrt(max(...this.power) / max(1, this.filled)));
    this.peaks.push(this.peak);
    this.power.fill(0);
    this.peak = 0;
    this.filled = 0;
  }

  private countClips(channel: number, plane: Float32Array, frames: number): void {
    let row = this.rows[channel];
    for (let i = 0; i < frames; i++) {
      if (abs(plane[i]) >= FULL) {
        row += 1;
        if (row === CLIP_ROW) this.clipped += 1;
      } else row = 0;
    }
    this.rows[channel] = min(row, CLIP_ROW);
  }
}
