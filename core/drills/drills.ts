import type { Finding } from '../findings/finding.ts';
import { findingsOf } from '../findings/findings.ts';
import { deviceOf, sameApp } from '../reach/graph.ts';
import { reachOf } from '../reach/reach.ts';
import { attempt } from '../repair/attempt.ts';
import { handworkOf } from '../repair/handwork.ts';
import { type Remedy, remediesFor } from '../repair/remedies.ts';
import { clearanceOf } from '../setup/clearance.ts';
import { type Edit, nameOf, type SimpleEdit } from '../setup/edits.ts';
import { newId } from '../setup/ids.ts';
import { DEFAULT_DEVICE, isPlugged, type Setup } from '../setup/schema.ts';

export const DRILL_KINDS = [
  'restart',
  'unplug',
  'new game',
  'scene',
  'music in the call',
  'crossed chat',
  'listening in',
] as const;
export type DrillKind = (typeof DRILL_KINDS)[number];

/** A what-if: what happens, in words, and the state that it leaves a setup in. Nothing is changed by it. */
export interface Drill {
  id: string;
  kind: DrillKind;
  label: string;
  /** Returns the setup as it would be; null when this can no longer happen to it. */
  strike(setup: Setup): { setup: Setup; scene?: string } | null;
}

/** What one source gains or loses at one destination; gains in dB, null where nothing arrives. */
export interface DrillChange {
  source: string;
  destination: string;
  beforeDb: number | null;
  afterDb: number | null;
}

/** At one destination: how many sources a drill takes away, brings, and makes louder or quieter. */
export interface DrillCount {
  lost: number;
  gained: number;
  moved: number;
}

/** Counts what a drill does at a destination. */
export function countAt({ changes }: DrillResult, destination: string): DrillCount {
  const count = { lost: 0, gained: 0, moved: 0 };
  for (const change of changes) {
    if (change.destination !== destination) continue;
    if (change.afterDb === null) count.lost += 1;
    else if (change.beforeDb === null) count.gained += 1;
    else count.moved += 1;
  }
  return count;
}

/** How a drill goes: what changes at which destination, and which findings it would bring. */
export interface DrillResult {
  changes: DrillChange[];
  findings: Finding[];
  /** Names of the sources and destinations in `changes`, those that the drill brings with it too. */
  names: Map<string, string>;
}

/** Returns every drill that a setup can be put through. */
export function drillsOf(setup: Setup): Drill[] {
  return [
    ...restarts(setup),
    ...unpluggings(setup),
    ...newGames(setup),
    ...scenes(setup),
    ...musicInTheCall(setup),
    ...crossedChat(setup),
    ...listeningIn(setup),
  ];
}

/** Puts a setup through a drill and compares. `today` as for findings. */
export function runDrill(setup: Setup, drill: Drill, today: string): DrillResult {
  const struck = drill.strike(setup);
  if (!struck) return { changes: [], findings: [], names: new Map() };
  const before = reachOf(setup);
  const after = reachOf(struck.setup, { scene: struck.scene });
  const names = new Map<string, string>();
  const changes: DrillChange[] = [];
  for (const source of struck.setup.sources) {
    for (const destination of after.destinations) {
      const beforeDb = before.at(source.id, destination.id)?.gainDb ?? null;
      const afterDb = after.at(source.id, destination.id)?.gainDb ?? null;
      if (
        beforeDb === afterDb ||
        (beforeDb !== null && afterDb !== null && Math.abs(beforeDb - afterDb) < 0.05)
      )
        continue;
      changes.push({ source: source.id, destination: destination.id, beforeDb, afterDb });
      names.set(source.id, source.name);
      names.set(destination.id, destination.name);
    }
  }
  return { changes, findings: newFindings(setup, struck, today), names };
}

/**
 * Returns changes of the setup after which the drill brings fewer findings, none of them a stop if that can be had; the
 * setup itself gets no new stop-finding by them.
 */
export function safeguardsFor(setup: Setup, drill: Drill, today: string): Remedy[] {
  const struck = drill.strike(setup);
  if (!struck) return [];
  const now = newFindings(setup, struck, today);
  const known = new Set(findingsOf(setup, today).map(({ id }) => id));
  const candidates: { label: string; edit: Edit }[] = [
    ...defaultChoices(setup),
    ...now
      .slice(0, 3)
      .flatMap((finding) => remediesFor(struck.setup, finding, today))
      .filter(({ givesUp }) => givesUp.length === 0),
  ];
  const found = candidates.flatMap(({ label, edit }) => {
    const safe = attempt(setup, edit);
    const again = safe && drill.strike(safe);
    if (!safe || !again) return [];
    const own = findingsOf(safe, today);
    if (own.some((one) => one.severity === 'stop' && !known.has(one.id))) return [];
    const left = newFindings(safe, again, today);
    const better = stops(left) < stops(now) || (stops(left) === stops(now) && left.length < now.length);
    if (!better) return [];
    const handwork = handworkOf(setup, edit);
    return [{ remedy: { label, edit, handwork, findingsAfter: own.length, givesUp: [] }, left }];
  });
  return found
    .sort(
      (a, b) =>
        stops(a.left) - stops(b.left) ||
        a.left.length - b.left.length ||
        a.remedy.handwork.length - b.remedy.handwork.length,
    )
    .slice(0, 3)
    .map(({ remedy }) => remedy);
}

/** The findings that a drill brings: those of the struck setup that the setup does not have now. */
function newFindings(setup: Setup, struck: { setup: Setup; scene?: string }, today: string): Finding[] {
  const known = new Set(findingsOf(setup, today).map(({ id }) => id));
  const reach = reachOf(struck.setup, { scene: struck.scene });
  return findingsOf(struck.setup, today, reach).filter((one) => !known.has(one.id));
}

function stops(findings: Finding[]): number {
  return findings.filter((one) => one.severity === 'stop').length;
}

function restarts(setup: Setup): Drill[] {
  const apps = setup.sources.filter((source) => {
    const machine = setup.machines.find((one) => one.id === source.machine);
    const device = deviceOf(setup, source);
    return !isPlugged(source.kind) && machine?.defaultOutput && device && device !== machine.defaultOutput;
  });
  const firsts = apps.filter((source) => sameApp(setup, source)[0] === source);
  return firsts.map((source) => ({
    id: `restart.${source.id}`,
    kind: 'restart',
    label: `${source.app ?? source.name} restarts and falls to the default device`,
    strike: (now) => {
      const one = now.sources.find(({ id }) => id === source.id);
      const fallen = one ? sameApp(now, one) : [];
      return edited(
        now,
        fallen.map(
          (one): SimpleEdit => ({
            edit: 'updateSource',
            id: one.id,
            values: { into: DEFAULT_DEVICE },
          }),
        ),
      );
    },
  }));
}

function unpluggings(setup: Setup): Drill[] {
  const { sourcesAt } = reachOf(setup);
  return setup.devices
    .filter((device) => device.kind === 'physical' && sourcesAt(device.id).length > 0)
    .map((device) => ({
      id: `unplug.${device.id}`,
      kind: 'unplug',
      label: `${nameOf(setup, device.machine)}’s “${device.name}” is unplugged`,
      strike: (now) => {
        const fallen = now.sources
          .filter((source) => source.into === device.id && !isPlugged(source.kind))
          .map(
            (source): SimpleEdit => ({
              edit: 'updateSource',
              id: source.id,
              values: { into: DEFAULT_DEVICE },
            }),
          );
        return edited(now, [...fallen, { edit: 'removeDevice', id: device.id, rehome: null }]);
      },
    }));
}

function newGames(setup: Setup): Drill[] {
  const machines = new Set(
    setup.sources
      .filter((source) => source.kind === 'game' && source.machine)
      .map((source) => source.machine),
  );
  return setup.machines
    .filter((machine) => machines.has(machine.id) && machine.defaultOutput)
    .map((machine) => ({
      id: `new-game.${machine.id}`,
      kind: 'new game',
      label: `A new game starts on ${machine.name}`,
      strike: (now) =>
        edited(now, [
          {
            edit: 'addSource',
            id: newId(now, 'new game'),
            source: {
              name: 'The new game',
              kind: 'game',
              clearance: clearanceOf('own'),
              machine: machine.id,
              into: DEFAULT_DEVICE,
              levelDb: 0,
              media: null,
            },
          },
        ]),
    }));
}

function scenes(setup: Setup): Drill[] {
  return setup.scenes.map((scene) => ({
    id: `scene.${scene.id}`,
    kind: 'scene',
    label: `The scene “${scene.name}” goes on air`,
    strike: (now) => (now.scenes.some((one) => one.id === scene.id) ? { setup: now, scene: scene.id } : null),
  }));
}

function musicInTheCall(setup: Setup): Drill[] {
  const friend = setup.sources.find((source) => source.kind === 'voice chat');
  if (!friend) return [];
  return [
    {
      id: 'call-music',
      kind: 'music in the call',
      label: `${friend.name} turns music on in the call`,
      strike: (now) => {
        const voice = now.sources.find((source) => source.id === friend.id);
        if (!voice) return null;
        const id = newId(now, 'music in the call');
        const { machine, into, app, levelDb } = voice;
        const taken = now.pickups.filter((pickup) => pickup.takes === voice.id);
        const fed = edited(now, [
          {
            edit: 'addSource',
            id,
            source: {
              name: 'Music in the call',
              kind: 'music',
              clearance: clearanceOf('never'),
              ...(machine ? { machine } : {}),
              ...(into ? { into } : {}),
              ...(app ? { app } : {}),
              levelDb,
              media: null,
              ownTrack: false,
            },
          },
        ]);
        return (
          fed && {
            setup: app
              ? fed.setup
              : takenAlong(
                  fed.setup,
                  id,
                  taken.map((pickup) => pickup.id),
                ),
          }
        );
      },
    },
  ];
}

/** A source that sounds inside of another's is taken wherever that one is: by the same pickups. */
function takenAlong(setup: Setup, id: string, pickups: string[]): Setup {
  const ownPickup = setup.pickups.find((pickup) => pickup.takes === id);
  return {
    ...setup,
    pickups: setup.pickups.filter((pickup) => pickup !== ownPickup || pickups.length > 0),
    sends: [
      ...setup.sends,
      ...(ownPickup
        ? setup.sends
            .filter((send) => pickups.includes(send.pickup))
            .map((send) => ({ ...send, pickup: ownPickup.id }))
        : []),
    ],
  };
}

function crossedChat(setup: Setup): Drill[] {
  const friends = setup.destinations.find((one) => one.kind === 'friends' && one.hears?.length);
  const voice = setup.sources.find((source) => source.kind === 'voice chat' && source.into);
  if (!friends || !voice) return [];
  return [
    {
      id: 'crossed-chat',
      kind: 'crossed chat',
      label: 'The chat app’s input and output are crossed',
      strike: (now) => {
        const [input] = now.destinations.find((one) => one.id === friends.id)?.hears ?? [];
        const one = now.sources.find((source) => source.id === voice.id);
        const output = one && deviceOf(now, one);
        if (!input || !output) return null;
        const plays = now.devices.find((device) => device.id === input)?.direction === 'out';
        const voices = now.sources
          .filter((source) => source.kind === 'voice chat' && deviceOf(now, source) === output)
          .map(
            (source): SimpleEdit =>
              plays
                ? { edit: 'updateSource', id: source.id, values: { into: input } }
                : { edit: 'updateSource', id: source.id, values: {}, clear: ['into'] },
          );
        return edited(now, [
          { edit: 'updateDestination', id: friends.id, values: { hears: [output] } },
          ...voices,
        ]);
      },
    },
  ];
}

function listeningIn(setup: Setup): Drill[] {
  const linked = new Set(setup.links.map((link) => link.from));
  const heard = new Set(
    setup.destinations.filter((one) => one.kind === 'headphones').flatMap((one) => one.hears ?? []),
  );
  return setup.mixes
    .filter((mix) => {
      const isDesk = setup.machines.find((machine) => machine.id === mix.machine)?.kind === 'desk';
      return isDesk && mix.into.some((device) => linked.has(device));
    })
    .flatMap((mix): Drill[] => {
      const phones = setup.devices.find((device) => device.machine === mix.machine && heard.has(device.id));
      if (!phones) return [];
      return [
        {
          id: `listen.${mix.id}`,
          kind: 'listening in',
          label: `You listen in on “${mix.name}”, and ${nameOf(setup, mix.machine)} re-routes it to your headphones`,
          strike: (now) => edited(now, [{ edit: 'updateMix', id: mix.id, values: { into: [phones.id] } }]),
        },
      ];
    });
}

/** Every other choice of a default output that could make falling back harmless. */
function defaultChoices(setup: Setup): { label: string; edit: Edit }[] {
  return setup.machines
    .filter((machine) => machine.defaultOutput)
    .flatMap((machine) =>
      setup.devices
        .filter(
          (device) =>
            device.machine === machine.id &&
            device.direction === 'out' &&
            device.id !== machine.defaultOutput,
        )
        .map((device) => ({
          label: `Make “${device.name}” the default output of ${machine.name}`,
          edit: { edit: 'updateMachine', id: machine.id, values: { defaultOutput: device.id } } as Edit,
        })),
    );
}

function edited(setup: Setup, edits: SimpleEdit[]): { setup: Setup } | null {
  const after = edits.reduce<Setup | null>((now, edit) => now && attempt(now, edit), setup);
  return after && { setup: after };
}
