import { reachOf } from '../reach/reach.ts';
import { type ClearancePreset, clearanceOf } from '../setup/clearance.ts';
import {
  AIR_DB,
  nearestGain,
  type Pickup,
  SETUP_VERSION,
  type Setup,
  type Source,
  type Track,
} from '../setup/schema.ts';
import type { Device, Link, Machine, Mix } from '../setup/wiring.ts';

/** A room in short: what is where, and what is sent to which track. What arrives is what is wanted. */
export interface Sketch {
  recorder: string;
  machines: Record<string, Partial<Machine>>;
  /** "machine.name": "out", "in", "virtual out" or "virtual in". */
  devices: Record<string, string>;
  /** Devices that have a clock of their own, and whose clock they follow. */
  together?: Record<string, Pick<Device, 'follows' | 'clockPpm'>>;
  links?: [from: string, to: string, kind: Link['kind'], more?: Partial<Link>][];
  /** By id; inputs with their gains (dB), muted where it is null. */
  mixes?: Record<string, { on: string; inputs: Record<string, number | null>; into: string[] }>;
  sources: [
    id: string,
    name: string,
    kind: Source['kind'],
    preset: ClearancePreset,
    into: string | null,
    more?: Partial<Source>,
  ][];
  /** By id: what is taken, and the sends (dB) by track. */
  pickups: Record<
    string,
    { takes: string; to: Record<string, number> } & Partial<Pick<Pickup, 'scenes' | 'monitoring'>>
  >;
  /** What the recorder plays back on, and how late (ms). */
  monitors?: [device: string, delayMs: number];
  tracks: [id: string, uses: Track['uses'], purpose: Track['purpose']][];
  headphones: string[];
  friends?: string[];
  loudspeakers?: string[];
  /** What goes out to somewhere else, as a microphone of its own. */
  studio?: string[];
  /** Which microphones would hear which destinations, 30 dB quieter, if those were loudspeakers. */
  air?: [destination: string, source: string][];
  scenes?: string[];
}

/** Makes a setup of a sketch. Every wish is what arrives, so that the room is right by its making. */
export function roomOf(name: string, sketch: Sketch): Setup {
  const setup: Setup = {
    format: 'northfen.setup',
    version: SETUP_VERSION,
    name,
    recorder: {
      machine: sketch.recorder,
      trackLimit: Math.max(8, sketch.tracks.length),
      ...(sketch.monitors && { monitorDevice: sketch.monitors[0], monitorDelayMs: sketch.monitors[1] }),
    },
    machines: Object.entries(sketch.machines).map(([id, more]) => ({
      id,
      name: id,
      kind: 'computer',
      ...more,
    })),
    devices: Object.entries(sketch.devices).map(
      ([id, what]): Device => ({
        id,
        name: id.split('.')[1],
        machine: id.split('.')[0],
        direction: what.endsWith('in') ? 'in' : 'out',
        kind: what.startsWith('virtual') ? 'virtual' : 'physical',
        ...sketch.together?.[id],
      }),
    ),
    links: (sketch.links ?? []).map(
      ([from, to, kind, more], i): Link => ({
        id: `link-${i + 1}`,
        name: `${from} to ${to}`,
        ...{ from, to, kind, latencyMs: kind === 'network' ? 20 : 5 },
        ...(kind === 'analogue' ? { isolated: true } : {}),
        ...more,
      }),
    ),
    mixes: Object.entries(sketch.mixes ?? {}).map(
      ([id, { on, inputs, into }]): Mix => ({
        id,
        name: id,
        machine: on,
        inputs: Object.entries(inputs).map(([from, gainDb]) =>
          gainDb === null ? { from, gainDb: 0, muted: true } : { from, gainDb },
        ),
        into,
      }),
    ),
    scenes: (sketch.scenes ?? []).map((id) => ({ id, name: id })),
    sources: sketch.sources.map(([id, label, kind, preset, into, more]) => ({
      ...{ id, name: label, kind, clearance: clearanceOf(preset) },
      machine: into?.split('.')[0] ?? sketch.recorder,
      ...(into === null ? {} : { into }),
      ...{ levelDb: 0, media: null },
      ...more,
    })),
    pickups: Object.entries(sketch.pickups).map(([id, { takes, to: _, ...more }]) => ({
      id: `${id}.pickup`,
      takes,
      gainDb: 0,
      ...more,
    })),
    tracks: sketch.tracks.map(([id, uses, purpose]) => ({
      ...{ id, name: id, uses, purpose },
      codec: 'pcm-s24',
      layout: 'stereo',
    })),
    destinations: [
      { id: 'headphones', name: 'Own headphones', kind: 'headphones', hears: sketch.headphones },
      ...(sketch.friends
        ? [{ id: 'friends', name: 'Friends in chat', kind: 'friends' as const, hears: sketch.friends }]
        : []),
      ...(sketch.loudspeakers
        ? [
            {
              id: 'loudspeakers',
              name: 'Loudspeakers',
              kind: 'loudspeakers' as const,
              hears: sketch.loudspeakers,
            },
          ]
        : []),
      ...(sketch.studio
        ? [{ id: 'web-studio', name: 'Web studio', kind: 'other' as const, hears: sketch.studio }]
        : []),
      ...(['live', 'vod'] as const)
        .filter((use) => sketch.tracks.some(([, uses]) => uses.includes(use)))
        .map((use) => ({ id: use, name: use === 'live' ? 'Live' : 'VOD', kind: use })),
    ],
    sends: Object.entries(sketch.pickups).flatMap(([pickup, { to }]) =>
      Object.entries(to).map(([track, gainDb]) => ({ pickup: `${pickup}.pickup`, to: track, gainDb })),
    ),
    ...(sketch.air && {
      air: sketch.air.map(([destination, source]) => ({ destination, source, gainDb: AIR_DB })),
    }),
    intent: [],
  };
  return withWishes(setup);
}

/** Returns a setup in which what arrives is what is wanted, and a source is to have a track of its own where it has one. */
export function withWishes(setup: Setup): Setup {
  const reach = reachOf(setup);
  const intent = setup.sources.flatMap(({ id }) =>
    reach.destinations.flatMap((destination) => {
      const arrival = reach.at(id, destination.id);
      return arrival
        ? [{ source: id, destination: destination.id, gainDb: nearestGain(arrival.gainDb) }]
        : [];
    }),
  );
  const edit = reach.destinations.filter(({ track }) => track?.purpose === 'edit');
  const isAlone = (id: string) =>
    edit.some(
      (destination) =>
        reach.at(id, destination.id) &&
        setup.sources.every((other) => other.id === id || !reach.at(other.id, destination.id)),
    );
  return {
    ...setup,
    intent,
    sources: setup.sources.map((source) =>
      isAlone(source.id) || source.ownTrack === false ? source : { ...source, ownTrack: false },
    ),
  };
}
