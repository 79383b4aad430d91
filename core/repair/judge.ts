import { isEcho } from '../findings/echo.ts';
import { OWN_VOICE_LATE_MS } from '../findings/limits.ts';
import { lineFaults } from '../findings/lineFaults.ts';
import { doneTwice } from '../findings/processedTwice.ts';
import { openPairs, withoutAir } from '../reach/air.ts';
import { type Destination, destinationsOf, trackLimitOf } from '../reach/destinations.ts';
import { airId, type Graph, graphOf, isCalledSo, isOverruled } from '../reach/graph.ts';
import { type Arrival, AUDIBLE_DB, arrivalAt, arrivalOnTrack, type Trail, trailOf } from '../reach/reach.ts';
import { forbiddenUses, isCleared } from '../setup/clearance.ts';
import { inputDriftPpm } from '../setup/clocks.ts';
import { DEFAULT_DEVICE, type Setup, type Source, type Track } from '../setup/schema.ts';
import { affectedBy } from './affected.ts';
import type { Judged, SourceJudged } from './judged.ts';
import { type Wanted, wantedOf } from './wanted.ts';
import { MOST_OFF_DB, OFF_FROM_DB, type Trouble, type TroubleKind, WEIGHTS } from './weights.ts';

export type { Judged } from './judged.ts';

/** What is wanted at a destination that is not there any more weighs this much more than what does not arrive. */
const GONE_WEIGHS = 20;

/**
 * Measures how far setups are from what is wanted, in every scene. The wishes and clearances are those of the first setup: they stay as
 * they are while ways to get there are compared. This one measure ranks remedies, safeguards, separations and the steps of mending.
 */
export class Judge {
  readonly wanted: Wanted;
  readonly first: Judged;
  readonly today: string;
  private readonly wishes = new Map<string, Map<string, number>>();
  private readonly places: Set<string>;
  private readonly forbidden = new WeakMap<Track, Map<string, boolean>>();

  /** @param today `YYYY-MM-DD`, for clearances that expire */
  constructor(setup: Setup, today: string, wanted: Wanted = wantedOf(setup)) {
    this.wanted = wanted;
    this.today = today;
    this.places = new Set(wanted.places);
    for (const { source, destination, gainDb } of wanted.intent) {
      const own = this.wishes.get(source) ?? new Map<string, number>();
      this.wishes.set(source, own.set(destination, gainDb));
    }
    this.first = this.judge(setup);
  }

  /** Judges a setup. @param before a setup that was judged and differs little: only what the difference touches is followed anew */
  judge(setup: Setup, before?: Judged): Judged {
    const graph = graphOf(withoutAir(setup));
    const destinations = destinationsOf(setup);
    const touched = before ? affectedBy(before, setup, graph) : null;
    const scenes = new Scenes(setup, graph);
    const bySource = new Map<string, SourceJudged>();
    let total = 0;
    for (const source of setup.sources) {
      const known = touched && !touched.has(source.id) ? before?.bySource.get(source.id) : undefined;
      const judged = known ?? this.judgeSource(setup, graph, destinations, scenes, source);
      bySource.set(source.id, judged);
      total += judged.total;
    }
    const judged: Judged = { setup, graph, destinations, bySource, flaws: [], total };
    judged.flaws = [...this.flawsOf(judged), ...this.byAir(judged)];
    judged.total += sumOf(judged.flaws);
    return judged;
  }

  /** The wished level of a source at a destination (dB); null where it is not wanted. */
  wishDb(source: string, destination: string): number | null {
    return this.wishes.get(source)?.get(destination) ?? null;
  }

  /** Tells whether the clearance of a source forbids a destination. */
  isForbidden(source: Source, { track }: Destination): boolean {
    if (!track) return false;
    const known = this.forbidden.get(track) ?? new Map<string, boolean>();
    this.forbidden.set(track, known);
    let isForbidden = known.get(source.id);
    if (isForbidden === undefined) {
      const clearance = this.wanted.clearances.get(source.id) ?? source.clearance;
      const purpose = this.wanted.purposes.get(track.id) ?? track.purpose;
      isForbidden = forbiddenUses(clearance, { uses: track.uses, purpose }, this.today).length > 0;
      known.set(source.id, isForbidden);
    }
    return isForbidden;
  }

  private judgeSource(
    setup: Setup,
    graph: Graph,
    destinations: Destination[],
    scenes: Scenes,
    source: Source,
  ): SourceJudged {
    const trail = trailOf(graph, source);
    const whole = destinations.map((destination) => arrivalAt(trail, destination));
    const troubles = scenes.statesOf(trail).flatMap(({ scene, count }): Trouble[] => {
      const heard = scene === null ? trail : trailOf(graph, source, scene);
      const arrivals = scene === null ? whole : destinations.map((one) => arrivalAt(heard, one));
      const found = this.inScene(destinations, arrivals, source, heard, scene);
      if (count > 1) for (const one of found) one.weight *= count;
      return found;
    });
    const passes = new Set<string>();
    trail.waves.forEach((here, node) => {
      if (here) passes.add(graph.nodes[node].id);
    });
    const links = new Set<string>();
    const onEdit: SourceJudged['onEdit'] = new Map();
    const isFaulty = setup.links.some((link) => lineFaults(setup, link).length > 0);
    destinations.forEach(({ id, track }, i) => {
      const arrival = whole[i];
      if (!arrival) return;
      if (isFaulty) for (const { link } of arrival.links) if (link) links.add(link.id);
      if (track?.purpose !== 'edit' || !track.uses.includes('file')) return;
      const channels = track.layout === 'multichannel' ? arrival.channels : [];
      onEdit.set(id, { channels, isAudible: arrival.gainDb >= AUDIBLE_DB });
    });
    const mayBeHeard = destinations.some(
      (one) => this.wishDb(source.id, one.id) !== null && !this.isForbidden(source, one),
    );
    if (source.into !== undefined && !mayBeHeard && whole.every((one) => one === null))
      troubles.push(trouble('unheard', { source: source.id }));
    if (source.into === DEFAULT_DEVICE && source.machineInto === undefined)
      troubles.push(trouble('onDefault', { source: source.id }));
    if (isOverruled(source)) troubles.push(trouble('overruled', { source: source.id }));
    if (source.stuck) troubles.push(trouble('stuck', { source: source.id }));
    if ((source.volumePercent ?? 100) < 100) troubles.push(trouble('turnedDown', { source: source.id }));
    const at = (id: string) => whole[destinations.findIndex((one) => one.id === id)] ?? null;
    for (const detail of doneTwice(setup, source, destinations, at))
      troubles.push(trouble('twice', { source: source.id, detail }));
    return { troubles, total: sumOf(troubles), trail, passes, links, onEdit };
  }

  /** What is wrong with a source in one scene, destination by destination. */
  private inScene(
    destinations: Destination[],
    arrivals: (Arrival | null)[],
    source: Source,
    trail: Trail,
    scene: string | null,
  ): Trouble[] {
    const found: Trouble[] = [];
    const left = new Map(this.wishes.get(source.id));
    destinations.forEach((destination, i) => {
      const add = (kind: TroubleKind, more = 0) =>
        found.push(trouble(kind, { source: source.id, destination: destination.id, scene }, more));
      const wishDb = left.get(destination.id);
      left.delete(destination.id);
      const arrival = arrivals[i];
      if (this.isForbidden(source, destination)) {
        if (arrival || this.isKept(trail, destination)) add('forbidden');
        return;
      }
      if (wishDb !== undefined) addWanted(add, arrival, wishDb);
      else if (arrival && this.places.has(destination.id)) add('unwanted');
      if (arrival) this.addTiming(add, source, destination, arrival);
    });
    for (const destination of left.keys())
      found.push(trouble('missing', { source: source.id, destination, scene }, GONE_WEIGHS));
    return found;
  }

  /** A fold-down may leave out what is in the file all the same. */
  private isKept(trail: Trail, destination: Destination): boolean {
    const { track } = destination;
    if (track?.layout !== 'multichannel' || (track.purpose !== 'publish' && !track.uses.includes('file')))
      return false;
    return arrivalOnTrack(trail, destination) !== null;
  }

  private addTiming(
    add: (kind: TroubleKind) => void,
    source: Source,
    { id, kind }: Destination,
    arrival: Arrival,
  ): void {
    if (arrival.copies > 1 && arrival.doubling) add('copies');
    if (source.kind === 'voice chat' && kind === 'friends' && isEcho(this.wanted, source.id, id)) add('echo');
    if (source.kind !== 'microphone') return;
    if (kind === 'loudspeakers') add('loop');
    if (kind === 'headphones' && (arrival.latestMs > OWN_VOICE_LATE_MS || arrival.copies > 1)) add('late');
  }

  /** What is wrong with the setup as such: loops, lines, uses that cannot be, tracks that are shared or too many. */
  private flawsOf({ setup, graph, destinations, bySource }: Judged): Trouble[] {
    const flaws: Trouble[] = graph.loops.map((loop) => trouble('loop', { detail: loop.join('>') }));
    for (const { id, listenedOn } of setup.mixes)
      if (listenedOn !== undefined) flaws.push(trouble('listening', { detail: id }));
    for (const device of setup.devices)
      if (inputDriftPpm(setup, device) !== 0 && isHeard(bySource, destinations, device.id))
        flaws.push(trouble('line', { detail: `own-clock ${device.id}` }));
    for (const pickup of setup.pickups) {
      const app =
        pickup.asksFor === undefined ? undefined : setup.sources.find(({ id }) => id === pickup.takes);
      if (app && !isCalledSo(pickup, app))
        flaws.push(trouble('notCalled', { source: app.id, detail: pickup.id }));
    }
    for (const { id, volumeDb = 0 } of setup.devices)
      if (volumeDb < 0) flaws.push(trouble('deviceDown', { detail: id }));
    const many = setup.tracks.length - trackLimitOf(setup);
    for (let i = 0; i < many; i++) flaws.push(trouble('impossible', { detail: `track ${i}` }));
    for (const use of ['live', 'vod'] as const) {
      const users = setup.tracks.filter((track) => track.uses.includes(use)).length;
      if (users > 1) flaws.push(trouble('impossible', { detail: use }));
    }
    const isRecorded = setup.tracks.some(({ uses }) => uses.includes('vod') && uses.includes('file'));
    if (this.wanted.recordVod && !isRecorded && setup.tracks.some(({ uses }) => uses.includes('vod')))
      flaws.push(trouble('shared', { detail: 'vod' }));
    for (const { id, uses } of setup.tracks)
      if (uses.length === 0) flaws.push(trouble('idle', { detail: id }));
    for (const source of setup.sources)
      if (this.needsOwnTrack(source) && !isAloneSomewhere(bySource, source.id))
        flaws.push(trouble('shared', { source: source.id }));
    for (const link of setup.links) {
      if (![...bySource.values()].some(({ links }) => links.has(link.id))) continue;
      for (const detail of lineFaults(setup, link))
        flaws.push(trouble('line', { detail: `${detail} ${link.id}` }));
    }
    return flaws;
  }

  /** What microphones hear of loudspeakers, and what of it comes where it must not. */
  private byAir({ setup, destinations, bySource }: Judged): Trouble[] {
    if (!setup.air?.length) return [];
    const graph = graphOf(setup);
    const trails = setup.sources.map((source) => ({ source, trail: trailOf(graph, source) }));
    const open = openPairs(setup, graph).filter(({ destination, source }) => {
      const node = graph.indexOf.get(airId(destination, source)) as number;
      return trails.some(({ trail }) => trail.waves[node]);
    });
    const arrived = trails.flatMap(({ source, trail }) => {
      const direct = bySource.get(source.id)?.trail;
      const isByAirAlone = (destination: Destination) =>
        arrivalAt(trail, destination) !== null && !(direct && arrivalAt(direct, destination));
      return destinations.flatMap((destination): Trouble[] => {
        const about = { source: source.id, destination: destination.id };
        if (this.isForbidden(source, destination))
          return isByAirAlone(destination) ? [trouble('forbidden', about)] : [];
        const comesBack =
          source.kind === 'voice chat' &&
          destination.kind === 'friends' &&
          isEcho(this.wanted, source.id, destination.id);
        return comesBack && isByAirAlone(destination) ? [trouble('echo', about)] : [];
      });
    });
    return [
      ...open.map(({ source, destination }) => trouble('air', { source, detail: destination })),
      ...arrived,
    ];
  }

  private needsOwnTrack({ id, clearance }: Source): boolean {
    return (
      this.wanted.ownTracks.has(id) &&
      isCleared(this.wanted.clearances.get(id) ?? clearance, 'edit', this.today)
    );
  }
}

function trouble(
  kind: TroubleKind,
  about: { source?: string; destination?: string; scene?: string | null; detail?: string },
  more = 0,
): Trouble {
  const { source = null, destination = null, scene = null, detail = null } = about;
  const inOne = WEIGHTS[kind] + more;
  const place = destination === null ? `${kind} ${source} ${detail}` : `${source} ${destination}`;
  return { kind, inOne, weight: inOne, source, destination, scene, detail, place };
}

function addWanted(
  add: (kind: TroubleKind, more?: number) => void,
  arrival: Arrival | null,
  wishDb: number,
): void {
  if (!arrival || (arrival.gainDb < AUDIBLE_DB && wishDb >= AUDIBLE_DB)) {
    add('missing');
    return;
  }
  const off = Math.abs(arrival.gainDb - wishDb);
  if (off >= OFF_FROM_DB) add('off', Math.min(off, MOST_OFF_DB));
}

function sumOf(troubles: Trouble[]): number {
  let sum = 0;
  for (const { weight } of troubles) sum += weight;
  return sum;
}

/** The scenes of a setup, and which pickups are silent in which. */
class Scenes {
  private readonly ids: string[];
  /** For each pickup that is silent in some scene: its place in the graph, and the scenes in which it sounds. */
  private readonly limited = new Map<number, readonly string[]>();

  constructor(setup: Setup, graph: Graph) {
    this.ids = setup.scenes.map(({ id }) => id);
    if (this.ids.length > 0)
      for (const { scenes, to } of graph.edges) if (scenes !== null) this.limited.set(to, scenes);
  }

  /** The states in which a source is to be judged: each scene, or, where it is the same in all of them, one for so many. */
  statesOf({ waves }: Trail): { scene: string | null; count: number }[] {
    const count = Math.max(1, this.ids.length);
    for (const [node, sounding] of this.limited)
      if (waves[node] && this.ids.some((id) => !sounding.includes(id)))
        return this.ids.map((scene) => ({ scene, count: 1 }));
    return [{ scene: null, count }];
  }
}

/** Tells whether something that passes a place arrives anywhere. */
function isHeard(bySource: Map<string, SourceJudged>, destinations: Destination[], place: string): boolean {
  return [...bySource.values()].some(
    ({ passes, trail }) =>
      passes.has(place) && destinations.some((destination) => arrivalAt(trail, destination) !== null),
  );
}

/** Tells whether a source is alone on some edit track of the file, or on channels of its own there. */
function isAloneSomewhere(bySource: Map<string, SourceJudged>, id: string): boolean {
  for (const [track, { channels, isAudible }] of bySource.get(id)?.onEdit ?? []) {
    if (!isAudible) continue;
    let isAlone = true;
    for (const [other, { onEdit }] of bySource) {
      const theirs = other === id ? undefined : onEdit.get(track)?.channels;
      if (
        !theirs ||
        (channels.length > 0 && theirs.length > 0 && !channels.some((one) => theirs.includes(one)))
      )
        continue;
      isAlone = false;
      break;
    }
    if (isAlone) return true;
  }
  return false;
}
