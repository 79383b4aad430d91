import { z } from 'zod';
import { IdSchema } from '../values.ts';
import { listed } from '../words/figures.ts';
import { withoutFirstPair, withPairsThereAre } from './devicePairs.ts';
import { EditError } from './editError.ts';
import { newId } from './ids.ts';
import { find, inserted, patched } from './lists.ts';
import { PickupSchema, type Setup } from './schema.ts';
import {
  DeviceSchema,
  GroupSchema,
  LinkSchema,
  MachineSchema,
  MixInputSchema,
  MixSchema,
  SceneSchema,
} from './wiring.ts';

const given = { id: IdSchema.optional() };

/** The edits of machines, devices, links, mixes, scenes and pickups. */
export const wiringEdits = [
  z.strictObject({ edit: z.literal('addMachine'), ...given, machine: MachineSchema.omit({ id: true }) }),
  z.strictObject({ edit: z.literal('addDevice'), ...given, device: DeviceSchema.omit({ id: true }) }),
  z.strictObject({ edit: z.literal('addLink'), ...given, link: LinkSchema.omit({ id: true }) }),
  z.strictObject({ edit: z.literal('addMix'), ...given, mix: MixSchema.omit({ id: true }) }),
  z.strictObject({ edit: z.literal('addScene'), ...given, scene: SceneSchema.omit({ id: true }) }),
  z.strictObject({ edit: z.literal('addGroup'), ...given, group: GroupSchema.omit({ id: true }) }),
  z.strictObject({ edit: z.literal('addPickup'), ...given, pickup: PickupSchema.omit({ id: true }) }),
  z.strictObject({
    edit: z.literal('updateMachine'),
    id: IdSchema,
    clear: z.array(z.enum(['defaultOutput', 'handovers', 'clockPpm', 'room'])).optional(),
    values: MachineSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({
    edit: z.literal('updateDevice'),
    id: IdSchema,
    clear: z.array(z.enum(['clockPpm', 'follows', 'channelsOf'])).optional(),
    values: DeviceSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({
    edit: z.literal('updateLink'),
    id: IdSchema,
    values: LinkSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({
    edit: z.literal('updateMix'),
    id: IdSchema,
    clear: z.array(z.enum(['listenedOn', 'processing'])).optional(),
    values: MixSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({
    edit: z.literal('updateScene'),
    id: IdSchema,
    values: SceneSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({
    edit: z.literal('updateGroup'),
    id: IdSchema,
    values: GroupSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({
    edit: z.literal('updatePickup'),
    id: IdSchema,
    clear: z
      .array(
        z.enum([
          'name',
          'delayMs',
          'mono',
          'scenes',
          'muted',
          'monitoring',
          'processing',
          'asksFor',
          'pairs',
        ]),
      )
      .optional(),
    values: PickupSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({ edit: z.literal('removeMachine'), id: IdSchema }),
  z.strictObject({
    edit: z.literal('removeDevice'),
    id: IdSchema,
    rehome: IdSchema.nullable()
      .optional()
      .describe('The device that takes over what depends on it; null: what depends on it goes too.'),
  }),
  z.strictObject({ edit: z.literal('removeLink'), id: IdSchema }),
  z.strictObject({ edit: z.literal('removeMix'), id: IdSchema }),
  z.strictObject({ edit: z.literal('removeScene'), id: IdSchema }),
  z.strictObject({ edit: z.literal('removeGroup'), id: IdSchema }),
  z.strictObject({ edit: z.literal('removePickup'), id: IdSchema }),
  z.strictObject({
    edit: z.literal('setMixInput'),
    mix: IdSchema,
    from: IdSchema,
    values: MixInputSchema.omit({ from: true }).partial().nullable(),
  }),
] as const;
const WiringEditSchema = z.discriminatedUnion('edit', wiringEdits);
export type WiringEdit = z.infer<typeof WiringEditSchema>;

/** Tells whether an edit is one of these. */
export function isWiringEdit(edit: { edit: string }): edit is WiringEdit {
  return NAMES.has(edit.edit);
}
const NAMES = new Set<string>(wiringEdits.map((schema) => schema.shape.edit.value));

/**
 * Returns the setup with an edit of its wiring applied.
 * @throws {EditError} when it names a thing that is not there, or takes away what others depend on
 */
export function applyWiringEdit(setup: Setup, edit: WiringEdit): Setup {
  switch (edit.edit) {
    case 'addMachine':
      return { ...setup, machines: added(setup, setup.machines, edit.machine, edit.id) };
    case 'addDevice':
      return { ...setup, devices: added(setup, setup.devices, edit.device, edit.id) };
    case 'addLink':
      return { ...setup, links: added(setup, setup.links, edit.link, edit.id) };
    case 'addMix':
      return { ...setup, mixes: added(setup, setup.mixes, edit.mix, edit.id) };
    case 'addScene':
      return { ...setup, scenes: added(setup, setup.scenes, edit.scene, edit.id) };
    case 'addGroup':
      return { ...setup, groups: added(setup, setup.groups ?? [], edit.group, edit.id) };
    case 'addPickup': {
      const name = edit.pickup.name ?? `${edit.pickup.takes} pickup`;
      const id = edit.id ?? newId(setup, name);
      return { ...setup, pickups: [...setup.pickups, { ...edit.pickup, id }] };
    }
    case 'updateMachine':
      return { ...setup, machines: patched(setup.machines, 'machine', edit.id, edit.values, edit.clear) };
    case 'updateDevice':
      return withPairsThereAre({
        ...setup,
        devices: patched(setup.devices, 'device', edit.id, edit.values, edit.clear),
      });
    case 'updateLink':
      return { ...setup, links: patched(setup.links, 'link', edit.id, edit.values) };
    case 'updateMix':
      return { ...setup, mixes: patched(setup.mixes, 'mix', edit.id, edit.values, edit.clear) };
    case 'updateScene':
      return { ...setup, scenes: patched(setup.scenes, 'scene', edit.id, edit.values) };
    case 'updateGroup':
      return { ...setup, groups: patched(setup.groups ?? [], 'group', edit.id, edit.values) };
    case 'updatePickup': {
      const pickups = patched(setup.pickups, 'pickup', edit.id, edit.values, edit.clear);
      // How many pairs are asked for is not lowered in silence; what another device has is.
      return edit.values.takes === undefined
        ? { ...setup, pickups }
        : withPairsThereAre({ ...setup, pickups });
    }
    case 'removeMachine':
      return removeMachine(setup, edit.id);
    case 'removeDevice':
      return withPairsThereAre(
        removeDevice(edit.rehome === null ? withoutFirstPair(setup, edit.id) : setup, edit.id, edit.rehome),
      );
    case 'removeLink':
      find(setup.links, 'link', edit.id);
      return { ...setup, links: setup.links.filter((link) => link.id !== edit.id) };
    case 'removeMix':
      find(setup.mixes, 'mix', edit.id);
      return withoutInputs(
        { ...setup, mixes: setup.mixes.filter((mix) => mix.id !== edit.id) },
        new Set([edit.id]),
      );
    case 'removeScene':
      return removeScene(setup, edit.id);
    case 'removeGroup':
      return removeGroup(setup, edit.id);
    case 'removePickup':
      find(setup.pickups, 'pickup', edit.id);
      return withoutPickups(setup, new Set([edit.id]));
    case 'setMixInput':
      return setMixInput(setup, edit);
  }
}

/** What depends on a device, in words ("Bellbuoy plays into it"); empty when nothing does. */
export function dependantsOf(setup: Setup, deviceId: string): string[] {
  return [
    ...setup.machines
      .filter((one) => one.defaultOutput === deviceId)
      .map((one) => `it is the default of ${one.name}`),
    ...setup.sources.filter((one) => one.into === deviceId).map((one) => `${one.name} plays into it`),
    ...setup.sources
      .filter((one) => one.machineInto === deviceId)
      .map((one) => `its machine gives it to ${one.name}`),
    ...setup.mixes
      .filter((one) => one.inputs.some(({ from }) => from === deviceId))
      .map((one) => `“${one.name}” takes it in`),
    ...setup.mixes.filter((one) => one.into.includes(deviceId)).map((one) => `“${one.name}” plays into it`),
    ...setup.mixes
      .filter((one) => one.listenedOn === deviceId)
      .map((one) => `somebody listens in on “${one.name}” on it`),
    ...setup.links
      .filter((one) => one.from === deviceId || one.to === deviceId)
      .map((one) => `the link “${one.name}” ends at it`),
    ...setup.pickups.filter((one) => one.takes === deviceId).map(() => 'the recorder takes it'),
    ...(setup.recorder.monitorDevice === deviceId ? ['the recorder plays back on it'] : []),
    ...setup.destinations.filter((one) => one.hears?.includes(deviceId)).map((one) => `${one.name} hears it`),
  ];
}

/** Returns the setup without some pickups, and without their sends. */
export function withoutPickups(setup: Setup, ids: Set<string>): Setup {
  return {
    ...setup,
    pickups: setup.pickups.filter((pickup) => !ids.has(pickup.id)),
    sends: setup.sends.filter((send) => !ids.has(send.pickup)),
    ...(setup.groups && {
      groups: setup.groups.map((group) => ({
        ...group,
        pickups: group.pickups.filter((id) => !ids.has(id)),
      })),
    }),
  };
}

/** Returns the setup with no mix taking in any of the things. */
export function withoutInputs(setup: Setup, ids: Set<string>): Setup {
  if (!setup.mixes.some((mix) => mix.inputs.some(({ from }) => ids.has(from)))) return setup;
  return {
    ...setup,
    mixes: setup.mixes.map((mix) => ({ ...mix, inputs: mix.inputs.filter(({ from }) => !ids.has(from)) })),
  };
}

function added<T extends { id: string; name: string }>(
  setup: Setup,
  list: T[],
  thing: Omit<T, 'id'>,
  id?: string,
): T[] {
  return inserted(list, { ...thing, id: id ?? newId(setup, (thing as T).name) } as T);
}

function removeMachine(setup: Setup, id: string): Setup {
  const { name } = find(setup.machines, 'machine', id);
  const left = [
    ...[...setup.devices, ...setup.mixes, ...setup.sources].filter((one) => one.machine === id),
    ...(setup.recorder.machine === id ? [{ name: 'the recorder' }] : []),
  ].map((one) => one.name);
  if (left.length > 0)
    throw new EditError(
      'id',
      `${name} still holds ${listed(left, 4)}; move or remove ${left.length === 1 ? 'it' : 'them'} first`,
    );
  return { ...setup, machines: setup.machines.filter((machine) => machine.id !== id) };
}

function removeDevice(setup: Setup, id: string, rehome: string | null | undefined): Setup {
  const { name } = find(setup.devices, 'device', id);
  const uses = dependantsOf(setup, id);
  if (rehome === undefined && uses.length > 0)
    throw new EditError(
      'id',
      `${name} is in use: ${listed(uses, 4)}. Choose a device that takes over, or remove these uses too`,
    );
  if (rehome) find(setup.devices, 'device', rehome);
  const gone = rehome
    ? { ...setup, pickups: setup.pickups.map((one) => (one.takes === id ? { ...one, takes: rehome } : one)) }
    : withoutPickups(
        withoutInputs(setup, new Set([id])),
        new Set(setup.pickups.filter((one) => one.takes === id).map((one) => one.id)),
      );
  const moved = (ids: string[]) => [
    ...new Set(ids.flatMap((one) => (one !== id ? [one] : rehome ? [rehome] : []))),
  ];
  return {
    ...gone,
    devices: gone.devices
      .filter((device) => device.id !== id)
      .map((device) => (device.follows === id ? { ...device, follows: undefined } : device))
      .map((device) => (device.channelsOf === id ? { ...device, channelsOf: undefined } : device)),
    ...(gone.recorder.monitorDevice === id && {
      recorder: { ...gone.recorder, monitorDevice: rehome ?? undefined },
    }),
    machines: gone.machines.map((one) =>
      one.defaultOutput === id ? { ...one, defaultOutput: rehome ?? undefined } : one,
    ),
    sources: gone.sources.map((one) => {
      if (one.into !== id && one.machineInto !== id) return one;
      const to = (device: string | undefined) => (device === id ? (rehome ?? undefined) : device);
      return { ...one, into: to(one.into), machineInto: to(one.machineInto) };
    }),
    mixes: gone.mixes.map((mix) => ({
      ...mix,
      into: moved(mix.into),
      ...(mix.listenedOn === id && { listenedOn: rehome ?? undefined }),
      inputs: rehomed(mix.inputs, id, rehome),
    })),
    links: rehome
      ? gone.links.map((link) => ({
          ...link,
          from: link.from === id ? rehome : link.from,
          to: link.to === id ? rehome : link.to,
        }))
      : gone.links.filter((link) => link.from !== id && link.to !== id),
    destinations: gone.destinations.map((one) =>
      one.hears?.includes(id) ? { ...one, hears: moved(one.hears) } : one,
    ),
  };
}

function rehomed(inputs: Setup['mixes'][number]['inputs'], id: string, rehome: string | null | undefined) {
  const has = inputs.some(({ from }) => from === rehome);
  return inputs.flatMap((input) => {
    if (input.from !== id) return [input];
    return rehome && !has ? [{ ...input, from: rehome }] : [];
  });
}

function removeScene(setup: Setup, id: string): Setup {
  find(setup.scenes, 'scene', id);
  return {
    ...setup,
    scenes: setup.scenes.filter((scene) => scene.id !== id),
    pickups: setup.pickups.map((pickup) =>
      pickup.scenes ? { ...pickup, scenes: pickup.scenes.filter((scene) => scene !== id) } : pickup,
    ),
  };
}

function removeGroup(setup: Setup, id: string): Setup {
  find(setup.groups ?? [], 'group', id);
  return {
    ...setup,
    groups: setup.groups?.filter((group) => group.id !== id),
    scenes: setup.scenes.map((scene) =>
      scene.groups ? { ...scene, groups: scene.groups.filter((group) => group !== id) } : scene,
    ),
  };
}

function setMixInput(
  setup: Setup,
  { mix: mixId, from, values }: Extract<WiringEdit, { edit: 'setMixInput' }>,
): Setup {
  const mix = find(setup.mixes, 'mix', mixId);
  const known = mix.inputs.find((input) => input.from === from);
  const inputs =
    values === null
      ? mix.inputs.filter((input) => input !== known)
      : known
        ? mix.inputs.map((input) => (input === known ? { ...input, ...values } : input))
        : [...mix.inputs, { gainDb: 0, ...values, from }];
  return { ...setup, mixes: setup.mixes.map((one) => (one === mix ? { ...mix, inputs } : one)) };
}
