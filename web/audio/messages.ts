import type { Rehearsable } from '../../core/engine/destinations.ts';

/** The name under which the processor is known to the browser. */
export const PROCESSOR_NAME = 'northfen-rehearsal';

/** What the processor is made with. */
export interface ProcessorOptions {
  rehearsable: Rehearsable;
  stems: boolean[];
  ringFrames: number;
  endFrame: number;
  /** The memory that the report is written to. */
  report: SharedArrayBuffer;
  /** The noise reduction's WebAssembly: the audio thread cannot fetch it. */
  noiseReduction: WebAssembly.Module;
}

/** What the page tells the processor. */
export type ToProcessor =
  | { do: 'feed'; source: number; at: number; left: Float32Array; right: Float32Array; epoch: number }
  | { do: 'play' }
  | { do: 'pause' }
  | { do: 'seek'; frame: number; epoch: number }
  | { do: 'gains'; gains: Float64Array }
  | { do: 'rearrange'; rehearsable: Rehearsable }
  | { do: 'listen'; destination: number }
  /** Which source the second output carries, to be drawn; −1 for none. */
  | { do: 'look'; source: number }
  | { do: 'end'; frame: number };
