import { z } from 'zod';
import { withoutListeners } from './bearers.ts';
import { channelsOf, freePlaceOn, isPlaceOn } from './channels.ts';
import { EditError } from './editError.ts';
import { NAMED_LISTS, type NamedList, newId, pickupIdFor } from './ids.ts';
import { find, inserted, moved, patched, replaced } from './lists.ts';
import {
  AcceptedSchema,
  type Air,
  type BalanceAim,
  BalanceAimSchema,
  DestinationSchema,
  GainDbSchema,
  IdSchema,
  LinkedFadersSchema,
  NameSchema,
  RecorderSchema,
  SendSchema,
  type Setup,
  SourceSchema,
  TrackSchema,
} from './schema.ts';
import { applyWiringEdit, isWiringEdit, wiringEdits, withoutInputs, withoutPickups } from './wiringEdits.ts';

export { EditError };

const position = z.number().int().min(0).optional();

const simpleEdits = [
  z.strictObject({ edit: z.literal('renameSetup'), name: NameSchema }),
  z.strictObject({ edit: z.literal('setRecorder'), values: RecorderSchema.partial() }),
  z.strictObject({
    edit: z.literal('addSource'),
    source: SourceSchema.omit({ id: true }),
    at: position,
    id: IdSchema.optional(),
  }),
  z.strictObject({
    edit: z.literal('updateSource'),
    id: IdSchema,
    clear: z
      .array(
        z.enum(['machine', 'into', 'machineInto', 'stuck', 'app', 'volumePercent', 'ownTrack', 'processing']),
      )
      .optional(),
    values: SourceSchema.omit({ id: true }).partial(),
  }),
  z.strictObject({ edit: z.literal('removeSource'), id: IdSchema }),
  z.strictObject({ edit: z.literal('moveSource'), id: IdSchema, to: z.number().int().min(0) }),
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
    edit: z.literal('addDestination'),
    destination: DestinationSchema.omit({ id: true }),
    id: IdSchema.optional(),
  }),
  z.strictObject({ edit: z.literal('removeDestination'), id: IdSchema }),
  z.strictObject({
    edit: z.literal('updateDestination'),
    id: IdSchema,
    values: DestinationSchema.pick({
      name: true,
      kind: true,
      targetLufs: true,
      hears: true,
      processing: true,
    }).partial(),
  }),
  z.strictObject({
    edit: z.literal('setAir'),
    destination: IdSchema,
    source: IdSchema,
    gainDb: GainDbSchema.nullable().describe('Null: they are not in one room.'),
  }),
  z.strictObject({ edit: z.literal('setLinkedFaders'), groups: LinkedFadersSchema }),
  z.strictObject({
    edit: z.literal('setSend'),
    pickup: IdSchema,
    to: IdSchema,
    gainDb: GainDbSchema.nullable(),
    channels: SendSchema.shape.channels,
    processing: SendSchema.shape.processing,
  }),
  z.strictObject({
    edit: z.literal('setWish'),
    source: IdSchema,
    destination: IdSchema,
    gainDb: GainDbSchema.nullable(),
  }),
  z.strictObject({
    edit: z.literal('setAim'),
    destination: IdSchema,
    values: BalanceAimSchema.omit({ destination: true }),
  }),
  z.strictObject({
    edit: z.literal('acceptFinding'),
    finding: AcceptedSchema.shape.finding,
    facts: AcceptedSchema.shape.facts
      .nullable()
      .describe('What the finding says; null: it is not meant to be so any more.'),
    note: AcceptedSchema.shape.note,
  }),
  z.strictObject({
    edit: z.literal('tickStep'),
    step: z.string().max(140),
    text: z.string().max(2000).nullable().describe('What the step says; null takes the tick back.'),
  }),
  ...wiringEdits,
] as const;
/** As many changes are one step at most: levels of every source at every destination, with what is wished there. */
const MOST_EDITS = 8000;
const SimpleEditSchema = z.discriminatedUnion('edit', simpleEdits);

/** An edit: a small, named change of the setup, as data. `batch` makes several of them one step of undo. */
export const EditSchema = z.discriminatedUnion('edit', [
  ...simpleEdits,
  z.strictObject({
    edit: z.literal('batch'),
    label: z.string().min(1).max(120),
    edits: z.array(SimpleEditSchema).min(1).max(MOST_EDITS),
  }),
]);
export type SimpleEdit = z.infer<typeof SimpleEditSchema>;
export type Edit = z.infer<typeof EditSchema>;

/**
 * Returns the setup with the edit applied; the one that was passed in is left as it was. Untouched parts keep
 * their identity. What the edit did, and its inverse, come from `changeBetween`.
 * @throws {EditError} when the edit names a thing that is not there.
 */
export function applyEdit(setup: Setup, edit: Edit): Setup {
  if (isWiringEdit(edit)) return applyWiringEdit(setup, edit);
  switch (edit.edit) {
    case 'batch':
      return edit.edits.reduce<Setup>(applyEdit, setup);
    case 'renameSetup':
      return { ...setup, name: edit.name };
    case 'setRecorder':
      return { ...setup, recorder: { ...setup.recorder, ...edit.values } };
    case 'addSource':
      return addSource(setup, edit);
    case 'addDestination':
      return addDestination(setup, edit);
    case 'removeDestination':
      return removeDestination(setup, edit.id);
    case 'updateSource':
      return { ...setup, sources: patched(setup.sources, 'source', edit.id, edit.values, edit.clear) };
    case 'removeSource':
      return removeSource(setup, edit.id);
    case 'moveSource':
      return { ...setup, sources: moved(setup.sources, 'source', edit.id, edit.to) };
    case 'addTrack':
      return addTrack(setup, edit);
    case 'updateTrack':
      return updateTrack(setup, edit);
    case 'removeTrack':
      return removeTrack(setup, edit.id);
    case 'moveTrack':
      return { ...setup, tracks: moved(setup.tracks, 'track', edit.id, edit.to) };
    case 'updateDestination':
      return { ...setup, destinations: patched(setup.destinations, 'destination', edit.id, edit.values) };
    case 'setAir':
      return setAir(setup, edit);
    case 'setLinkedFaders':
      return { ...setup, linkedFaders: edit.groups.length > 0 ? edit.groups : undefined };
    case 'setSend':
      return setSend(setup, edit);
    case 'setWish':
      return setWish(setup, edit);
    case 'setAim':
      return setAim(setup, edit);
    case 'acceptFinding':
      return { ...setup, accepted: accepted(setup.accepted, edit) };
    case 'tickStep':
      return { ...setup, ticks: ticked(setup.ticks, edit) };
  }
}

/** Returns the name of a thing of the setup; a pickup without one is named after what it takes. */
export function nameOf(setup: Setup, id: string): string {
  for (const list of NAMED_LISTS) {
    const thing = (setup[list as NamedList] as { id: string; name?: string; takes?: string }[]).find(
      (one) => one.id === id,
    );
    if (thing) return thing.name ?? (thing.takes ? `the pickup of ${nameOf(setup, thing.takes)}` : id);
  }
  return setup.groups?.find((group) => group.id === id)?.name ?? id;
}

/** Names a pickup by itself or by what it takes, without the words “the pickup of”. */
export function pickupName(setup: Setup, id: string): string {
  return nameOf(setup, id).replace(/^the pickup of /, '');
}

type Of<Name extends SimpleEdit['edit']> = Extract<SimpleEdit, { edit: Name }>;

/** A source that plays into no device is taken by a pickup of its own, where the recorder can. */
function addSource(setup: Setup, { source, at, id = newId(setup, source.name) }: Of<'addSource'>): Setup {
  const sources = inserted(setup.sources, { ...source, id }, at);
  const isElsewhere = source.machine !== undefined && source.machine !== setup.recorder.machine;
  if (source.into !== undefined || isElsewhere) return { ...setup, sources };
  return { ...setup, sources, pickups: [...setup.pickups, { id: pickupIdFor(id), takes: id, gainDb: 0 }] };
}

function removeSource(setup: Setup, id: string): Setup {
  find(setup.sources, 'source', id);
  const pickups = new Set(setup.pickups.filter((pickup) => pickup.takes === id).map((pickup) => pickup.id));
  const rest = withoutListeners(withoutInputs(withoutPickups(setup, pickups), new Set([id])), id);
  return {
    ...rest,
    sources: rest.sources.filter((source) => source.id !== id),
    intent: rest.intent.filter((wish) => wish.source !== id),
    ...(rest.balance && { balance: rest.balance.map((aim) => withoutWish(aim, id)) }),
    ...(rest.air && { air: rest.air.filter(({ source }) => source !== id) }),
  };
}

function withoutWish(aim: BalanceAim, source: string): BalanceAim {
  if (!aim.wishes?.[source]) return aim;
  const { [source]: _, ...wishes } = aim.wishes;
  return { ...aim, wishes };
}

function addTrack(setup: Setup, { track, id, at }: Of<'addTrack'>): Setup {
  return { ...setup, tracks: inserted(setup.tracks, { ...track, id: id ?? newId(setup, track.name) }, at) };
}

/** Sends keep to channels that there are: a track that loses some takes them on its first two. */
function updateTrack(setup: Setup, { id, values }: Of<'updateTrack'>): Setup {
  const next = patched(setup.tracks, 'track', id, values);
  const at = next.findIndex((one) => one.id === id);
  const { channels, ...track } = next[at];
  if (track.layout === 'multichannel') next[at] = { ...track, channels: channels ?? channelsOf(3) };
  else next[at] = track;
  const sends = setup.sends.map((send) => {
    if (send.to !== id || !send.channels || isPlaceOn(next[at], send.channels)) return send;
    const { channels: _, ...rest } = send;
    return rest;
  });
  return { ...setup, tracks: next, sends };
}

function addDestination(setup: Setup, { destination, id }: Of<'addDestination'>): Setup {
  const added = { ...destination, id: id ?? newId(setup, destination.name) };
  // Those who hear things stand before live and VOD, as they do on the board.
  const at = setup.destinations.findIndex(({ kind }) => kind === 'live' || kind === 'vod');
  const isHearer = added.kind !== 'live' && added.kind !== 'vod';
  return {
    ...setup,
    destinations: inserted(setup.destinations, added, isHearer && at >= 0 ? at : undefined),
  };
}

function removeDestination(setup: Setup, id: string): Setup {
  find(setup.destinations, 'destination', id);
  return { ...withoutPlace(setup, id), destinations: setup.destinations.filter((one) => one.id !== id) };
}

function removeTrack(setup: Setup, id: string): Setup {
  find(setup.tracks, 'track', id);
  return { ...withoutPlace(setup, id), tracks: setup.tracks.filter((track) => track.id !== id) };
}

/** A link of one is none. */
function withoutFader(groups: string[][], id: string): string[][] | undefined {
  const left = groups.map((group) => group.filter((one) => one !== id)).filter((group) => group.length > 1);
  return left.length > 0 ? left : undefined;
}

/** Returns the setup without what leads to a place, is wished for there, or is aimed at there. */
function withoutPlace(setup: Setup, id: string): Setup {
  return {
    ...setup,
    sends: setup.sends.filter((send) => send.to !== id),
    intent: setup.intent.filter((wish) => wish.destination !== id),
    ...(setup.balance && { balance: setup.balance.filter((aim) => aim.destination !== id) }),
    ...(setup.air && { air: setup.air.filter(({ destination }) => destination !== id) }),
    ...(setup.linkedFaders && { linkedFaders: withoutFader(setup.linkedFaders, id) }),
  };
}

function setAir(setup: Setup, { destination, source, gainDb }: Of<'setAir'>): Setup {
  find(setup.destinations, 'destination', destination);
  find(setup.sources, 'source', source);
  const isIt = (one: Air) => one.destination === destination && one.source === source;
  const air = gainDb === null ? null : { destination, source, gainDb };
  return { ...setup, air: replaced(setup.air ?? [], isIt, air) };
}

/** A send keeps its channels and its processing unless others are given. */
function setSend(setup: Setup, { pickup, to, gainDb, ...given }: Of<'setSend'>): Setup {
  find(setup.pickups, 'pickup', pickup);
  find([...setup.tracks, ...setup.destinations], 'track or destination', to);
  const isIt = (send: { pickup: string; to: string }) => send.pickup === pickup && send.to === to;
  if (gainDb === null) return { ...setup, sends: replaced(setup.sends, isIt, null) };
  const known = setup.sends.find(isIt);
  const track = known ? undefined : setup.tracks.find(({ id }) => id === to);
  const channels = given.channels ?? known?.channels ?? (track && freePlaceOn(setup, track, pickup));
  const processing = given.processing ?? known?.processing;
  const send = {
    ...{ pickup, to, gainDb },
    ...(channels && { channels }),
    ...(processing && processing.length > 0 && { processing }),
  };
  return { ...setup, sends: replaced(setup.sends, isIt, send) };
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

function setAim(setup: Setup, { destination, values }: Of<'setAim'>): Setup {
  find([...setup.tracks, ...setup.destinations], 'track or destination', destination);
  const aims = setup.balance ?? [];
  const known = aims.find((one) => one.destination === destination);
  const aim = { ...known, ...values, destination };
  return { ...setup, balance: replaced(aims, (one) => one.destination === destination, aim) };
}

function accepted(
  known: Setup['accepted'] = [],
  { finding, facts, note }: Of<'acceptFinding'>,
): NonNullable<Setup['accepted']> {
  const one = facts === null ? null : { finding, facts, ...(note && { note }) };
  return replaced(known, (each) => each.finding === finding, one);
}

function ticked(ticks: Setup['ticks'] = {}, { step, text }: Of<'tickStep'>): Setup['ticks'] {
  const { [step]: _, ...others } = ticks;
  return text === null ? others : { ...others, [step]: text };
}
