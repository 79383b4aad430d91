/** The part of the package's interface that `fft.ts` uses; the package ships no types. */
declare module '@echogarden/pffft-wasm/simd' {
  interface Pffft {
    readonly HEAPF32: Float32Array;
    _pffft_new_setup(size: number, transform: 0 | 1): number;
    _pffft_destroy_setup(setup: number): void;
    _pffft_aligned_malloc(bytes: number): number;
    _pffft_aligned_free(address: number): void;
    _pffft_transform_ordered(
      setup: number,
      input: number,
      output: number,
      work: number,
      direction: 0 | 1,
    ): void;
  }
  const load: () => Promise<Pffft>;
  // biome-ignore lint/style/noDefaultExport: this is how the package exports it
  export default load;
}
