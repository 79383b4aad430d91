import { standsOn } from '../setup/channels.ts';
import { clockPpmOf, inputDriftPpm } from '../setup/clocks.ts';
import { takenPairs } from '../setup/devicePairs.ts';
import { soundingScenes } from '../setup/scenes.ts';
import { DEFAULT_DEVICE, type Pickup, type Setup, type Source } from '../setup/schema.ts';
import { type Graph, GraphBuilder, knownSends } from './graphBuilder.ts';
import { ownGainDb } from './ownGain.ts';

export {
  FRAMES_PER_MS,
  type Graph,
  type GraphEdge,
  type GraphNode,
  type NodeKind,
  signOf,
} from './graphBuilder.ts';

/** Limits the graph to what sounds in one scene; all pickups sound when it is left out. */
export interface GraphOptions {
  scene?: string;
}

/**
 * Builds the graph of a setup: sources play into devices, mixes sum what they take in, links join machines, pickups
 * take devices or single apps, and sends bring them to tracks and destinations.
 */
export function graphOf(setup: Setup, { scene }: GraphOptions = {}): Graph {
  const builder = new GraphBuilder(setup);
  const machines = new Map(setup.machines.map((machine) => [machine.id, machine]));
  const devices = new Map(setup.devices.map((device) => [device.id, device]));

  for (const source of setup.sources) builder.node([source], source.id, () => source.name, 'source');
  for (const device of setup.devices) {
    const machine = machines.get(device.machine);
    builder.node(
      [device, machine],
      device.id,
      () => `${machine?.name ?? device.machine} · ${device.name}`,
      'device',
    );
  }
  for (const mix of setup.mixes)
    builder.node([mix], mix.id, () => `Mix “${mix.name}”`, 'mix', mix.processing);
  for (const pickup of setup.pickups) {
    const taken = builder.nodeNamed(pickup.takes);
    const name = () => pickup.name ?? `Pickup of ${taken?.place ?? pickup.takes}`;
    builder.node([pickup, taken], pickup.id, name, 'pickup', pickup.processing);
    // For multichannel tracks, on which its pairs of channels stay apart.
    for (const pair of everyPair(pickup))
      builder.node(
        [{}],
        pickup.id,
        () => `${name()}, channels ${2 * pair + 1} and ${2 * pair + 2}`,
        'pickup',
        pickup.processing,
        pairKey(pickup.id, pair),
      );
  }
  setup.tracks.forEach((track, i) => {
    builder.node([track, i], track.id, () => `Track ${i + 1} · ${track.name}`, 'track', track.processing);
  });
  for (const one of setup.destinations)
    if (one.kind !== 'live' && one.kind !== 'vod')
      builder.node([one], one.id, () => `Mix for ${one.name}`, 'destination', one.processing);

  const silent = new Set(setup.sources.flatMap(({ id, stuck }) => (stuck ? [id] : [])));
  for (const source of setup.sources) {
    const device = deviceOf(setup, source);
    if (device && !silent.has(source.id)) builder.edge(source.id, device, { what: intoWords(source) });
  }
  const driftOf = (from: string) => {
    const device = devices.get(from);
    return device ? inputDriftPpm(setup, device) : 0;
  };
  for (const mix of setup.mixes) {
    for (const { from, gainDb, muted, delayMs, processing } of mix.inputs)
      if (!muted && !silent.has(from))
        builder.edge(from, mix.id, {
          what: 'taken in',
          gainDb,
          delayMs,
          processing,
          driftPpm: driftOf(from),
        });
    if (mix.listenedOn !== undefined) builder.edge(mix.id, mix.listenedOn, { what: 'listened in on here' });
    else for (const device of mix.into) builder.edge(mix.id, device, { what: 'plays into this device' });
  }
  for (const link of setup.links) {
    builder.edge(link.from, link.to, {
      what: `over ${link.name}`,
      delayMs: link.latencyMs,
      link,
      driftPpm: link.converted === false ? clockPpmOf(setup, link.from) - clockPpmOf(setup, link.to) : 0,
    });
  }
  const sourcesById = new Map(setup.sources.map((source) => [source.id, source]));
  const { monitorDevice, monitorDelayMs } = setup.recorder;
  for (const pickup of setup.pickups) {
    const { id, takes, gainDb, delayMs, mono } = pickup;
    const scenes = soundingScenes(setup, pickup);
    if (pickup.muted || (scene !== undefined && scenes && !scenes.includes(scene))) continue;
    const app = sourcesById.get(takes);
    const taken = app
      ? sourcesTaken(setup, pickup, app).filter((one) => !silent.has(one))
      : takenPairs(setup, pickup);
    const what = app?.app ? `${app.app}, taken by the recorder` : 'taken by the recorder';
    for (const from of taken)
      builder.edge(from, id, { what, gainDb, delayMs, mono, scenes, driftPpm: driftOf(from) });
    for (const pair of everyPair(pickup))
      builder.edge(taken[pair], pairKey(id, pair), {
        what,
        gainDb,
        delayMs,
        mono,
        scenes,
        driftPpm: driftOf(taken[pair]),
      });
    if (pickup.monitoring && monitorDevice !== undefined)
      builder.edge(id, monitorDevice, { what: 'played back by the recorder', delayMs: monitorDelayMs });
  }
  const tracks = new Map(setup.tracks.map((track) => [track.id, track]));
  const apartPairs = new Map(
    setup.pickups.flatMap((one) => ((one.pairs ?? 1) > 1 ? [[one.id, everyPair(one)] as const] : [])),
  );
  const onlyHeard = new Set(
    setup.pickups.flatMap(({ id, monitoring }) => (monitoring === 'heard' ? [id] : [])),
  );
  for (const send of setup.sends) {
    const track = tracks.get(send.to);
    if (track && onlyHeard.has(send.pickup)) continue;
    const apart = track?.layout === 'multichannel' ? apartPairs.get(send.pickup) : undefined;
    if (apart === undefined && builder.again(send, track)) continue;
    const channels = track ? standsOn(track, send) : null;
    const legFrom = (key: string, on: number[] | null) =>
      builder.edge(key, send.to, {
        what: on ? `send, ${channelWords(on)}` : 'send',
        gainDb: send.gainDb,
        channels: on,
        processing: send.processing,
      });
    if (apart !== undefined) {
      for (const pair of apart)
        legFrom(pairKey(send.pickup, pair), channels?.map((one) => one + 2 * pair) ?? null);
      continue;
    }
    const edge = legFrom(send.pickup, channels);
    if (edge) knownSends.set(send, { track, edge });
  }
  for (const { id, hears = [] } of setup.destinations)
    for (const device of hears) builder.edge(device, id, { what: 'heard here' });
  addAir(setup, builder);
  return builder.finish();
}

/** Names what a microphone hears of loudspeakers, as a place of the graph. */
export function airId(destination: string, source: string): string {
  return `${destination}~air~${source}`;
}

/**
 * What loudspeakers play reaches the microphones of their room, quieter, and goes where the microphone goes, with the level and
 * the processing that it has. A microphone that comes out of them itself would howl: that is found, and its air is left out.
 */
function addAir(setup: Setup, builder: GraphBuilder): void {
  for (const { destination, source, gainDb } of setup.air ?? []) {
    const microphone = setup.sources.find(({ id }) => id === source);
    const isHeard = setup.destinations.some(({ id, kind }) => id === destination && kind === 'loudspeakers');
    if (!microphone || !isHeard || builder.leads(source, destination)) continue;
    const id = airId(destination, source);
    const name = () => `Microphone of ${microphone.name}`;
    builder.node([microphone, destination], id, name, 'air', microphone.processing);
    builder.goesOnAs(source, id, ownGainDb(microphone));
    builder.edge(destination, id, { what: 'through the air', gainDb });
  }
}

/** The sources whose sound leaves their machine as one: those of the same app. */
export function sameApp(setup: Setup, source: Source): Source[] {
  if (source.app === undefined) return [source];
  return setup.sources.filter((one) => one.app === source.app && one.machine === source.machine);
}

/** Tells whether a pickup takes a source by itself, or the app that it comes out of. */
export function isTakenAlone(setup: Setup, { takes }: Pick<Pickup, 'takes'>, source: Source): boolean {
  return sameApp(setup, source).some(({ id }) => id === takes);
}

/** The sources that a pickup takes of an app: none where nothing has the name that it asks for. */
function sourcesTaken(setup: Setup, pickup: Pickup, app: Source): string[] {
  return isCalledSo(pickup, app) ? sameApp(setup, app).map(({ id }) => id) : [];
}

/** Tells whether the app that a pickup takes has the name that it asks for. */
export function isTakenAs(setup: Setup, pickup: Pickup): boolean {
  const taken = setup.sources.find(({ id }) => id === pickup.takes);
  return taken === undefined || isCalledSo(pickup, taken);
}

/** Tells whether a source has the name that a pickup asks for; capitals do not matter. */
export function isCalledSo({ asksFor }: Pick<Pickup, 'asksFor'>, { app, name }: Source): boolean {
  if (asksFor === undefined) return true;
  const wanted = asksFor.toLowerCase();
  return wanted === name.toLowerCase() || wanted === app?.toLowerCase();
}

/**
 * The device that a source plays into, undefined for none: the one that the app names itself; else the one that its machine's settings
 * give to it; else the machine's default.
 */
export function deviceOf(setup: Setup, source: Source): string | undefined {
  if (source.into !== DEFAULT_DEVICE) return source.into;
  return source.machineInto ?? setup.machines.find((machine) => machine.id === source.machine)?.defaultOutput;
}

/** Tells whether an app names another output itself than its machine's settings give to it. */
export function isOverruled({ into, machineInto }: Source): boolean {
  return machineInto !== undefined && into !== undefined && into !== DEFAULT_DEVICE && into !== machineInto;
}

function intoWords({ into, machineInto }: Source): string {
  if (into !== DEFAULT_DEVICE) return 'plays into this device';
  return machineInto === undefined
    ? 'plays into the machine’s default'
    : 'is given this device by its machine';
}

/** What names a leg from one place to the next. */
export function legKey(from: string, to: string): string {
  return `${from} > ${to}`;
}

/** Says channels in words: "channel 3", "channels 1 and 2". */
export function channelWords(channels: number[]): string {
  return channels.length === 1
    ? `channel ${channels[0]}`
    : `channels ${channels.slice(0, -1).join(', ')} and ${channels.at(-1)}`;
}

/** The pairs of channels that a pickup takes, counted from zero, where there are several of them. */
function everyPair({ pairs = 1 }: Pickup): number[] {
  return pairs === 1 ? [] : Array.from({ length: pairs }, (_, pair) => pair);
}

/** The place at which one pair of channels of a pickup is by itself; no id is written so. */
function pairKey(pickup: string, pair: number): string {
  return `${pickup}#${pair + 1}`;
}
