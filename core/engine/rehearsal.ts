import { BLOCK_FRAMES, newStereo, SAMPLE_RATE, type Stereo } from '../audio/planes.ts';
import { Kernels } from '../kernels/kernels.ts';
import { LiveMeter } from '../measure/liveMeter.ts';
import { hear, type Rehearsable } from './destinations.ts';
import { Mixer, mixerRoom } from './mixer.ts';

const { abs, ceil, max, min } = Math;

/** Going from one arrangement, or one destination, to another takes four blocks (10.7 ms). */
const FADE_BLOCKS = 4;
/** A new arrangement runs unheard until its delays are filled, but no longer than this (96 ms). */
const MAX_WARM_BLOCKS = 36;

/** Where things stand in {@link RehearsalEngine.report}. */
export const REPORT = { frame: 0, starved: 1, destinations: 2, perDestination: 3 } as const;

/** How many figures a report has. */
export function reportLength(destinations: number, sources: number): number {
  return REPORT.destinations + REPORT.perDestination * destinations + sources;
}

/** An arrangement that plays: a mixer and what comes out of it for every destination. Its gains are its own, and move. */
interface Arrangement {
  rehearsable: Rehearsable;
  kernels: Kernels;
  mixer: Mixer;
  /** The planes of every destination, into which its outputs are copied or folded. */
  heard: Stereo[];
}

/**
 * Plays a setup block by block: stems are fed ahead of time, everything is mixed for everybody, one destination is listened to, and
 * all are metered. `process` allocates nothing. Who is listened to changes nothing in any mix.
 */
export class RehearsalEngine {
  /** Position, how often sound was late, then for each destination momentary and short-term LUFS and peak, then each source's peak. */
  readonly report: Float64Array;
  private readonly ringFrames: number;
  private readonly rings: Stereo[];
  private readonly fedUntil: Float64Array;
  private readonly hasStem: Uint8Array;
  private readonly inputs: Stereo[];
  private readonly silent: Uint8Array;
  private readonly meters: LiveMeter[];
  private current: Arrangement;
  private next: Arrangement | null = null;
  /** What comes after the arrangement that is being gone over to: one change is finished before the next begins. */
  private waiting: Arrangement | null = null;
  /** Memory of arrangements that are no more. It is used again, for a browser has little to give to the audio thread. */
  private readonly spare: Kernels[] = [];
  private warmBlocks = 0;
  private fadeBlocks = 0;
  private destination = 0;
  private lastDestination = 0;
  private fade = 0;
  private blocks = 0;
  private frame = 0;
  private endFrame: number;
  playing = false;

  /**
   * @param stems which sources have one
   * @param endFrame where it ends by itself
   * @param report to write to, {@link reportLength} long; shared with whoever reads it
   */
  constructor(
    rehearsable: Rehearsable,
    stems: boolean[],
    { ringFrames, endFrame, report }: { ringFrames: number; endFrame: number; report?: Float64Array },
  ) {
    const sources = rehearsable.schedule.sourceIds.length;
    this.ringFrames = ceil(ringFrames / BLOCK_FRAMES) * BLOCK_FRAMES;
    this.endFrame = endFrame;
    this.hasStem = Uint8Array.from(stems, (one) => (one ? 1 : 0));
    this.rings = stems.map((one) => newStereo(one ? this.ringFrames : 0));
    this.fedUntil = new Float64Array(sources);
    this.inputs = stems.map(() => newStereo(BLOCK_FRAMES));
    this.silent = new Uint8Array(sources);
    this.meters = rehearsable.destinations.map(() => new LiveMeter(SAMPLE_RATE));
    this.report = report ?? new Float64Array(reportLength(rehearsable.destinations.length, sources));
    this.current = this.arrange(rehearsable);
  }

  /** The planes of a destination, as the last block left them. */
  heard(destination: number): Stereo {
    return this.current.heard[destination];
  }

  /**
   * Writes the last block of a source, processed, or silence while nothing plays: to look at, not to listen to. Numbers
   * beyond those of the sources are those of the destinations.
   */
  look(source: number, left: Float32Array, right: Float32Array): void {
    if (!this.playing) {
      left.fill(0);
      right.fill(0);
      return;
    }
    const { mixer, heard } = this.current;
    const planes = source < this.rings.length ? mixer.inputs[source] : heard[source - this.rings.length];
    left.set(planes[0]);
    right.set(planes[1]);
  }

  /** Puts a stretch of a source's stem in; `at` is its place on the time line (frames). */
  feed(source: number, at: number, left: Float32Array, right: Float32Array): void {
    const [ringLeft, ringRight] = this.rings[source];
    for (let i = 0; i < left.length; i++) {
      const place = (at + i) % this.ringFrames;
      ringLeft[place] = left[i];
      ringRight[place] = right[i];
    }
    this.fedUntil[source] = at + left.length;
  }

  /** Goes to another place; what was fed is forgotten. */
  seek(frame: number): void {
    this.frame = frame;
    this.fedUntil.fill(frame);
    const { rehearsable } = this.latest;
    for (const one of [this.current, this.next, this.waiting]) if (one) this.spare.push(one.kernels);
    this.current = this.arrange(rehearsable);
    this.next = null;
    this.waiting = null;
    for (const meter of this.meters) meter.reset();
    this.writeReport();
  }

  setEnd(endFrame: number): void {
    this.endFrame = endFrame;
  }

  /** Moves gains of the arrangement that was given last, along short ramps; as many as its schedule has operations. */
  setGains(gains: Float64Array): void {
    const { mixer, rehearsable } = this.latest;
    const { operationGain } = rehearsable.schedule;
    for (let i = 0; i < gains.length; i++) {
      if (operationGain[i] === gains[i]) continue;
      operationGain[i] = gains[i];
      mixer.moveGain(i, gains[i]);
    }
  }

  /** Goes over to another arrangement of the same sources and destinations, without a click. */
  rearrange(rehearsable: Rehearsable): void {
    if (this.waiting) this.spare.push(this.waiting.kernels);
    const arrangement = this.arrange(rehearsable);
    if (this.next) this.waiting = arrangement;
    else this.begin(arrangement);
  }

  /** The arrangement that was given last. */
  private get latest(): Arrangement {
    return this.waiting ?? this.next ?? this.current;
  }

  private arrange({ schedule, destinations }: Rehearsable): Arrangement {
    const own = { ...schedule, operationGain: Float64Array.from(schedule.operationGain) };
    const kernels = this.roomOf(mixerRoom(own, BLOCK_FRAMES));
    return {
      rehearsable: { schedule: own, destinations },
      kernels,
      mixer: new Mixer(own, BLOCK_FRAMES, kernels),
      heard: destinations.map(() => newStereo(BLOCK_FRAMES)),
    };
  }

  private roomOf(floats: number): Kernels {
    const fitting = this.spare.findIndex(({ size }) => size >= floats);
    if (fitting < 0) return new Kernels(floats);
    const [kernels] = this.spare.splice(fitting, 1);
    kernels.clear();
    return kernels;
  }

  private begin(next: Arrangement): void {
    const { operationDelay } = next.rehearsable.schedule;
    const longest = operationDelay.reduce((most, frames) => max(most, frames), 0);
    this.next = next;
    this.warmBlocks = this.playing ? min(MAX_WARM_BLOCKS, ceil(longest / BLOCK_FRAMES)) : 0;
    this.fadeBlocks = FADE_BLOCKS;
  }

  private finish(next: Arrangement): void {
    this.spare.push(this.current.kernels);
    this.current = next;
    this.next = null;
    if (this.waiting) this.begin(this.waiting);
    this.waiting = null;
  }

  /** Listens to somebody else. */
  listen(destination: number): void {
    if (destination === this.destination || destination >= this.current.heard.length) return;
    this.lastDestination = this.destination;
    this.destination = destination;
    this.fade = FADE_BLOCKS;
  }

  /** Writes the next block of what is listened to; silence while it is stopped, or while sound is late. */
  process(left: Float32Array, right: Float32Array): void {
    if (!this.playing || this.isEnded() || !this.load()) {
      left.fill(0);
      right.fill(0);
      return;
    }
    if (this.next && this.fadeBlocks === 0) this.finish(this.next);
    this.mix(this.current);
    if (this.next) this.goOver(this.next);
    this.write(left, right);
    for (let destination = 0; destination < this.meters.length; destination++)
      this.meters[destination].add(this.current.heard[destination], BLOCK_FRAMES);
    this.frame += BLOCK_FRAMES;
    this.blocks += 1;
    if (this.blocks % 8 === 0) this.writeReport();
    else this.report[REPORT.frame] = this.frame;
  }

  private isEnded(): boolean {
    if (this.frame < this.endFrame) return false;
    this.playing = false;
    return true;
  }

  /** Takes the next block out of the rings; false when one of them is behind. */
  private load(): boolean {
    for (let source = 0; source < this.rings.length; source++) {
      if (this.hasStem[source] && this.fedUntil[source] < this.frame + BLOCK_FRAMES) {
        this.report[REPORT.starved] += 1;
        return false;
      }
    }
    const place = this.frame % this.ringFrames;
    const firstSource = REPORT.destinations + REPORT.perDestination * this.meters.length;
    for (let source = 0; source < this.rings.length; source++) {
      let peak = 0;
      if (this.hasStem[source]) {
        for (let side = 0; side < 2; side++) {
          const ring = this.rings[source][side];
          const plane = this.inputs[source][side];
          for (let i = 0; i < BLOCK_FRAMES; i++) {
            const value = ring[place + i];
            plane[i] = value;
            if (abs(value) > peak) peak = abs(value);
          }
        }
      }
      this.silent[source] = peak === 0 ? 1 : 0;
      const known = this.report[firstSource + source];
      this.report[firstSource + source] = max(peak, known * 0.98);
    }
    return true;
  }

  private mix({ mixer, rehearsable, heard }: Arrangement): void {
    const { inputs, silent } = this;
    for (let source = 0; source < inputs.length; source++) {
      mixer.inputs[source][0].set(inputs[source][0]);
      mixer.inputs[source][1].set(inputs[source][1]);
    }
    mixer.process(silent, 0, BLOCK_FRAMES);
    for (let destination = 0; destination < heard.length; destination++)
      hear(mixer.outputs, rehearsable.destinations[destination], heard[destination], BLOCK_FRAMES);
  }

  /** Runs the coming arrangement beside the present one, and fades over to it once its delays are filled. */
  private goOver(next: Arrangement): void {
    this.mix(next);
    if (this.warmBlocks > 0) {
      this.warmBlocks -= 1;
      return;
    }
    const from = 1 - this.fadeBlocks / FADE_BLOCKS;
    const step = 1 / FADE_BLOCKS / BLOCK_FRAMES;
    for (let destination = 0; destination < next.heard.length; destination++) {
      for (let side = 0; side < 2; side++) {
        const old = this.current.heard[destination][side];
        const coming = next.heard[destination][side];
        for (let i = 0; i < BLOCK_FRAMES; i++) old[i] += (coming[i] - old[i]) * (from + i * step);
      }
    }
    this.fadeBlocks -= 1;
  }

  private write(left: Float32Array, right: Float32Array): void {
    const [hereLeft, hereRight] = this.current.heard[this.destination];
    if (this.fade === 0) {
      left.set(hereLeft);
      right.set(hereRight);
      return;
    }
    const [lastLeft, lastRight] = this.current.heard[this.lastDestination];
    const from = 1 - this.fade / FADE_BLOCKS;
    const step = 1 / FADE_BLOCKS / BLOCK_FRAMES;
    for (let i = 0; i < BLOCK_FRAMES; i++) {
      const share = from + i * step;
      left[i] = lastLeft[i] + (hereLeft[i] - lastLeft[i]) * share;
      right[i] = lastRight[i] + (hereRight[i] - lastRight[i]) * share;
    }
    this.fade -= 1;
  }

  private writeReport(): void {
    const { report, meters } = this;
    report[REPORT.frame] = this.frame;
    for (let destination = 0; destination < meters.length; destination++) {
      const at = REPORT.destinations + REPORT.perDestination * destination;
      report[at] = meters[destination].momentaryLufs;
      report[at + 1] = meters[destination].shortTermLufs;
      report[at + 2] = max(meters[destination].takePeak(), report[at + 2] * 0.95);
    }
  }
}
