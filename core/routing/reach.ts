import { foldOf } from '../setup/channels.ts';
import { stepsOn } from '../setup/processing.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { fromDb, toDb } from '../signal/decibel.ts';
import { gainThrough } from '../signal/foldDown.ts';
import { latencyFrames } from '../signal/latency.ts';
import { type Destination, destinationsOf } from './destinations.ts';
import {
  FRAMES_PER_MS,
  type Graph,
  type GraphEdge,
  type GraphNode,
  type GraphOptions,
  graphOf,
} from './graph.ts';
import { type Way, wayOf } from './ways.ts';

/** A source that arrives more quietly than this (dB) counts as not arriving where it is wanted. */
export const AUDIBLE_DB = -60;
/** Of one source at one place, no more paths than this are followed: wiring that has more is a knot. */
const MAX_PATHS = 64;

/** One step of a path: a place, what it does there, and the running totals up to and including it. */
export interface Leg {
  place: string;
  what: string;
  gainDb: number;
  delayMs: number;
  totalDb: number;
  totalDelayMs: number;
}

/** A route card: one path from a source to a destination, leg by leg, with its totals. */
export interface RouteCard {
  source: string;
  destination: string;
  legs: Leg[];
  gainDb: number;
  delayMs: number;
}

/** What two or more copies of one sound do to each other. */
export interface Doubling {
  /** How much louder than the loudest copy alone (dB). */
  gainChangeDb: number;
  /** The lowest frequency that the two loudest copies take out of each other (Hz); null when they arrive together. */
  firstNotchHz: number | null;
}

/** What arrives of one source at one destination. */
export interface Arrival {
  /** The sum of its paths: copies that arrive together add in amplitude, others in power. */
  readonly gainDb: number;
  /** The delay of the loudest path. */
  readonly delayMs: number;
  /** The delay of the latest path. */
  readonly latestMs: number;
  /** How many paths there are. */
  readonly copies: number;
  /** Null as long as there is one path, or the others are more than 60 dB below. */
  readonly doubling: Doubling | null;
  /** The links that it comes over. */
  readonly links: GraphEdge[];
  /** The channels that it stands on, where a multichannel track is what feeds the destination. */
  readonly channels: number[];
  /** Each path, as far as the engine is concerned. */
  readonly ways: Way[];
  /** Each path, written when asked for. */
  readonly paths: RouteCard[];
  /** The places of every path, by id, in the order in which they are passed. */
  readonly places: string[][];
}

/** Everything that arrives: look up with `reach.at(source, destination)`; null where nothing does. */
export interface Reach {
  destinations: Destination[];
  graph: Graph;
  at(sourceId: string, destinationId: string): Arrival | null;
  /** The sources whose sound arrives at a place (a pickup, a device, a mix), in the order of the setup. */
  sourcesAt(placeId: string): string[];
  /** What arrives of a source on a track, before any fold-down to stereo. */
  onTrack(sourceId: string, trackId: string): Arrival | null;
  /** The gain (dB) with which a source arrives at a pickup; null where it does not. */
  gainAt(sourceId: string, pickupId: string): number | null;
}

/** Limits reach to a scene, or to one source: of the others, nothing is then known. */
export interface ReachOptions extends GraphOptions {
  source?: string;
}

/**
 * Computes, for every source and every destination of the setup, the paths between them, in one scene or over all
 * pickups. A pure function of the setup.
 */
export function reachOf(setup: Setup, options: ReachOptions = {}): Reach {
  const destinations = destinationsOf(setup);
  const graph = graphOf(setup, options);
  const byNode: Destination[][] = graph.nodes.map(() => []);
  for (const destination of destinations) {
    const node = destination.feedId === null ? undefined : graph.indexOf.get(destination.feedId);
    if (node !== undefined) byNode[node].push(destination);
  }
  const arrivals = new Map<string, Map<string, ArrivalOf>>();
  const unfolded = new Map<string, ArrivalOf>();
  const atPlace = graph.nodes.map((): string[] => []);
  const atPickup = new Map<string, Path[]>();
  for (const source of setup.sources) {
    if (options.source !== undefined && source.id !== options.source) continue;
    const found = pathsFrom(graph, source, atPlace);
    const mine = new Map<string, ArrivalOf>();
    arrivals.set(source.id, mine);
    for (const [node, paths] of found) {
      if (graph.nodes[node].kind === 'pickup') atPickup.set(keyOf(source.id, graph.nodes[node].id), paths);
      for (const destination of byNode[node]) {
        const heard = foldedFor(destination, paths);
        if (heard !== paths)
          unfolded.set(
            keyOf(source.id, destination.feedId as string),
            new ArrivalOf(graph, source, destination, paths),
          );
        if (heard.length > 0) mine.set(destination.id, new ArrivalOf(graph, source, destination, heard));
      }
    }
  }
  return {
    destinations,
    graph,
    at: (source, destination) => arrivals.get(source)?.get(destination) ?? null,
    onTrack: (source, track) => {
      const folded = unfolded.get(keyOf(source, track));
      if (folded) return folded;
      const place = destinations.find((one) => one.feedId === track);
      return place ? (arrivals.get(source)?.get(place.id) ?? null) : null;
    },
    sourcesAt: (place) => atPlace[graph.indexOf.get(place) ?? -1] ?? [],
    gainAt: (source, pickup) => {
      const paths = atPickup.get(keyOf(source, pickup));
      return paths ? sumDb(paths) : null;
    },
  };
}

/** A path as it is found: its last leg and the path up to there, with the totals. */
interface Path {
  edge: GraphEdge;
  before: Path | null;
  gainDb: number;
  delayFrames: number;
  /** What the fold-down of a multichannel track does to it (dB), where the destination gets one. */
  foldDb?: number;
}

/** Live and VOD get the fold-down of a multichannel track: what of the paths is left in it, and how loud. */
function foldedFor({ kind, track }: Destination, paths: Path[]): Path[] {
  if (track?.layout !== 'multichannel' || kind === 'file') return paths;
  const fold = foldOf(track);
  return paths.flatMap((path) => {
    const gain = gainThrough(fold, path.edge.channels ?? []);
    if (gain === 0) return [];
    const foldDb = toDb(gain);
    return [{ ...path, gainDb: path.gainDb + foldDb, foldDb }];
  });
}

/** Follows every path of a source to pickups, tracks and ears, by node; notes in `atPlace` where it passes. */
function pathsFrom(graph: Graph, source: Source, atPlace: string[][]): Map<number, Path[]> {
  const start = graph.indexOf.get(source.id) as number;
  const found = new Map<number, Path[]>();
  const ownLatency = ownLatencyFrames(source);
  const follow = (node: number, before: Path | null) => {
    for (const edge of graph.leaving[node]) {
      if (edge.cut) continue;
      const path = {
        edge,
        before,
        gainDb: (before?.gainDb ?? ownGainDb(source)) + edge.gainDb,
        delayFrames:
          (before?.delayFrames ?? ownLatency) +
          edge.delayFrames +
          edge.latencyFrames +
          graph.nodes[edge.to].latencyFrames,
      };
      const at = atPlace[edge.to];
      if (at[at.length - 1] !== source.id) at.push(source.id);
      const { kind } = graph.nodes[edge.to];
      if (kind === 'track' || kind === 'ears' || kind === 'pickup') {
        const others = found.get(edge.to);
        if (!others) found.set(edge.to, [path]);
        else if (others.length < MAX_PATHS) others.push(path);
      }
      if (kind !== 'track' && kind !== 'ears') follow(edge.to, path);
    }
  };
  follow(start, null);
  return found;
}

/** The gain of a source before it leaves its machine: its level, and the app's own volume (dB). */
export function ownGainDb(source: Source): number {
  return source.levelDb + volumeDb(source);
}

/** By how many frames a source is later for its processing. */
function ownLatencyFrames({ processing }: Source): number {
  return processing ? latencyFrames(processing, FRAMES_PER_MS * 1000) : 0;
}

/** What an app's own volume does (dB): half of it is −6 dB. */
export function volumeDb({ volumePercent = 100 }: Source): number {
  return 20 * Math.log10(volumePercent / 100);
}

class ArrivalOf implements Arrival {
  readonly gainDb: number;
  private readonly graph: Graph;
  private readonly source: Source;
  private readonly destination: Destination;
  private readonly found: Path[];
  private cards: RouteCard[] | null = null;

  constructor(graph: Graph, source: Source, destination: Destination, found: Path[]) {
    this.graph = graph;
    this.source = source;
    this.destination = destination;
    this.found = found;
    this.gainDb = found.length === 1 ? found[0].gainDb : sumDb(found);
  }

  get delayMs(): number {
    return loudest(this.found).delayFrames / FRAMES_PER_MS;
  }

  get latestMs(): number {
    return Math.max(...this.found.map((path) => path.delayFrames)) / FRAMES_PER_MS;
  }

  get copies(): number {
    return this.found.length;
  }

  get doubling(): Doubling | null {
    if (this.found.length < 2) return null;
    const first = loudest(this.found);
    const others = this.found.filter((path) => path !== first && path.gainDb >= first.gainDb - 60);
    if (others.length === 0) return null;
    const apart = others.filter((path) => path.delayFrames !== first.delayFrames);
    const frames = apart.length > 0 ? Math.abs(loudest(apart).delayFrames - first.delayFrames) : 0;
    return {
      gainChangeDb: this.gainDb - first.gainDb,
      firstNotchHz: frames > 0 ? (FRAMES_PER_MS * 1000) / (2 * frames) : null,
    };
  }

  get links(): GraphEdge[] {
    const edges: GraphEdge[] = [];
    for (const path of this.found)
      for (let one: Path | null = path; one; one = one.before)
        if (one.edge.link && !edges.includes(one.edge)) edges.push(one.edge);
    return edges;
  }

  get ways(): Way[] {
    const { nodes } = this.graph;
    return this.found.map((path) => {
      const legs = edgesOf(path).map((edge) => ({ edge, place: nodes[edge.to] }));
      const way = wayOf(ownGainDb(this.source), legs);
      return path.foldDb === undefined ? way : { ...way, gain: way.gain * fromDb(path.foldDb) };
    });
  }

  get channels(): number[] {
    return [...new Set(this.found.flatMap(({ edge }) => edge.channels ?? []))].sort();
  }

  get places(): string[][] {
    return this.found.map((path) => [
      this.source.id,
      ...edgesOf(path).map((edge) => this.graph.nodes[edge.to].id),
    ]);
  }

  get paths(): RouteCard[] {
    this.cards ??= this.found.map((path) => this.cardOf(path));
    return this.cards;
  }

  private cardOf(path: Path): RouteCard {
    const { source, destination } = this;
    const own: Step[] = [[source.name, 'level of the source', source.levelDb, 0]];
    if (source.volumePercent !== undefined && source.volumePercent !== 100)
      own.push([
        `${source.name}, turned to ${source.volumePercent} %`,
        'its own volume',
        volumeDb(source),
        0,
      ]);
    const latency = ownLatencyFrames(source);
    if (latency > 0) own.push([source.name, 'its processing', 0, latency / FRAMES_PER_MS]);
    const legs = edgesOf(path).flatMap((edge): Step[] => {
      const to = this.graph.nodes[edge.to];
      const whole = wholeStep(to);
      if (to.kind === 'ears' && edge.what === 'heard here') return whole;
      const what = stepsOn(edge.processing ?? []).length > 0 ? `${edge.what}, processed` : edge.what;
      return [[to.place, what, edge.gainDb, edge.delayMs + edge.latencyFrames / FRAMES_PER_MS], ...whole];
    });
    const fold: Step[] =
      path.foldDb === undefined
        ? []
        : [['Fold-down to stereo', 'of the channels of the track', path.foldDb, 0]];
    const end: Step = [destination.name, 'heard here', 0, 0];
    return routeCard(source.id, destination.id, [...own, ...legs, ...fold, end]);
  }
}

type Step = [place: string, what: string, gainDb: number, delayMs: number];

/** What is done at a place to everything together, if anything is. */
function wholeStep({ place, processing, latencyFrames }: GraphNode): Step[] {
  if (stepsOn(processing ?? []).length === 0) return [];
  return [[place, 'processed with everything else', 0, latencyFrames / FRAMES_PER_MS]];
}

function routeCard(source: string, destination: string, steps: Step[]): RouteCard {
  let totalDb = 0;
  let totalDelayMs = 0;
  const legs = steps.map(([place, what, gainDb, delayMs]): Leg => {
    totalDb += gainDb;
    totalDelayMs += delayMs;
    return { place, what, gainDb, delayMs, totalDb, totalDelayMs };
  });
  return { source, destination, legs, gainDb: totalDb, delayMs: totalDelayMs };
}

function edgesOf(path: Path): GraphEdge[] {
  const edges: GraphEdge[] = [];
  for (let one: Path | null = path; one; one = one.before) edges.unshift(one.edge);
  return edges;
}

function loudest(paths: Path[]): Path {
  return paths.reduce((best, path) => (path.gainDb > best.gainDb ? path : best));
}

/** Copies that arrive together add in amplitude; the sums that arrive at different times add in power. */
function sumDb(paths: Path[]): number {
  const byTime = new Map<number, number>();
  for (const { delayFrames, gainDb } of paths)
    byTime.set(delayFrames, (byTime.get(delayFrames) ?? 0) + 10 ** (gainDb / 20));
  const power = [...byTime.values()].reduce((sum, amplitude) => sum + amplitude * amplitude, 0);
  return 10 * Math.log10(power);
}

function keyOf(source: string, destination: string): string {
  return `${source} ${destination}`;
}
