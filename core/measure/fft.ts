import loadPffft from '@echogarden/pffft-wasm/simd';

type Library = Awaited<ReturnType<typeof loadPffft>>;

/**
 * A Fourier transform of real signals of one fixed length. The spectrum is interleaved: index 2k and 2k+1 hold the
 * real and imaginary part of bin k, except that index 1 holds the (real) Nyquist bin. Neither direction scales:
 * forward, then inverse, multiplies by the length.
 */
export class RealFft {
  readonly size: number;
  private readonly library: Library;
  private readonly setup: number;
  private readonly input: number;
  private readonly output: number;
  private readonly work: number;
  private isOpen = true;

  constructor(library: Library, size: number) {
    if (!isPossible(size))
      throw new Error(`an FFT of ${size} points is not possible; use 2^a·3^b·5^c with a of 5 or more`);
    this.library = library;
    this.size = size;
    this.setup = library._pffft_new_setup(size, 0);
    this.input = library._pffft_aligned_malloc(size * 4);
    this.output = library._pffft_aligned_malloc(size * 4);
    this.work = library._pffft_aligned_malloc(size * 4);
    if (this.setup === 0 || this.input === 0 || this.output === 0 || this.work === 0)
      throw new Error('there is no memory left for a Fourier transform');
    openTransforms += 1;
  }

  /** Transforms `size` samples into `size` interleaved spectrum values. */
  forward(samples: Float32Array, spectrum: Float32Array): void {
    this.transform(samples, spectrum, 0);
  }

  /** Transforms `size` interleaved spectrum values back into `size` samples. */
  inverse(spectrum: Float32Array, samples: Float32Array): void {
    this.transform(spectrum, samples, 1);
  }

  /** Gives the memory back; the transform cannot be used afterwards. Closing it again does nothing. */
  close(): void {
    if (!this.isOpen) return;
    this.isOpen = false;
    openTransforms -= 1;
    for (const address of [this.input, this.output, this.work]) this.library._pffft_aligned_free(address);
    this.library._pffft_destroy_setup(this.setup);
  }

  private transform(from: Float32Array, to: Float32Array, direction: 0 | 1): void {
    this.library.HEAPF32.set(from.length === this.size ? from : from.subarray(0, this.size), this.input / 4);
    this.library._pffft_transform_ordered(this.setup, this.input, this.output, this.work, direction);
    to.set(this.library.HEAPF32.subarray(this.output / 4, this.output / 4 + this.size));
  }
}

/** The library takes lengths 2^a·3^b·5^c with a of 5 or more, and ends the process for others. */
function isPossible(size: number): boolean {
  if (!Number.isInteger(size) || size <= 0 || size % 32 !== 0) return false;
  let rest = size;
  for (const factor of [2, 3, 5]) while (rest % factor === 0) rest /= factor;
  return rest === 1;
}

let library: Promise<Library> | null = null;
let openTransforms = 0;

/** Makes transforms of a given size. */
export type MakeFft = (size: number) => RealFft;

/**
 * Loads the FFT library (once) and returns a maker of transforms. Their memory lies outside of what is collected as garbage:
 * whoever makes one closes it. Where a whole task makes some, use {@link withFft}.
 */
export async function loadFft(): Promise<MakeFft> {
  library ??= loadPffft();
  const loaded = await library;
  return (size) => new RealFft(loaded, size);
}

/**
 * Runs some work with a maker of transforms and closes every transform that it made, also when it throws.
 * @returns what the work returns
 *
 * @example
 * const found = await withFft((makeFft) => calibrate(makeFft, samples));
 */
export async function withFft<T>(work: (makeFft: MakeFft) => T | Promise<T>): Promise<T> {
  const make = await loadFft();
  const made: RealFft[] = [];
  try {
    return await work((size) => {
      const fft = make(size);
      made.push(fft);
      return fft;
    });
  } finally {
    for (const fft of made) fft.close();
  }
}

/** Returns how many transforms of this thread are open, and how much memory the library has taken (bytes). */
export async function fftMemory(): Promise<{ open: number; bytes: number }> {
  library ??= loadPffft();
  return { open: openTransforms, bytes: (await library).HEAPF32.byteLength };
}
