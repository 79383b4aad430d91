import { z } from 'zod';
import { clearanceOf, safePresetOf } from '../setup/clearance.ts';
import type { Edit } from '../setup/edits.ts';
import { nameOf } from '../setup/edits.ts';
import { newId } from '../setup/ids.ts';
import { DEFAULT_DEVICE, IdSchema, NameSchema, type Setup, SOURCE_KINDS } from '../setup/schema.ts';

/** An app (or a plug) as it is in the room: which device it plays into, its volume, and whether it has sounded yet. */
const RoomAppSchema = z.strictObject({
  id: IdSchema,
  name: NameSchema,
  kind: z.enum(SOURCE_KINDS),
  machine: IdSchema,
  into: IdSchema,
  volumePercent: z.number().min(1).max(100),
  sounding: z.boolean(),
});

/**
 * A stand-in for the creator's real room: machines with default devices, and apps whose outputs can be reassigned. The
 * setup says how it should be; the room says how it is.
 */
export const RoomSchema = z.strictObject({
  apps: z.array(RoomAppSchema).max(200),
  defaults: z.record(IdSchema, IdSchema),
});
export type Room = z.infer<typeof RoomSchema>;
export type RoomApp = Room['apps'][number];

/** A difference between the room and the setup; `edit` would make the setup say what the room does. */
export interface RoomDifference {
  id: string;
  kind: 'new' | 'moved' | 'volume' | 'default';
  text: string;
  edit: Edit;
}

/** Returns the room that is just as a setup says, with everything sounding. */
export function roomOf(setup: Setup): Room {
  return {
    apps: setup.sources.flatMap(({ id, name, kind, machine, into, volumePercent = 100 }) =>
      machine === undefined
        ? []
        : [{ id, name, kind, machine, into: into ?? DEFAULT_DEVICE, volumePercent, sounding: true }],
    ),
    defaults: Object.fromEntries(
      setup.machines.flatMap(({ id, defaultOutput }) => (defaultOutput ? [[id, defaultOutput]] : [])),
    ),
  };
}

/** Returns the sources of a setup that have not made a sound in the room yet. */
export function expectedSources(setup: Setup, room: Room): string[] {
  return setup.sources
    .filter((source) => source.machine !== undefined)
    .filter((source) => !room.apps.some((app) => app.id === source.id && app.sounding))
    .map(({ id }) => id);
}

/** Returns what in the room is not as the setup says: apps that are not in it, outputs, volumes, default devices. */
export function differencesOf(setup: Setup, room: Room): RoomDifference[] {
  return [
    ...room.apps.flatMap((app) => appDifferences(setup, app)),
    ...setup.machines.flatMap((machine): RoomDifference[] => {
      const now = room.defaults[machine.id];
      if (now === undefined || now === machine.defaultOutput) return [];
      return [
        {
          id: `default:${machine.id}`,
          kind: 'default',
          text: `The default output of ${machine.name} is “${nameOf(setup, now)}” now.`,
          edit: { edit: 'updateMachine', id: machine.id, values: { defaultOutput: now } },
        },
      ];
    }),
  ];
}

function appDifferences(setup: Setup, app: RoomApp): RoomDifference[] {
  const source = setup.sources.find((one) => one.id === app.id);
  const device = app.into === DEFAULT_DEVICE ? 'the default output' : `“${nameOf(setup, app.into)}”`;
  if (!source) {
    return app.sounding
      ? [
          {
            id: `new:${app.id}`,
            kind: 'new',
            text: `${app.name} sounds on ${nameOf(setup, app.machine)}, into ${device}, and is in no setup yet.`,
            edit: placed(app, app.machine),
          },
        ]
      : [];
  }
  const found: RoomDifference[] = [];
  const says = source.into ?? DEFAULT_DEVICE;
  // What the machine gives to an app that leaves the choice to it is where the app plays.
  const isGiven = says === DEFAULT_DEVICE && source.machineInto === app.into;
  if (says !== app.into && !isGiven)
    found.push({
      id: `moved:${app.id}`,
      kind: 'moved',
      text: `${source.name} plays into ${device}; the setup says ${says === DEFAULT_DEVICE ? 'the default output' : `“${nameOf(setup, says)}”`}.`,
      edit: { edit: 'updateSource', id: source.id, values: { into: app.into } },
    });
  if ((source.volumePercent ?? 100) !== app.volumePercent)
    found.push({
      id: `volume:${app.id}`,
      kind: 'volume',
      text: `${source.name}’s own volume is at ${app.volumePercent} %; the setup says ${source.volumePercent ?? 100} %.`,
      edit: { edit: 'updateSource', id: source.id, values: { volumePercent: app.volumePercent } },
    });
  return found;
}

/** The edit that takes an app of the room into the setup, on a machine. */
export function placed(app: RoomApp, machine: string): Edit {
  return {
    edit: 'addSource',
    id: app.id,
    source: {
      name: app.name,
      kind: app.kind,
      clearance: clearanceOf(safePresetOf(app.kind)),
      machine,
      ...(machine === app.machine ? { into: app.into } : {}),
      ...(app.volumePercent === 100 ? {} : { volumePercent: app.volumePercent }),
      levelDb: 0,
      media: null,
    },
  };
}

/** Returns the room with another app that starts to sound on a machine, on its default output. */
export function withNewApp(setup: Setup, room: Room, name: string, machine: string): Room {
  const taken = new Set(room.apps.map((app) => app.id));
  let id = newId(setup, name);
  while (taken.has(id)) id = `${id}-2`;
  const app: RoomApp = {
    id,
    name,
    kind: 'game',
    machine,
    into: DEFAULT_DEVICE,
    volumePercent: 100,
    sounding: true,
  };
  return { ...room, apps: [...room.apps, app] };
}

/** Returns the room put right where it differs: apps play where the setup says, at its volumes, with its defaults. */
export function putRight(setup: Setup, room: Room): Room {
  const should = roomOf(setup);
  return {
    apps: room.apps.map((app) => {
      const right = should.apps.find((one) => one.id === app.id);
      return right ? { ...app, into: right.into, volumePercent: right.volumePercent } : app;
    }),
    defaults: should.defaults,
  };
}
