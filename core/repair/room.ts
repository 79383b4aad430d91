import type { Destination } from '../reach/destinations.ts';
import { deviceOf, sameApp } from '../reach/graph.ts';
import { type Arrival, arrivalAt, trailOf } from '../reach/reach.ts';
import { levelOf, sounds } from '../reach/waves.ts';
import { nameOf, pickupName, type SimpleEdit } from '../setup/edits.ts';
import type { Setup, Source } from '../setup/schema.ts';
import type { Device } from '../setup/wiring.ts';
import { applied } from './attempt.ts';
import type { Judge, Judged } from './judge.ts';

/** What moves look up in a setup that was judged: who passes where, at what level, and what leads where. */
export class Room {
  readonly setup: Setup;
  readonly judged: Judged;
  private readonly judge: Judge;
  private readonly leading = new Map<string, Set<string>>();
  private leadingSomewhere: Set<string> | null = null;

  constructor(judge: Judge, judged: Judged) {
    this.judge = judge;
    this.judged = judged;
    this.setup = judged.setup;
  }

  /** The room with some edits made; null where they cannot be. */
  after(edits: SimpleEdit[]): Room | null {
    const setup = applied(this.setup, edits);
    return setup && new Room(this.judge, this.judge.judge(setup, this.judged));
  }

  source(id: string | null): Source | undefined {
    return this.setup.sources.find((one) => one.id === id);
  }

  destination(id: string | null): Destination | undefined {
    return this.judged.destinations.find((one) => one.id === id);
  }

  device(id: string | undefined): Device | undefined {
    return this.setup.devices.find((one) => one.id === id);
  }

  name(id: string): string {
    return nameOf(this.setup, id);
  }

  /** The wished level of a source at a destination that its clearance allows (dB); null where it is not wanted. */
  wishDb(source: string, destination: Destination): number | null {
    const one = this.source(source);
    return one && !this.judge.isForbidden(one, destination)
      ? this.judge.wishDb(source, destination.id)
      : null;
  }

  /** Tells whether a source passes a place, itself among them. */
  passes(source: string, place: string): boolean {
    return this.judged.bySource.get(source)?.passes.has(place) ?? false;
  }

  /** The sources that pass a place. */
  sourcesAt(place: string): string[] {
    return this.setup.sources.filter(({ id }) => id !== place && this.passes(id, place)).map(({ id }) => id);
  }

  /** The level at which a source comes to a place (dB); null where it does not. */
  gainAt(source: string, place: string): number | null {
    const trail = this.judged.bySource.get(source)?.trail;
    const node = trail?.graph.indexOf.get(place);
    const here = trail && node !== undefined ? trail.waves[node] : undefined;
    return here ? levelOf(here) : null;
  }

  /** What arrives of a source at a destination, with every pickup sounding, or in one scene. */
  arrival(source: string, destination: Destination, scene: string | null = null): Arrival | null {
    const trail = this.judged.bySource.get(source)?.trail;
    if (!trail) return null;
    return arrivalAt(scene === null ? trail : trailOf(trail.graph, trail.source, scene), destination);
  }

  /** The places from which sound comes to a destination, itself among them; empty where nothing feeds it. */
  leadingTo({ id, sendTo }: Pick<Destination, 'id' | 'sendTo'>, scene: string | null = null): Set<string> {
    const key = `${id} ${scene}`;
    const known = this.leading.get(key);
    if (known) return known;
    const { nodes, entering, indexOf } = this.judged.graph;
    const found = new Set<number>();
    const start = sendTo === null ? undefined : indexOf.get(sendTo);
    if (start !== undefined) found.add(start);
    for (const node of found)
      for (const edge of entering[node]) if (!edge.cut && sounds(edge, scene)) found.add(edge.from);
    const places = new Set([...found].map((node) => nodes[node].id));
    this.leading.set(key, places);
    return places;
  }

  /** The places that may be meant to lead to a destination: those that do, and those that lead nowhere because something is not connected. */
  mayLeadTo(destination: Destination): Set<string> {
    this.leadingSomewhere ??= new Set(this.judged.destinations.flatMap((one) => [...this.leadingTo(one)]));
    const places = new Set(this.leadingTo(destination));
    for (const { id } of this.judged.graph.nodes) if (!this.leadingSomewhere.has(id)) places.add(id);
    return places;
  }

  /** The device that a source plays into or is plugged into. */
  deviceOf(source: Source): string | undefined {
    return deviceOf(this.setup, source);
  }

  /** The sources that can only move together with one: those of its app, and voices of one call. */
  movesWith(source: Source): Source[] {
    const own = sameApp(this.setup, source);
    if (source.kind !== 'voice chat') return own;
    const call = this.setup.sources.filter(
      ({ kind, machine, into }) =>
        kind === 'voice chat' && machine === source.machine && into === source.into,
    );
    return [...new Set([...own, ...call])];
  }

  /** How a creator calls the app of a source, or of all that move with it. */
  appName(source: Source): string {
    const together = this.movesWith(source);
    if (source.app && together.every(({ app }) => app === source.app)) return source.app;
    return together.length > 1 ? `${source.name} and the other friends` : source.name;
  }

  /** How a creator calls what feeds a destination. */
  feedName({ name, track, trackNumber }: Destination): string {
    return track ? `track ${trackNumber}, “${track.name}”` : name;
  }

  /** How a creator calls what a pickup takes. */
  pickupName(id: string): string {
    return pickupName(this.setup, id);
  }

  closeSend(pickup: string, to: string): SimpleEdit {
    return { edit: 'setSend', pickup, to, gainDb: null };
  }
}
