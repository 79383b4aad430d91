/** The part of the package's interface that `noiseReduction.ts` uses; the package ships no types. */
declare module '@echogarden/rnnoise-wasm' {
  interface Rnnoise {
    readonly HEAPF32: Float32Array;
    _rnnoise_create(model: number): number;
    _rnnoise_destroy(state: number): void;
    /** Both addresses of 480 floats, which may be the same. */
    _rnnoise_process_frame(state: number, out: number, input: number): number;
    _malloc(bytes: number): number;
    _free(address: number): void;
  }
  interface Options {
    instantiateWasm?: (
      imports: WebAssembly.Imports,
      receive: (instance: WebAssembly.Instance) => void,
    ) => Record<string, unknown>;
  }
  function createRnnoise(options?: Options): Promise<Rnnoise>;
  // biome-ignore lint/style/noDefaultExport: this is how the package exports it
  export default createRnnoise;
}
