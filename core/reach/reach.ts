import { fromDb, toDb } from '../audio/decibel.ts';
import { gainThrough } from '../audio/foldDown.ts';
import { latencyFrames } from '../processors/latency.ts';
import { stepsOn } from '../processors/processing.ts';
import { foldOf } from '../setup/channels.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { type Destination, destinationsOf } from './destinations.ts';
import {
  FRAMES_PER_MS,
  type Graph,
  type GraphEdge,
  type GraphNode,
  type GraphOptions,
  graphOf,
  signOf,
} from './graph.ts';
import { ownGainDb, volumeDb } from './ownGain.ts';
import {
  add,
  alongEdge,
  copiesOf,
  levelOf,
  linksTo,
  loudestOf,
  type Path,
  pathsTo,
  type Wave,
  type Waves,
  wavesFrom,
} from './waves.ts';
import { type Way, wayOf } from './ways.ts';

export { ownGainDb, volumeDb } from './ownGain.ts';

/** A source that arrives more quietly than this (dB) counts as not arriving where it is wanted. */
export const AUDIBLE_DB = -60;
/** A level that is this far off the wish (dB) is a finding. */
export const OFF_LEVEL_DB = 6;

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
  /** How long after the loudest the next loudest comes (ms). */
  apartMs: number;
  /** How far the next loudest lies below the loudest (dB). */
  belowDb: number;
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
  /** Each path (the loudest of very many), as far as the engine is concerned. */
  readonly ways: Way[];
  /** Each path (the loudest of very many), written when asked for. */
  readonly paths: RouteCard[];
  /** The places of each path (the loudest of very many), by id, in the order in which they are passed. */
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
  const trails = new Map<string, Trail>();
  const atPlace = graph.nodes.map((): string[] => []);
  for (const source of setup.sources) {
    if (options.source !== undefined && source.id !== options.source) continue;
    const trail = trailOf(graph, source);
    trails.set(source.id, trail);
    trail.waves.forEach((here, node) => {
      if (here && node !== trail.start) atPlace[node].push(source.id);
    });
  }
  const destinationOf = new Map(destinations.map((one) => [one.id, one]));
  const destinationAt = new Map(destinations.map((one) => [one.sendTo, one]));
  const found = new Map([...trails.keys()].map((id) => [id, new Map<string, Arrival | null>()]));
  return {
    destinations,
    graph,
    at: (source, destinationId) => {
      const own = found.get(source);
      let arrival = own?.get(destinationId);
      if (arrival !== undefined) return arrival;
      const trail = trails.get(source);
      const destination = destinationOf.get(destinationId);
      arrival = trail && destination ? arrivalAt(trail, destination) : null;
      own?.set(destinationId, arrival);
      return arrival;
    },
    onTrack: (source, track) => {
      const trail = trails.get(source);
      const destination = destinationAt.get(track);
      return trail && destination ? arrivalOnTrack(trail, destination) : null;
    },
    sourcesAt: (place) => atPlace[graph.indexOf.get(place) ?? -1] ?? [],
    gainAt: (source, pickup) => {
      const node = graph.indexOf.get(pickup);
      const here = node === undefined ? undefined : trails.get(source)?.waves[node];
      return here ? levelOf(here) : null;
    },
  };
}

/** A source, and all that is known of where its sound goes. */
export interface Trail {
  graph: Graph;
  source: Source;
  start: number;
  waves: Waves;
}

/** Follows one source through a graph; in one scene, or (null) with every pickup sounding. */
export function trailOf(graph: Graph, source: Source, scene: string | null = null): Trail {
  const start = graph.indexOf.get(source.id) as number;
  const sign = signOf(source.processing);
  const waves = wavesFrom(graph, start, ownGainDb(source), ownLatencyFrames(source), sign, scene);
  return { graph, source, start, waves };
}

/** What arrives of a source at a destination: live and VOD get the fold-down of a multichannel track. Null for nothing. */
export function arrivalAt(trail: Trail, destination: Destination): Arrival | null {
  const node = nodeOf(trail, destination);
  const here = node === undefined ? undefined : trail.waves[node];
  if (node === undefined || !here) return null;
  const foldDb = foldFor(destination);
  const heard = foldDb ? folded(trail, node, foldDb) : here;
  return heard.length > 0 ? new ArrivalOf(trail, node, destination, heard, foldDb ?? undefined) : null;
}

/** What arrives of a source on the track of a destination, before any fold-down; null for nothing. */
export function arrivalOnTrack(trail: Trail, destination: Destination): Arrival | null {
  const node = nodeOf(trail, destination);
  const here = node === undefined ? undefined : trail.waves[node];
  return node !== undefined && here ? new ArrivalOf(trail, node, destination, here) : null;
}

function nodeOf({ graph }: Trail, { sendTo }: Destination): number | undefined {
  return sendTo === null ? undefined : graph.indexOf.get(sendTo);
}

/** What a fold-down does to what comes over the last leg (dB); −∞ where nothing is left of it. */
type FoldDb = (edge: GraphEdge) => number;

/** Live and VOD get the fold-down of a multichannel track; null where a destination gets its track as it is. */
function foldFor({ kind, track }: Destination): FoldDb | null {
  if (track?.layout !== 'multichannel' || kind === 'file') return null;
  const fold = foldOf(track);
  return ({ channels }) => {
    const gain = gainThrough(fold, channels ?? []);
    return gain === 0 ? Number.NEGATIVE_INFINITY : toDb(gain);
  };
}

/** What is left of a source in the fold-down of a track. */
function folded({ graph, waves }: Trail, node: number, foldDb: FoldDb): Wave[] {
  const heard: Wave[] = [];
  for (const edge of graph.entering[node]) {
    const before = waves[edge.from];
    const gainDb = foldDb(edge);
    if (edge.cut || !before || gainDb === Number.NEGATIVE_INFINITY) continue;
    for (const wave of before) add(heard, alongEdge(graph, wave, { ...edge, gainDb: edge.gainDb + gainDb }));
  }
  return heard;
}

/** By how many frames a source is later for its processing. */
function ownLatencyFrames({ processing }: Source): number {
  return processing ? latencyFrames(processing, FRAMES_PER_MS * 1000) : 0;
}

class ArrivalOf implements Arrival {
  readonly gainDb: number;
  private readonly from: Trail;
  private readonly node: number;
  private readonly destination: Destination;
  private readonly waves: readonly Wave[];
  private readonly foldDb: FoldDb | undefined;
  private written: Path[] | null = null;
  private cards: RouteCard[] | null = null;

  constructor(
    from: Trail,
    node: number,
    destination: Destination,
    waves: readonly Wave[],
    foldDb: FoldDb | undefined = undefined,
  ) {
    this.from = from;
    this.node = node;
    this.destination = destination;
    this.waves = waves;
    this.foldDb = foldDb;
    this.gainDb = levelOf(waves);
  }

  get delayMs(): number {
    return loudestOf(this.waves).delayFrames / FRAMES_PER_MS;
  }

  get latestMs(): number {
    return Math.max(...this.waves.map((wave) => wave.delayFrames)) / FRAMES_PER_MS;
  }

  get copies(): number {
    return copiesOf(this.waves);
  }

  get doubling(): Doubling | null {
    const first = loudestOf(this.waves);
    const floorDb = first.loudestDb - 60;
    const apart = this.waves.filter((wave) => wave !== first && wave.loudestDb >= floorDb);
    if (apart.length === 0 && first.secondDb < floorDb) return null;
    const next = apart.length > 0 ? loudestOf(apart) : null;
    const frames = next ? Math.abs(next.delayFrames - first.delayFrames) : 0;
    return {
      gainChangeDb: this.gainDb - first.loudestDb,
      apartMs: frames / FRAMES_PER_MS,
      belowDb: first.loudestDb - Math.max(first.secondDb, next?.loudestDb ?? Number.NEGATIVE_INFINITY),
      firstNotchHz: frames > 0 ? (FRAMES_PER_MS * 1000) / (2 * frames) : null,
    };
  }

  get links(): GraphEdge[] {
    return linksTo(this.from.graph, this.from.waves, this.node);
  }

  get ways(): Way[] {
    const { nodes } = this.from.graph;
    return this.found.map(({ edges }) => {
      const legs = edges.map((edge) => ({ edge, place: nodes[edge.to] }));
      const way = wayOf(ownGainDb(this.from.source), legs);
      const foldDb = this.foldDb?.(edges[edges.length - 1]);
      return foldDb === undefined ? way : { ...way, gain: way.gain * fromDb(foldDb) };
    });
  }

  get channels(): number[] {
    const { graph, waves } = this.from;
    const last = graph.entering[this.node].filter(
      (edge) => !edge.cut && waves[edge.from] && (this.foldDb?.(edge) ?? 0) !== Number.NEGATIVE_INFINITY,
    );
    return [...new Set(last.flatMap(({ channels }) => channels ?? []))].sort();
  }

  get places(): string[][] {
    const { nodes } = this.from.graph;
    return this.found.map(({ edges }) => [this.from.source.id, ...edges.map((edge) => nodes[edge.to].id)]);
  }

  get paths(): RouteCard[] {
    this.cards ??= this.found.map((path) => this.cardOf(path));
    return this.cards;
  }

  /** The paths themselves. */
  private get found(): Path[] {
    const { graph, waves, start } = this.from;
    this.written ??= pathsTo(graph, waves, start, this.node, this.foldDb);
    return this.written;
  }

  private cardOf(path: Path): RouteCard {
    const { source, graph } = this.from;
    const { destination } = this;
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
    const legs = path.edges.flatMap((edge): Step[] => {
      const to = graph.nodes[edge.to];
      const whole = wholeStep(to);
      if (to.kind === 'destination' && edge.what === 'heard here') return whole;
      const what = stepsOn(edge.processing ?? []).length > 0 ? `${edge.what}, processed` : edge.what;
      return [[to.place, what, edge.gainDb, edge.delayMs + edge.latencyFrames / FRAMES_PER_MS], ...whole];
    });
    const foldDb = this.foldDb?.(path.edges[path.edges.length - 1]);
    const fold: Step[] =
      foldDb === undefined ? [] : [['Fold-down to stereo', 'of the channels of the track', foldDb, 0]];
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
