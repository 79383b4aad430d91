import { newStereo, type Stereo } from '../audio/planes.ts';
import type { Processing } from '../processors/processing.ts';
import { DelayLine } from '../signal/delayLine.ts';
import { foldToMono } from '../signal/mono.ts';
import { CopyingChain, type Processed, SourceChains } from './sourceChains.ts';

/** A source as it arrives by some path: processed on its way, late by so many frames, and perhaps folded to mono. */
export interface Sound {
  sourceId: string;
  delayFrames: number;
  mono: boolean;
  /** What is done to it on its way, beside the processing of the source. */
  processing: Processing;
}

/** Makes sounds out of the recordings of sources, portion by portion, as they arrive somewhere. */
export class ArrivingSounds {
  private readonly sources: SourceChains;
  private readonly arriving: ArrivingSound[];
  /** Planes for those that are processed, so that what comes in stays as it is. */
  private readonly processed: (Stereo | null)[];
  private readonly planes: Stereo[];
  private readonly silent: Uint8Array;

  /** @param maxFrames the longest portion */
  constructor(sources: Processed[], sounds: Sound[], maxFrames: number) {
    const ids = sources.map(({ id }) => id);
    this.sources = new SourceChains(sources);
    this.arriving = sounds.map((sound) => new ArrivingSound(sound, ids, maxFrames));
    this.processed = sources.map((_, source) => (this.sources.has(source) ? newStereo(maxFrames) : null));
    this.planes = sources.map(() => newStereo(0));
    this.silent = new Uint8Array(sources.length);
  }

  /**
   * Takes the next `frames` frames of every source, and returns those of every sound.
   * @param inputs one pair of planes for each source; they stay as they are
   */
  next(inputs: Stereo[], frames: number): Stereo[] {
    const { planes } = this;
    for (let source = 0; source < inputs.length; source++)
      planes[source] = copied(inputs[source], this.processed[source], frames);
    this.sources.process(planes, this.silent, 0, frames);
    return this.arriving.map((sound) => sound.next(planes, frames));
  }
}

function copied(input: Stereo, to: Stereo | null, frames: number): Stereo {
  if (!to) return input;
  for (let side = 0; side < 2; side++) to[side].set(input[side].subarray(0, frames));
  return to;
}

class ArrivingSound {
  private readonly source: number;
  private readonly mono: boolean;
  private readonly chain: CopyingChain | null;
  private readonly delay: DelayLine | null;
  private readonly out: Stereo | null;

  constructor({ sourceId, delayFrames, mono, processing }: Sound, ids: string[], maxFrames: number) {
    this.source = ids.indexOf(sourceId);
    this.chain = processing.length > 0 ? new CopyingChain(processing, ids, newStereo(maxFrames)) : null;
    this.mono = mono;
    this.delay = delayFrames > 0 ? new DelayLine(delayFrames, 0) : null;
    this.out = this.delay || mono ? newStereo(maxFrames) : null;
  }

  next(sources: Stereo[], frames: number): Stereo {
    const raw = sources[this.source];
    const processed = this.chain ? this.chain.process(raw, 0, frames, sources) : raw;
    const { out } = this;
    if (!out) return processed;
    if (this.delay) this.delay.process(processed, false, 0, frames, out);
    else for (let side = 0; side < 2; side++) out[side].set(processed[side].subarray(0, frames));
    if (this.mono) foldToMono(out, 0, frames);
    return out;
  }
}
