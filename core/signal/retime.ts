import { Kernels } from '../kernels/kernels.ts';

const { abs, ceil, floor, max, min, PI, sin, sqrt } = Math;

/** How finely the places between two samples are tabulated. */
const PHASES = 512;

/** How a new sample is made of old ones: how many to each side (an even number), and the shape of the Kaiser window (Kaiser and Schafer 1980). */
export interface Interpolation {
  half: number;
  beta: number;
}

/** For all that can be heard at 48 kHz: side lobes lie 90 dB down. */
const WHOLE_BAND: Interpolation = { half: 32, beta: 9 };
/** For sounds that end a sixth of their band early: side lobes lie 75 dB down. */
export const WITHOUT_TOP: Interpolation = { half: 14, beta: 7.3 };

/** So many samples are read from at once. */
const ROOM_FRAMES = 1 << 14;

/** What samples are made in: one for all who make them in the same way, since each is done with it before the next begins. */
class Room {
  private readonly kernels: Kernels;
  private readonly table: Float32Array;
  private readonly sound: Float32Array;
  private readonly made: Float32Array;
  private readonly half: number;

  constructor(interpolation: Interpolation) {
    const table = tableOf(interpolation);
    this.half = interpolation.half;
    this.kernels = new Kernels(table.length + 2 * (ROOM_FRAMES + 8));
    this.table = this.kernels.copyOf(table);
    this.sound = this.kernels.floats(ROOM_FRAMES);
    this.made = this.kernels.floats(ROOM_FRAMES);
  }

  /**
   * Fills `into` with a sound, as {@link Retimer} says; before and after the sound it is silent.
   * @param oldFrom which frame comes first in `old`; @param made which frame of the new sound comes first
   */
  read(old: Float32Array, oldFrom: number, { startsAt, step }: Way, made: number, into: Float32Array): void {
    const { half, sound, table } = this;
    const most = max(1, min(ROOM_FRAMES, floor((ROOM_FRAMES - 2 * half - 2) / step)));
    for (let done = 0; done < into.length; done += most) {
      const count = min(most, into.length - done);
      const number = made + done;
      const from = floor(startsAt + number * step) - half + 1;
      const first = from - oldFrom;
      const end = first + ceil(count * step) + 2 * half + 1;
      const there = old.subarray(max(0, first), max(0, min(end, old.length)));
      sound.fill(0, 0, end - first);
      if (there.length > 0) sound.set(there, max(0, -first));
      this.kernels.loops.interpolate(
        sound.byteOffset,
        from,
        startsAt,
        step,
        number,
        count,
        table.byteOffset,
        PHASES,
        2 * half,
        this.made.byteOffset,
      );
      into.set(this.made.subarray(0, count), done);
    }
  }
}

/** Where a new sound begins in the old one, and how many frames of that it takes for each of its own. */
interface Way {
  startsAt: number;
  step: number;
}

const rooms = new Map<Interpolation, Room>();

function roomFor(interpolation: Interpolation): Room {
  const room = rooms.get(interpolation) ?? new Room(interpolation);
  rooms.set(interpolation, room);
  return room;
}

/** For each phase the weights of the samples around it; one phase more, so that two can be blended. */
function tableOf({ half, beta }: Interpolation): Float32Array {
  const taps = 2 * half;
  const table = new Float32Array((PHASES + 1) * taps);
  for (let phase = 0; phase <= PHASES; phase++) {
    for (let tap = 0; tap < taps; tap++) {
      const x = tap - (half - 1) - phase / PHASES;
      const window = abs(x) >= half ? 0 : bessel(beta * sqrt(1 - (x / half) ** 2)) / bessel(beta);
      table[phase * taps + tap] = window * (abs(x) < 1e-9 ? 1 : sin(PI * x) / (PI * x));
    }
  }
  return table;
}

/** The modified Bessel function of order zero, by its series. */
function bessel(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; k < 50 && term > 1e-12 * sum; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/**
 * Moves sound in time as it passes by, and lets it run a little faster or slower: a frame of the new sound is the old sound at
 * `startsAt + frame · step`, interpolated by a windowed sine cardinal. Before and after the old sound it is silent. For clocks that differ by
 * a few parts in a thousand at most: nothing is filtered against aliases.
 */
export class Retimer {
  private readonly channels: number;
  private readonly way: Way;
  /** What is held of the old sound, and which of its frames comes first. */
  private held: Float32Array[];
  private heldFrom: number;
  private readonly half: number;
  private readonly room: Room;
  private made = 0;

  /** @param startsAt frame of the old sound, which may be negative; @param step frames of the old sound in one of the new */
  constructor(channels: number, startsAt: number, step: number, interpolation = WHOLE_BAND) {
    this.half = interpolation.half;
    this.room = roomFor(interpolation);
    this.heldFrom = -this.half;
    this.channels = channels;
    this.way = { startsAt, step };
    this.held = Array.from({ length: channels }, () => new Float32Array(this.half));
  }

  /** Takes the next frames of the old sound and returns what is ready of the new one, but no more than so many frames of it in all. */
  push(planes: readonly Float32Array[], mostInAll = Number.POSITIVE_INFINITY): Float32Array[] {
    this.held = this.held.map((before, channel) => {
      const joined = new Float32Array(before.length + planes[channel].length);
      joined.set(before);
      joined.set(planes[channel], before.length);
      return joined;
    });
    const end = this.heldFrom + this.held[0].length;
    const ready = max(0, ceil((end - this.half - this.way.startsAt) / this.way.step - this.made));
    return this.make(max(0, min(ready, mostInAll - this.made)));
  }

  /** Returns the rest, so that there are so many frames of the new sound in all: silence where the old one has ended. */
  flush(inAll: number, mostAtOnce: number): Float32Array[] {
    const count = min(mostAtOnce, inAll - this.made);
    if (count <= 0) return this.make(0);
    const needed = ceil(this.way.startsAt + (this.made + count) * this.way.step) + this.half + 1;
    const missing = max(0, needed - this.heldFrom - this.held[0].length);
    const silence = new Float32Array(missing);
    return this.push(
      Array.from({ length: this.channels }, () => silence),
      this.made + count,
    );
  }

  private make(count: number): Float32Array[] {
    const made = this.held.map((old) => this.interpolated(old, count));
    this.made += count;
    // What lies before the next frame’s first sample is not needed again.
    const from = floor(this.way.startsAt + this.made * this.way.step) - this.half;
    const spare = min(this.held[0].length, max(0, from - this.heldFrom));
    this.held = this.held.map((plane) => plane.slice(spare));
    this.heldFrom += spare;
    return made;
  }

  private interpolated(old: Float32Array, count: number): Float32Array {
    const made = new Float32Array(count);
    this.room.read(old, this.heldFrom, this.way, this.made, made);
    return made;
  }
}
