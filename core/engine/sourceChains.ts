import { SAMPLE_RATE, type Stereo } from '../audio/planes.ts';
import { Chain } from '../processors/chain.ts';
import { keysOf, type Processing, stepsOn } from '../processors/processing.ts';

/** A source, as far as its processing is concerned. */
export interface Processed {
  id: string;
  processing?: Processing | null;
}

/** A processing with planes of its own for what comes out, so that what goes in stays as it is. */
export class CopyingChain {
  private readonly chain: Chain;
  private readonly planes: Stereo;

  /**
   * @param planes to work in, as long as the longest stretch that a call of `process` ends at
   * @param place of all chains that work at the same time
   */
  constructor(processing: Processing, sourceIds: string[], planes: Stereo, place = 0) {
    this.chain = new Chain(processing, SAMPLE_RATE, sourceIds, place);
    this.planes = planes;
  }

  /** Tells whether there is nothing to process while silence goes in. */
  get isAtRest(): boolean {
    return this.chain.isAtRest;
  }

  /** Returns the planes in which the processed sound stands from index `start` up to `end`. */
  process(input: Stereo, start: number, end: number, sources: readonly Stereo[]): Stereo {
    const { planes } = this;
    for (let side = 0; side < 2; side++) {
      const from = input[side];
      const to = planes[side];
      for (let i = start; i < end; i++) to[i] = from[i];
    }
    this.chain.process(planes, start, end, sources);
    return planes;
  }
}

/** The processing of all sources. Those that others listen to are processed first: what is listened to is what comes out. */
export class SourceChains {
  private readonly chains: (Chain | null)[];
  private readonly order: number[];

  constructor(sources: Processed[]) {
    const ids = sources.map(({ id }) => id);
    this.chains = sources.map(({ processing }, place) =>
      stepsOn(processing ?? []).length > 0 ? new Chain(processing ?? [], SAMPLE_RATE, ids, place) : null,
    );
    this.order = keysFirst(sources);
  }

  /** Tells whether something is done to a source. */
  has(source: number): boolean {
    return this.chains[source] !== null;
  }

  /**
   * Processes every source in place, from index `start` up to `end`.
   * @param planes one pair for each source
   * @param silent non-zero where a source is silent: set to 0 where something comes out nevertheless
   */
  process(planes: readonly Stereo[], silent: Uint8Array, start: number, end: number): void {
    for (let i = 0; i < this.order.length; i++) {
      const source = this.order[i];
      const chain = this.chains[source];
      if (chain === null || (silent[source] !== 0 && chain.isAtRest)) continue;
      chain.process(planes[source], start, end, planes);
      silent[source] = 0;
    }
  }
}

/** The places of the sources, each after those that it listens to. */
function keysFirst(sources: Processed[]): number[] {
  const order: number[] = [];
  const visited = new Set<number>();
  const visit = (index: number) => {
    if (index < 0 || visited.has(index)) return;
    visited.add(index);
    for (const key of keysOf(sources[index].processing ?? []))
      visit(sources.findIndex(({ id }) => id === key));
    order.push(index);
  };
  for (let index = 0; index < sources.length; index++) visit(index);
  return order;
}
