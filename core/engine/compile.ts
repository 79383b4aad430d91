import { fromDb, toDb } from '../audio/decibel.ts';
import { type Processing, stepsOn } from '../processors/processing.ts';
import { destinationsOf } from '../reach/destinations.ts';
import { type GraphEdge, type GraphOptions, graphOf, legKey } from '../reach/graph.ts';
import { ownGainDb } from '../reach/reach.ts';
import { channelCount } from '../setup/channels.ts';
import type { Setup, Track } from '../setup/schema.ts';

/** An output that the engine mixes: one destination that listens, a track of the sheet, or two channels of a multichannel track. */
export interface Output {
  id: string;
  name: string;
  layout: 'mono' | 'stereo';
  /** Which pair of channels it is, counted from zero; 0 for all but multichannel tracks. */
  pair: number;
}

/**
 * A setup made flat for the render loop. Sound lies in planes (stereo pairs): first one a source, then one a place on
 * the way that needs its own, then one for each output. Operation `i` adds the plane `operationFrom[i]` to `operationTo[i]`, times
 * `operationGain[i]`; the operations are in an order in which every plane is complete before it is read.
 */
export interface Schedule {
  sourceIds: string[];
  outputs: Output[];
  planes: number;
  operationFrom: Int32Array;
  operationTo: Int32Array;
  operationGain: Float64Array;
  /** Frames by which the operation is late. */
  operationDelay: Int32Array;
  /** 1 where both sides are folded into one on the way. */
  operationMono: Uint8Array;
  /** 0 for both sides, {@link LEFT_ALONE} or {@link RIGHT_ALONE} where it goes to one of them. */
  operationSide: Uint8Array;
  /** Parts per million by which the delay grows with time; 0 for most. */
  operationDrift: Float64Array;
  /** What is done to each source before anything else; null for nothing. */
  chains: (Processing | null)[];
  /** What is done to the sound of each operation alone; null for nothing. */
  operationChains: (Processing | null)[];
  /** The planes that the hum of an analogue line is added to. */
  hums: number[];
}

export const LEFT_ALONE = 1;
export const RIGHT_ALONE = 2;

/** What is compiled: tracks alone, or what is heard too; of one scene, or over all pickups. */
export interface CompileOptions extends GraphOptions {
  only?: 'tracks' | 'everything';
  /** Legs (see {@link legKey}) that are kept, but let nothing through for now: muting them needs no new schedule. */
  silenced?: ReadonlySet<string>;
}

/** Compiles a setup to a schedule. */
export function compile(
  setup: Setup,
  { only = 'everything', scene, silenced }: CompileOptions = {},
): Schedule {
  const tracks = setup.tracks.flatMap(outputsOf);
  const listening = destinationsOf(setup)
    .filter(({ kind }) => kind !== 'live' && kind !== 'vod' && kind !== 'file')
    .map(({ id, name }): Output => ({ id, name, layout: 'stereo', pair: 0 }));
  return new Compiler(setup, only === 'tracks' ? tracks : [...listening, ...tracks], {
    scene,
    silenced,
  }).compile();
}

function outputsOf(track: Track): Output[] {
  const { id, name, layout } = track;
  if (layout !== 'multichannel') return [{ id, name, layout, pair: 0 }];
  return Array.from({ length: Math.ceil(channelCount(track) / 2) }, (_, pair) => ({
    id,
    name,
    layout: 'stereo' as const,
    pair,
  }));
}

/** Where the sound of a place can be read: a plane, and a gain to apply; null where nothing arrives. */
type Tap = { plane: number; gain: number } | null;

interface Operation {
  from: number;
  to: number;
  gain: number;
  delay: number;
  mono: boolean;
  drift: number;
  side: number;
  processing: Processing | null;
}

class Compiler {
  private readonly setup: Setup;
  private readonly silenced: ReadonlySet<string>;
  private readonly outputs: Output[];
  private readonly arriving: GraphEdge[][];
  private readonly graph: ReturnType<typeof graphOf>;
  private readonly taps = new Map<number, Tap>();
  private readonly operations: Operation[] = [];
  private readonly hums: number[] = [];
  private planes: number;

  constructor(setup: Setup, outputs: Output[], options: CompileOptions) {
    this.setup = setup;
    this.silenced = options.silenced ?? new Set();
    this.outputs = outputs;
    this.graph = graphOf(setup, options);
    this.arriving = this.graph.nodes.map(() => []);
    for (const edge of this.graph.edges) if (!edge.cut) this.arriving[edge.to].push(edge);
    setup.sources.forEach((source, index) => {
      const node = this.graph.indexOf.get(source.id) as number;
      this.taps.set(node, { plane: index, gain: fromDb(ownGainDb(source)) });
    });
    this.planes = setup.sources.length;
  }

  compile(): Schedule {
    const nodes = this.outputs.map((output) => this.graph.indexOf.get(output.id) as number);
    const inputs = nodes.map((node, index) => this.outputInputs(node, this.outputs[index]));
    const { operations } = this;
    for (const [index, list] of inputs.entries())
      operations.push(...list.map((one) => ({ ...one, to: this.planes + index })));
    return {
      sourceIds: this.setup.sources.map((source) => source.id),
      outputs: this.outputs,
      planes: this.planes + this.outputs.length,
      operationFrom: Int32Array.from(operations, (one) => one.from),
      operationTo: Int32Array.from(operations, (one) => one.to),
      operationGain: Float64Array.from(operations, (one) => one.gain),
      operationDelay: Int32Array.from(operations, (one) => one.delay),
      operationMono: Uint8Array.from(operations, (one) => (one.mono ? 1 : 0)),
      operationSide: Uint8Array.from(operations, (one) => one.side),
      operationDrift: Float64Array.from(operations, (one) => one.drift),
      chains: this.setup.sources.map(({ processing = [] }) => onOrNull(processing)),
      operationChains: operations.map((one) => one.processing),
      hums: this.hums,
    };
  }

  /** What comes to an output: every input, or one that is all of them together, processed. */
  private outputInputs(node: number, { pair, layout }: Output): Omit<Operation, 'to'>[] {
    const inputs = this.inputsOf(node, pair);
    const whole = onOrNull(this.graph.nodes[node].processing ?? []);
    if (!whole || inputs.length === 0) return inputs;
    const { plane } = this.newPlane(inputs, false);
    return [plainInput(plane, layout === 'mono' ? [{ does: 'mono fold' }, ...whole] : whole)];
  }

  /** The operations that bring everything to a place (of a track: to a pair of its channels), by source plane. */
  private inputsOf(node: number, pair = 0): Omit<Operation, 'to'>[] {
    return this.arriving[node]
      .filter(({ channels }) => channels === null || Math.floor((channels[0] - 1) / 2) === pair)
      .flatMap((edge) => {
        const tap = this.tapOf(edge.from);
        if (!tap) return [];
        const alone = edge.channels?.length === 1 ? edge.channels[0] : null;
        const side = alone === null ? 0 : alone % 2 === 1 ? LEFT_ALONE : RIGHT_ALONE;
        const mono = edge.mono || alone !== null;
        const own = onOrNull(edge.processing ?? []);
        const processing = own && [...trimsBy(tap.gain), ...own];
        const gain = this.isSilenced(edge) ? 0 : fromDb(edge.gainDb) * (own ? 1 : tap.gain);
        return [
          { from: tap.plane, gain, delay: edge.delayFrames, mono, drift: edge.driftPpm, side, processing },
        ];
      })
      .sort((a, b) => a.from - b.from);
  }

  private isSilenced({ from, to }: GraphEdge): boolean {
    const { nodes } = this.graph;
    return this.silenced.size > 0 && this.silenced.has(legKey(nodes[from].id, nodes[to].id));
  }

  /** A place with one plain input needs no plane: it is read where its input is. */
  private tapOf(node: number): Tap {
    const known = this.taps.get(node);
    if (known !== undefined) return known;
    const inputs = this.inputsOf(node);
    const hums = this.arriving[node].some(({ link }) => link?.kind === 'analogue' && !link.isolated);
    const [first] = inputs;
    const isPlain =
      inputs.length === 1 && first.delay === 0 && !first.mono && first.drift === 0 && !first.processing;
    const whole = onOrNull(this.graph.nodes[node].processing ?? []);
    const isNeeded = hums || (inputs.length > 0 && (!isPlain || whole !== null));
    let tap: Tap = first ? { plane: first.from, gain: first.gain } : null;
    if (isNeeded) tap = this.newPlane(inputs, hums);
    if (tap && whole) tap = this.newPlane([plainInput(tap.plane, whole)], false);
    this.taps.set(node, tap);
    return tap;
  }

  private newPlane(inputs: Omit<Operation, 'to'>[], hums: boolean): { plane: number; gain: number } {
    const plane = this.planes++;
    this.operations.push(...inputs.map((one) => ({ ...one, to: plane })));
    if (hums) this.hums.push(plane);
    return { plane, gain: 1 };
  }
}

/** A plane, processed and nothing else. */
function plainInput(from: number, processing: Processing): Omit<Operation, 'to'> {
  return { from, gain: 1, delay: 0, mono: false, drift: 0, side: 0, processing };
}

/** The step that brings a sound to the level at which it arrives where it is processed. */
function trimsBy(gain: number): Processing {
  return gain === 1 ? [] : [{ does: 'trim', gainDb: toDb(gain) }];
}

/** The steps that are on; null when there is none. (A step that is switched off is none, so that it costs nothing.) */
function onOrNull(processing: Processing): Processing | null {
  const steps = stepsOn(processing);
  return steps.length > 0 ? steps : null;
}
