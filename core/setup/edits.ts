import { z } from 'zod';
import { newId, pickupIdFor } from './ids.ts';
import type { Problem } from './rules.ts';
import {
  DestinationSchema,
  GainDbSchema,
  IdSchema,
  NameSchema,
  PickupSchema,
  RecorderSchema,
  type Setup,
  SourceSchema,
  TrackSchema,
} from './schema.ts';

const position = z.number().int().min(0).optional();

const simpleEdits = [
  z.strictObject({ edit: z.literal('renameSetup'), name: NameSchema }),
  z.strictObject({ edit: z.literal('setRecorder'), values: RecorderSchema.partial() }),
  z.strictObject({ edit: z.literal('addSource'), source: SourceSchema.omit({ id: true }), at: position }),
  z.strictObject({
    edit: z.literal('updateSource'),
    id: IdSchema,
    values: SourceSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({ edit: z.literal('removeSource'), id: IdSchema }),
  z.strictObject({ edit: z.literal('moveSource'), id: IdSchema, to: z.number().int().min(0) }),
  z.strictObject({
    edit: z.literal('updatePickup'),
    id: IdSchema,
    values: PickupSchema.pick({ gainDb: true }),
  }),
  z.strictObject({
    edit: z.literal('addTrack'),
    track: TrackSchema.omit({ id: true }),
    id: IdSchema.optional(),
    at: position,
  }),
  z.strictObject({
    edit: z.literal('updateTrack'),
    id: IdSchema,
    values: TrackSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({ edit: z.literal('removeTrack'), id: IdSchema }),
  z.strictObject({ edit: z.literal('moveTrack'), id: IdSchema, to: z.number().int().min(0) }),
  z.strictObject({
    edit: z.literal('updateDestination'),
    id: IdSchema,
    values: DestinationSchema.pick({ name: true, targetLufs: true }).partial(),
  }),
  z.strictObject({
    edit: z.literal('setSend'),
    pickup: IdSchema,
    to: IdSchema,
    gainDb: GainDbSchema.nullable(),
  }),
  z.strictObject({
    edit: z.literal('setWish'),
    source: IdSchema,
    destination: IdSchema,
    gainDb: GainDbSchema.nullable(),
  }),
] as const;
const SimpleEditSchema = z.discriminatedUnion('edit', simpleEdits);

/** An edit: a small, named change of the setup, as data. `batch` makes several of them one step of undo. */
export const EditSchema = z.discriminatedUnion('edit', [
  ...simpleEdits,
  z.strictObject({
    edit: z.literal('batch'),
    label: z.string().min(1).max(120),
    edits: z.array(SimpleEditSchema).min(1).max(500),
  }),
]);
export type SimpleEdit = z.infer<typeof SimpleEditSchema>;
export type Edit = z.infer<typeof EditSchema>;

/** Thrown when an edit names a thing that is not in the setup, or would break a rule of it. */
export class EditError extends Error {
  readonly problems: Problem[];

  constructor(field: string, rule: string) {
    super(rule);
    this.name = 'EditError';
    this.problems = [{ field, rule }];
  }
}

/**
 * Returns the setup with the edit applied; the one that was passed in is left as it was. Untouched parts keep
 * their identity. What the edit did, and its inverse, come from `changeBetween`.
 * @throws {EditError} when the edit names a thing that is not there.
 */
export function applyEdit(setup: Setup, edit: Edit): Setup {
  switch (edit.edit) {
    case 'batch':
      return edit.edits.reduce<Setup>(applyEdit, setup);
    case 'renameSetup':
      return { ...setup, name: edit.name };
    case 'setRecorder':
      return { ...setup, recorder: { ...setup.recorder, ...edit.values } };
    case 'addSource':
      return addSource(setup, edit);
    case 'updateSource':
      return { ...setup, sources: patched(setup.sources, 'source', edit.id, edit.values) };
    case 'removeSource':
      return removeSource(setup, edit.id);
    case 'moveSource':
      return { ...setup, sources: moved(setup.sources, 'source', edit.id, edit.to) };
    case 'updatePickup':
      return { ...setup, pickups: patched(setup.pickups, 'pickup', edit.id, edit.values) };
    case 'addTrack':
      return addTrack(setup, edit);
    case 'updateTrack':
      return { ...setup, tracks: patched(setup.tracks, 'track', edit.id, edit.values) };
    case 'removeTrack':
      return removeTrack(setup, edit.id);
    case 'moveTrack':
      return { ...setup, tracks: moved(setup.tracks, 'track', edit.id, edit.to) };
    case 'updateDestination':
      return { ...setup, destinations: patched(setup.destinations, 'destination', edit.id, edit.values) };
    case 'setSend':
      return setSend(setup, edit);
    case 'setWish':
      return setWish(setup, edit);
  }
}

/** Says in a few words what an edit does, for the undo button and the history. */
export function describeEdit(edit: Edit, setup: Setup): string {
  const name = (id: string) => {
    const pickup = setup.pickups.find((one) => one.id === id);
    const things = [...setup.sources, ...setup.tracks, ...setup.destinations];
    return things.find((thing) => thing.id === (pickup?.source ?? id))?.name ?? id;
  };
  switch (edit.edit) {
    case 'batch':
      return edit.label;
    case 'renameSetup':
      return `rename the setup to ${edit.name}`;
    case 'setRecorder':
      return 'change the recorder';
    case 'addSource':
      return `add ${edit.source.name}`;
    case 'addTrack':
      return `add the track ${edit.track.name}`;
    case 'updateSource':
    case 'updatePickup':
    case 'updateTrack':
    case 'updateDestination':
      return `change ${name(edit.id)}`;
    case 'removeSource':
    case 'removeTrack':
      return `remove ${name(edit.id)}`;
    case 'moveSource':
    case 'moveTrack':
      return `move ${name(edit.id)}`;
    case 'setSend':
      return `${edit.gainDb === null ? 'close' : 'set'} ${name(edit.pickup)} to ${name(edit.to)}`;
    case 'setWish':
      return `${edit.gainDb === null ? 'no longer want' : 'want'} ${name(edit.source)} at ${name(edit.destination)}`;
  }
}

type Of<Name extends SimpleEdit['edit']> = Extract<SimpleEdit, { edit: Name }>;

function addSource(setup: Setup, { source, at }: Of<'addSource'>): Setup {
  const id = newId(setup, source.name);
  const pickup = { id: pickupIdFor(id), source: id, gainDb: 0 };
  const added = { ...source, id };
  return { ...setup, sources: inserted(setup.sources, added, at), pickups: [...setup.pickups, pickup] };
}

function removeSource(setup: Setup, id: string): Setup {
  find(setup.sources, 'source', id);
  const pickups = new Set(setup.pickups.filter((pickup) => pickup.source === id).map((pickup) => pickup.id));
  return {
    ...setup,
    sources: setup.sources.filter((source) => source.id !== id),
    pickups: setup.pickups.filter((pickup) => !pickups.has(pickup.id)),
    sends: setup.sends.filter((send) => !pickups.has(send.pickup)),
    intent: setup.intent.filter((wish) => wish.source !== id),
  };
}

function addTrack(setup: Setup, { track, id, at }: Of<'addTrack'>): Setup {
  return { ...setup, tracks: inserted(setup.tracks, { ...track, id: id ?? newId(setup, track.name) }, at) };
}

function removeTrack(setup: Setup, id: string): Setup {
  find(setup.tracks, 'track', id);
  return {
    ...setup,
    tracks: setup.tracks.filter((track) => track.id !== id),
    sends: setup.sends.filter((send) => send.to !== id),
    intent: setup.intent.filter((wish) => wish.destination !== id),
  };
}

function setSend(setup: Setup, { pickup, to, gainDb }: Of<'setSend'>): Setup {
  find(setup.pickups, 'pickup', pickup);
  find([...setup.tracks, ...setup.destinations], 'track or destination', to);
  const isIt = (send: { pickup: string; to: string }) => send.pickup === pickup && send.to === to;
  return { ...setup, sends: replaced(setup.sends, isIt, gainDb === null ? null : { pickup, to, gainDb }) };
}

function setWish(setup: Setup, { source, destination, gainDb }: Of<'setWish'>): Setup {
  find(setup.sources, 'source', source);
  find([...setup.tracks, ...setup.destinations], 'track or destination', destination);
  const isIt = (wish: { source: string; destination: string }) =>
    wish.source === source && wish.destination === destination;
  return {
    ...setup,
    intent: replaced(setup.intent, isIt, gainDb === null ? null : { source, destination, gainDb }),
  };
}

function find<T extends { id: string }>(list: T[], noun: string, id: string): T {
  const found = list.find((one) => one.id === id);
  if (!found)
    throw new EditError(
      'id',
      `there is no ${noun} "${id}" any more; it may have been removed in another window`,
    );
  return found;
}

function patched<T extends { id: string }>(list: T[], noun: string, id: string, values: Partial<T>): T[] {
  find(list, noun, id);
  return list.map((one) => (one.id === id ? { ...one, ...values } : one));
}

function moved<T extends { id: string }>(list: T[], noun: string, id: string, to: number): T[] {
  const one = find(list, noun, id);
  return inserted(
    list.filter((other) => other !== one),
    one,
    to,
  );
}

function inserted<T>(list: T[], one: T, at = list.length): T[] {
  return [...list.slice(0, at), one, ...list.slice(at)];
}

function replaced<T>(list: T[], isIt: (one: T) => boolean, by: T | null): T[] {
  if (by === null) return list.filter((one) => !isIt(one));
  return list.some(isIt) ? list.map((one) => (isIt(one) ? by : one)) : [...list, by];
}
