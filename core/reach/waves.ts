import type { Graph, GraphEdge } from './graph.ts';

/**
 * What arrives of one source at one place at one moment: all paths that take equally long, added up. Their number may be
 * astronomical (it doubles with each mix that two others feed), their sum is exact.
 */
export interface Wave {
  delayFrames: number;
  /** The sum of the paths, as a factor with its sign; they arrive together, so amplitudes add. Of one path: its sign alone. */
  amplitude: number;
  /** How many paths there are. */
  count: number;
  /** The gain of the loudest of them, and of the second loudest (dB; −∞ where there is none). */
  loudestDb: number;
  secondDb: number;
}

/** At one place, no more moments than this are told apart; the quietest of more are taken together, in power. */
export const MOST_WAVES = 128;
/** Of one source at one place, no more paths than this are written out: the loudest. */
export const MOST_PATHS = 64;

/** Copies that cancel each other to less than this (dB) are given as this. */
const CANCELLED_DB = -200;

/** The waves of one source at each place that it reaches, by node. */
export type Waves = readonly (Wave[] | undefined)[];

/**
 * Follows a source through the graph place by place: what arrives at a place is the sum of what arrives at those before it.
 * @param ownGainDb the gain of the source before its first leg (dB)
 * @param ownFrames by how many frames it is late before its first leg
 * @param ownSign −1 when its polarity is turned over before its first leg
 * @param scene the scene in which it sounds; null: every pickup does
 */
export function wavesFrom(
  graph: Graph,
  start: number,
  ownGainDb: number,
  ownFrames: number,
  ownSign: 1 | -1 = 1,
  scene: string | null = null,
): Waves {
  const at: (Wave[] | undefined)[] = new Array(graph.nodes.length);
  const first: Wave = {
    delayFrames: ownFrames,
    amplitude: ownSign,
    count: 1,
    loudestDb: ownGainDb,
    secondDb: Number.NEGATIVE_INFINITY,
  };
  at[start] = [first];
  const { order, leaving, placeInOrder } = graph;
  for (let i = placeInOrder[start]; i < order.length; i++) {
    const waves = at[order[i]];
    if (!waves) continue;
    const arrived = waves.length > MOST_WAVES ? bounded(waves) : waves;
    at[order[i]] = arrived;
    for (const edge of leaving[order[i]]) {
      if (edge.cut || !sounds(edge, scene)) continue;
      const there = at[edge.to] ?? [];
      at[edge.to] = there;
      for (const wave of arrived) add(there, alongEdge(graph, wave, edge));
    }
  }
  return at;
}

/** Tells whether a leg carries sound in a scene (null: whatever the scene). */
export function sounds({ scenes }: GraphEdge, scene: string | null): boolean {
  return scene === null || scenes === null || scenes.includes(scene);
}

/** Returns a wave at the end of a leg. */
export function alongEdge(graph: Graph, wave: Wave, edge: GraphEdge): Wave {
  return {
    delayFrames:
      wave.delayFrames + edge.delayFrames + edge.latencyFrames + graph.nodes[edge.to].latencyFrames,
    amplitude:
      wave.amplitude *
      edge.sign *
      graph.nodes[edge.to].sign *
      (wave.count === 1 ? 1 : 10 ** (edge.gainDb / 20)),
    count: wave.count,
    loudestDb: wave.loudestDb + edge.gainDb,
    secondDb: wave.secondDb + edge.gainDb,
  };
}

/** Adds a wave to those of a place. The list is the caller's. */
export function add(waves: Wave[], wave: Wave): void {
  for (const one of waves) {
    if (one.delayFrames !== wave.delayFrames) continue;
    one.amplitude = amplitudeOf(one) + amplitudeOf(wave);
    one.count += wave.count;
    one.secondDb = Math.max(Math.min(one.loudestDb, wave.loudestDb), one.secondDb, wave.secondDb);
    one.loudestDb = Math.max(one.loudestDb, wave.loudestDb);
    return;
  }
  waves.push(wave);
}

function amplitudeOf({ count, amplitude, loudestDb }: Wave): number {
  return count === 1 ? amplitude * 10 ** (loudestDb / 20) : amplitude;
}

/** Keeps the loudest moments and takes the others together: at different times, powers add. */
function bounded(waves: Wave[]): Wave[] {
  const sorted = [...waves].sort((a, b) => Math.abs(amplitudeOf(b)) - Math.abs(amplitudeOf(a)));
  const rest = sorted.splice(MOST_WAVES - 1);
  const together = { ...rest[0], amplitude: Math.hypot(...rest.map(amplitudeOf)), count: 0 };
  for (const wave of rest) together.count += wave.count;
  return [...sorted, together];
}

/** Returns the level at which waves arrive together (dB): those of different moments add in power. */
export function levelOf(waves: readonly Wave[]): number {
  if (waves.length === 1 && waves[0].count === 1) return waves[0].loudestDb;
  let power = 0;
  for (const wave of waves) power += amplitudeOf(wave) ** 2;
  return Math.max(CANCELLED_DB, 10 * Math.log10(power));
}

/** How many paths there are in all. */
export function copiesOf(waves: readonly Wave[]): number {
  let count = 0;
  for (const wave of waves) count += wave.count;
  return count;
}

/** Returns the wave with the loudest single path. */
export function loudestOf(waves: readonly Wave[]): Wave {
  return waves.reduce((best, wave) => (wave.loudestDb > best.loudestDb ? wave : best));
}

/** One path, leg by leg from its source on, with its gain and delay at its end. */
export interface Path {
  edges: GraphEdge[];
  gainDb: number;
  delayFrames: number;
}

/** A path that is being found, backwards from its end: the legs from a place on. */
interface Tail {
  node: number;
  edge: GraphEdge | null;
  next: Tail | null;
  gainDb: number;
  /** The gain of the loudest path that ends so. */
  bestDb: number;
}

/**
 * Writes out the paths of a source to a place: all, or the loudest {@link MOST_PATHS} of more, in the order of the setup.
 * They are found loudest first (best-first search backwards; what is known of each place says how loud a path can get).
 * @param waves of the source
 * @param lastGainDb what is added for the last leg (a fold-down, dB); −∞ leaves paths out that end with it
 */
export function pathsTo(
  graph: Graph,
  waves: Waves,
  start: number,
  end: number,
  lastGainDb: (edge: GraphEdge) => number = () => 0,
): Path[] {
  const open: Tail[] = [{ node: end, edge: null, next: null, gainDb: 0, bestDb: 0 }];
  const found: Path[] = [];
  while (open.length > 0 && found.length < MOST_PATHS) {
    const tail = takeLoudest(open);
    if (tail.node === start) {
      found.push(pathOf(graph, waves[start] as Wave[], tail));
      continue;
    }
    for (const edge of graph.entering[tail.node]) {
      const before = waves[edge.from];
      if (edge.cut || !before) continue;
      const gainDb = tail.gainDb + edge.gainDb + (tail.edge === null ? lastGainDb(edge) : 0);
      if (gainDb === Number.NEGATIVE_INFINITY) continue;
      const bestDb = loudestOf(before).loudestDb + gainDb;
      open.push({ node: edge.from, edge, next: tail, gainDb, bestDb });
    }
  }
  return found.sort((a, b) => compare(graph, a.edges, b.edges));
}

function takeLoudest(open: Tail[]): Tail {
  let best = 0;
  for (let i = 1; i < open.length; i++) if (open[i].bestDb > open[best].bestDb) best = i;
  const tail = open[best];
  open[best] = open[open.length - 1];
  open.pop();
  return tail;
}

function pathOf(graph: Graph, [own]: Wave[], tail: Tail): Path {
  const edges: GraphEdge[] = [];
  let { loudestDb: gainDb, delayFrames } = own;
  for (let one: Tail | null = tail; one?.edge; one = one.next) {
    edges.push(one.edge);
    gainDb += one.edge.gainDb;
    delayFrames += one.edge.delayFrames + one.edge.latencyFrames + graph.nodes[one.edge.to].latencyFrames;
  }
  return { edges, gainDb, delayFrames };
}

/** Paths are listed in the order in which the legs leave their places. */
function compare({ leaving }: Graph, a: GraphEdge[], b: GraphEdge[]): number {
  const at = a.findIndex((edge, i) => edge !== b[i]);
  if (at < 0 || b[at] === undefined) return 0;
  const legs = leaving[a[at].from];
  return legs.indexOf(a[at]) - legs.indexOf(b[at]);
}

/** Returns the legs over links on any path of a source to a place. */
export function linksTo(graph: Graph, waves: Waves, end: number): GraphEdge[] {
  const seen = new Set([end]);
  const links: GraphEdge[] = [];
  for (const node of seen) {
    for (const edge of graph.entering[node]) {
      if (edge.cut || !waves[edge.from]) continue;
      seen.add(edge.from);
      if (edge.link) links.push(edge);
    }
  }
  return links;
}
