import { latencyFrames } from '../processors/latency.ts';
import type { Processing } from '../processors/processing.ts';
import type { Send, Setup, Track } from '../setup/schema.ts';
import type { Link } from '../setup/wiring.ts';

/** Delays are kept to whole frames of the engine (1/48 ms), leg by leg. */
export const FRAMES_PER_MS = 48;

export type NodeKind = 'source' | 'device' | 'mix' | 'pickup' | 'track' | 'destination' | 'air';

/** A place that sound passes. */
export interface GraphNode {
  id: string;
  /** As a route card names it: "Boathouse · Headset". */
  readonly place: string;
  kind: NodeKind;
  /** What is done to everything that arrives there, taken together; null for nothing. */
  processing: Processing | null;
  /** By how many frames that makes it later. */
  latencyFrames: number;
  /** −1 where it turns the polarity over; else 1. */
  sign: 1 | -1;
}

/** One leg of the way of a sound, from a place to the next. */
export interface GraphEdge {
  from: number;
  to: number;
  /** What happens on it, in a few words, for the route card. */
  what: string;
  gainDb: number;
  delayMs: number;
  delayFrames: number;
  /** Both sides are folded into one. */
  mono: boolean;
  /** What is done to the sound on it; null for nothing. */
  processing: Processing | null;
  /** By how many frames that makes it later. */
  latencyFrames: number;
  /** −1 where it turns the polarity over; else 1. */
  sign: 1 | -1;
  /** The scenes in which it carries sound; null for all of them. */
  scenes: readonly string[] | null;
  /** The channels of a multichannel track that it goes to. */
  channels: number[] | null;
  /** The link that it is, if it is one. */
  link: Link | null;
  /** By how many parts per million the far end's clock runs slower than the sound that it is given. */
  driftPpm: number;
  /** Closes a loop: it is cut, and carries silence. */
  cut: boolean;
}

/** All the ways of sound of a setup: places, legs, and for each place the legs that leave it. */
export interface Graph {
  nodes: GraphNode[];
  edges: GraphEdge[];
  leaving: GraphEdge[][];
  /** For each place the legs that lead to it. */
  readonly entering: GraphEdge[][];
  /** The places so that every leg (but the cut ones) leads on to a later one, and for each place where it stands there. */
  order: number[];
  placeInOrder: number[];
  indexOf: Map<string, number>;
  /** Every loop: the names of the places that feed each other. */
  loops: string[][];
}

function latencyOf(processing: Processing | null | undefined): number {
  return processing ? latencyFrames(processing, FRAMES_PER_MS * 1000) : 0;
}

/** The sign of what a processing lets through: each polarity step turns it over. */
export function signOf(processing: Processing | null | undefined): 1 | -1 {
  let sign: 1 | -1 = 1;
  for (const { does, off } of processing ?? []) if (does === 'polarity' && !off) sign = sign === 1 ? -1 : 1;
  return sign;
}

/** A place; its name is written when it is asked for. */
class Node implements GraphNode {
  readonly id: string;
  readonly kind: NodeKind;
  readonly processing: Processing | null;
  readonly latencyFrames: number;
  readonly sign: 1 | -1;
  private readonly name: () => string;

  constructor(id: string, name: () => string, kind: NodeKind, processing: Processing | null) {
    this.id = id;
    this.name = name;
    this.kind = kind;
    this.processing = processing;
    this.latencyFrames = latencyOf(processing);
    this.sign = signOf(processing);
  }

  get place(): string {
    return this.name();
  }
}

/** Legs of sends that were made before. */
export const knownSends = new WeakMap<Send, { track: Track | undefined; edge: GraphEdge }>();
const knownNodes = new WeakMap<object, { of: readonly unknown[]; node: Node }>();

/** Setups that differ little are asked about again and again: what did not change keeps its node. */
function nodeOf(of: readonly unknown[], make: () => Node): Node {
  const known = knownNodes.get(of[0] as object);
  if (known && known.of.length === of.length && known.of.every((one, i) => one === of[i])) return known.node;
  const node = make();
  knownNodes.set(of[0] as object, { of, node });
  return node;
}

/** Gathers places and legs, and makes a graph of them. */
export class GraphBuilder {
  private readonly setup: Setup;
  private readonly nodes: GraphNode[] = [];
  private readonly edges: GraphEdge[] = [];
  private readonly leaving: GraphEdge[][] = [];
  private readonly indexOf = new Map<string, number>();

  /** The own volume of each device that has one (dB). */
  private readonly volumes: Map<string, number>;

  constructor(setup: Setup) {
    this.setup = setup;
    this.volumes = new Map(
      setup.devices.flatMap(({ id, volumeDb }) => (volumeDb === undefined ? [] : [[id, volumeDb]])),
    );
  }

  nodeNamed(id: string): GraphNode | undefined {
    const at = this.indexOf.get(id);
    return at === undefined ? undefined : this.nodes[at];
  }

  /**
   * @param of what the node is of, and whatever else its name is made of: a node of the same things is used again
   * @param key by which legs find it, where one thing has several nodes
   */
  node(
    of: readonly unknown[],
    id: string,
    place: () => string,
    kind: NodeKind,
    processing?: Processing,
    key = id,
  ): void {
    if (this.indexOf.has(key)) return;
    this.indexOf.set(key, this.nodes.length);
    this.nodes.push(nodeOf([...of, processing], () => new Node(id, place, kind, processing ?? null)));
    this.leaving.push([]);
  }

  edge(fromId: string, toId: string, values: { what: string } & Partial<GraphEdge>): GraphEdge | null {
    const from = this.indexOf.get(fromId);
    const to = this.indexOf.get(toId);
    if (from === undefined || to === undefined) return null;
    const delayMs = values.delayMs ?? 0;
    const volumeDb = this.volumes.get(toId) ?? 0;
    const edge = {
      from,
      to,
      what: values.what,
      gainDb: (values.gainDb ?? 0) + volumeDb,
      delayMs,
      delayFrames: Math.round(delayMs * FRAMES_PER_MS),
      mono: values.mono ?? false,
      processing: values.processing ?? null,
      latencyFrames: latencyOf(values.processing),
      sign: signOf(values.processing),
      scenes: values.scenes ?? null,
      channels: values.channels ?? null,
      link: values.link ?? null,
      driftPpm: values.driftPpm ?? 0,
      cut: false,
    };
    this.edges.push(edge);
    this.leaving[from].push(edge);
    return edge;
  }

  /** Uses the leg of a send again, where both ends still stand where they did. */
  again(send: Send, track: Track | undefined): boolean {
    const known = knownSends.get(send);
    if (!known || known.track !== track || known.edge.cut) return false;
    const { edge } = known;
    // Tests and importers may change a send in place.
    if (edge.gainDb !== send.gainDb || edge.processing !== (send.processing ?? null)) return false;
    if (this.indexOf.get(send.pickup) !== edge.from || this.indexOf.get(send.to) !== edge.to) return false;
    this.edges.push(edge);
    this.leaving[edge.from].push(edge);
    return true;
  }

  /** Tells whether sound of one place comes to another. */
  leads(fromId: string, toId: string): boolean {
    const from = this.indexOf.get(fromId);
    const to = this.indexOf.get(toId);
    if (from === undefined || to === undefined) return false;
    const seen = new Set([from]);
    for (const node of seen) for (const edge of this.leaving[node]) seen.add(edge.to);
    return seen.has(to);
  }

  /** Gives a place the legs that leave another one, at a gain. */
  goesOnAs(likeId: string, id: string, gainDb: number): void {
    const like = this.indexOf.get(likeId);
    const from = this.indexOf.get(id);
    if (like === undefined || from === undefined) return;
    for (const edge of [...this.leaving[like]]) {
      const copy = { ...edge, from, gainDb: edge.gainDb + gainDb };
      this.edges.push(copy);
      this.leaving[from].push(copy);
    }
  }

  finish(): Graph {
    const { nodes, edges, leaving, indexOf } = this;
    const { mixes, links, pickups } = this.setup;
    const needsSearch =
      mixes.length > 0 ||
      links.length > 0 ||
      (this.setup.air?.length ?? 0) > 0 ||
      pickups.some(({ monitoring }) => monitoring);
    const { loops, order } = needsSearch
      ? cutLoops(nodes, leaving)
      : { loops: [], order: nodes.map((_, index) => index) };
    const placeInOrder: number[] = new Array(order.length);
    order.forEach((node, place) => {
      placeInOrder[node] = place;
    });
    let entering: GraphEdge[][] | null = null;
    return {
      nodes,
      edges,
      leaving,
      get entering() {
        entering ??= enteringOf(nodes, edges);
        return entering;
      },
      order,
      placeInOrder,
      indexOf,
      loops,
    };
  }
}

function enteringOf(nodes: GraphNode[], edges: GraphEdge[]): GraphEdge[][] {
  const entering: GraphEdge[][] = nodes.map(() => []);
  for (const edge of edges) entering[edge.to].push(edge);
  return entering;
}

/**
 * Cuts every leg that closes a loop, in the order of the places, and returns the loops that there were, and the places
 * in an order in which every other leg leads on.
 */
function cutLoops(nodes: GraphNode[], leaving: GraphEdge[][]): { loops: string[][]; order: number[] } {
  const state = new Uint8Array(nodes.length);
  const trail: number[] = [];
  const loops: string[][] = [];
  const order: number[] = [];
  const visit = (node: number) => {
    state[node] = 1;
    trail.push(node);
    for (const edge of leaving[node]) {
      if (state[edge.to] === 1) {
        edge.cut = true;
        loops.push(trail.slice(trail.indexOf(edge.to)).map((one) => nodes[one].place));
      } else if (state[edge.to] === 0) visit(edge.to);
    }
    trail.pop();
    state[node] = 2;
    order.push(node);
  };
  for (let node = 0; node < nodes.length; node++) if (state[node] === 0) visit(node);
  return { loops, order: order.reverse() };
}
