/** What the core uses of WebAssembly, which browsers, worklets and Node all have. */
declare namespace WebAssembly {
  class Memory {
    constructor(descriptor: { initial: number });
    readonly buffer: ArrayBuffer;
  }
  class Module {
    constructor(bytes: Uint8Array);
  }
  class Instance {
    constructor(module: Module, imports: Record<string, Record<string, unknown>>);
    readonly exports: Record<string, unknown>;
  }
}
