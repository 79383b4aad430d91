/** What the core uses of WebAssembly, which browsers, worklets and Node all have. */
declare namespace WebAssembly {
  interface Imports {
    [module: string]: { [name: string]: unknown };
  }
  class Memory {
    constructor(descriptor: { initial: number });
    readonly buffer: ArrayBuffer;
  }
  class Module {
    constructor(bytes: Uint8Array);
  }
  class Instance {
    constructor(module: Module, imports: Imports);
    readonly exports: Record<string, unknown>;
  }
}
