import createRnnoise from '@echogarden/rnnoise-wasm';
import { fromDb } from '../audio/decibel.ts';
import { BLOCK_FRAMES, type Stereo } from '../audio/planes.ts';

type Library = Awaited<ReturnType<typeof createRnnoise>>;

/** The library works on 10 ms at 48 kHz, and gives back the 10 ms before. */
const FRAME = 480;
/** The library counts as 16-bit sound does. */
const SCALE = 32_768;
const BYTES = Float32Array.BYTES_PER_ELEMENT;
/** After so many frames of silence nothing is left in it (1 s). */
const REST_FRAMES = 48_000;

let library: Library | null = null;
let loading: Promise<Library> | null = null;

/**
 * Loads the noise reduction; to be awaited once before a processing is set up that may use it.
 * @param compiled the library's WebAssembly, where it cannot be read from its package (in an audio worklet)
 */
export async function loadNoiseReduction(compiled?: WebAssembly.Module): Promise<void> {
  loading ??= createRnnoise(
    compiled && {
      instantiateWasm: (imports, receive) => {
        const instance = new WebAssembly.Instance(compiled, imports);
        receive(instance);
        return instance.exports;
      },
    },
  );
  library = await loading;
}

/** Gives the states of reductions that are no longer used back to the library. */
const forgotten = new FinalizationRegistry((sides: { state: number; work: number }[]) => {
  for (const { state, work } of sides) {
    library?._rnnoise_destroy(state);
    library?._free(work);
  }
});

/**
 * Takes noise out of a voice with RNNoise (Valin, A Hybrid DSP/Deep Learning Approach to Real-Time Full-Band Speech
 * Enhancement, 2018), at 48 kHz. Of what it takes out a share stays in, so that the noise is quieter by a stated amount and
 * the voice does not go hollow. A sound whose sides are equal costs half.
 */
export class NoiseReduction {
  private readonly library: Library;
  private readonly floor: number;
  private readonly sides: [Side, Side];
  private isMono = true;
  private filled = 0;
  private quiet = REST_FRAMES;

  /**
   * @param place of all that work at the same time: each begins its frames a block after the one before, so that they do not
   * all come to their ends in the same block
   * @throws when {@link loadNoiseReduction} was not awaited before
   */
  constructor({ reduceDb }: { reduceDb: number }, place = 0) {
    if (!library) throw new Error('the noise reduction was not loaded');
    this.filled = (place * BLOCK_FRAMES) % FRAME;
    this.library = library;
    this.floor = fromDb(-reduceDb);
    this.sides = [new Side(library), new Side(library)];
    forgotten.register(
      this,
      this.sides.map(({ state, work }) => ({ state, work })),
    );
  }

  /** Tells whether nothing would come out of it as long as silence goes in. */
  get isAtRest(): boolean {
    return this.quiet >= REST_FRAMES;
  }

  /** Works on both sides in place; what comes out is `NOISE_REDUCTION_FRAMES` late. */
  process(planes: Stereo, start: number, end: number): void {
    this.look(planes, start, end);
    for (let at = start; at < end; ) {
      const count = Math.min(end - at, FRAME - this.filled);
      for (let side = 0; side < (this.isMono ? 1 : 2); side++)
        this.sides[side].exchange(planes[side], at, count, this.filled);
      this.filled += count;
      at += count;
      if (this.filled === FRAME) this.finishFrame();
    }
    if (this.isMono) for (let i = start; i < end; i++) planes[1][i] = planes[0][i];
  }

  /** Once the sides differ, the right one goes on by itself from where both were. */
  private look([left, right]: Stereo, start: number, end: number): void {
    let differs = false;
    for (let i = start; i < end; i++) {
      if (left[i] !== right[i]) differs = true;
      this.quiet = left[i] === 0 && right[i] === 0 ? this.quiet + 1 : 0;
    }
    if (!differs || !this.isMono) return;
    this.isMono = false;
    this.sides[1].follow(this.sides[0]);
  }

  private finishFrame(): void {
    this.sides[0].finish(this.library, this.floor);
    if (!this.isMono) this.sides[1].finish(this.library, this.floor);
    this.filled = 0;
  }
}

/** One side: the frame that is gathered, the one before it, and what comes out meanwhile. */
class Side {
  readonly state: number;
  readonly work: number;
  private readonly coming = new Float32Array(FRAME);
  private readonly before = new Float32Array(FRAME);
  private readonly leaving = new Float32Array(FRAME);

  constructor(library: Library) {
    this.state = library._rnnoise_create(0);
    this.work = library._malloc(FRAME * BYTES);
  }

  /** Goes on where the other side is; what the library has learnt of the noise it learns anew. */
  follow(other: Side): void {
    this.coming.set(other.coming);
    this.before.set(other.before);
    this.leaving.set(other.leaving);
  }

  /** Takes samples in, and puts those that leave in their place. */
  exchange(plane: Float32Array, at: number, count: number, filled: number): void {
    for (let i = 0; i < count; i++) {
      this.coming[filled + i] = plane[at + i];
      plane[at + i] = this.leaving[filled + i];
    }
  }

  /** Reduces the noise of the frame that is full; the library gives back the one before. */
  finish(library: Library, floor: number): void {
    const { coming, before, leaving, work } = this;
    const at = work / BYTES;
    for (let i = 0; i < FRAME; i++) library.HEAPF32[at + i] = coming[i] * SCALE;
    library._rnnoise_process_frame(this.state, work, work);
    const heap = library.HEAPF32;
    for (let i = 0; i < FRAME; i++) {
      const clean = heap[at + i] / SCALE;
      leaving[i] = clean + floor * (before[i] - clean);
      before[i] = coming[i];
    }
  }
}
