import { applyEdit, type Edit, EditError, type SimpleEdit } from '../setup/edits.ts';
import { MAX_GAIN_DB, MIN_GAIN_DB, nearestGain, type Setup, type Source } from '../setup/schema.ts';
import { gainText } from '../words/figures.ts';
import { reachWithoutAir, withoutAir } from './air.ts';
import type { Destination } from './destinations.ts';
import { type Reach, reachOf } from './reach.ts';

/** A control that lies on the way of a source to a destination: a send of a pickup, or an input of a mix. */
export interface Handle {
  /** The pickup, or what the mix takes in. */
  from: string;
  /** The track or the destination, or the mix. */
  to: string;
  kind: 'send' | 'input';
  /** What it does now (dB); null while it is closed or muted. */
  gainDb: number | null;
  /** Every source that it moves, the one that was asked for among them. */
  sources: string[];
}

/**
 * Returns the edit of one cell of the board: the source is wanted at the destination with the given total gain in
 * dB (null: not wanted), and the control that realises it moves along. Destinations that share a send (a track that
 * is live and VOD at once) follow, and so do sources that are fused with this one, since no control can tell them apart.
 * @throws {EditError} when no way leads there, or when the control that this would take is out of range.
 */
export function cellEdit(setup: Setup, sourceId: string, destinationId: string, gainDb: number | null): Edit {
  const dry = withoutAir(setup);
  const reach = dry === setup ? reachOf(setup) : reachWithoutAir(setup);
  const source = setup.sources.find((one) => one.id === sourceId);
  const destination = reach.destinations.find((one) => one.id === destinationId);
  if (!source || !destination)
    throw new EditError('cell', 'this source or destination is not there any more');
  const handles = handlesOf(dry, reach, source, destination);
  const arrival = reach.at(sourceId, destinationId);
  if (gainDb === null && !arrival && dry !== setup && reachOf(setup).at(sourceId, destinationId))
    throw new EditError(
      'cell',
      `${source.name} comes to ${destination.name} through the air of the room: no control keeps it away; wear headphones, or turn the loudspeakers down`,
    );
  if (handles.length === 0 && gainDb !== null && destination.sendTo !== null)
    throw new EditError(
      'cell',
      `no way leads from ${source.name} to ${destination.name} yet; give it an output, a mix or a pickup that leads there`,
    );

  const moves = handles.flatMap((handle): SimpleEdit[] => {
    if (gainDb === null) return handle.gainDb === null ? [] : [closed(handle)];
    const present = arrival ? arrival.gainDb : gainWhenOpen(dry, reach, source, handle);
    const now = handle.gainDb ?? (handle.kind === 'input' ? inputGain(setup, handle) : 0);
    requireRange(source, now + gainDb - present);
    return [set(handle, nearestGain(now + gainDb - present))];
  });
  const moved = new Set([sourceId, ...handles.flatMap((handle) => handle.sources)]);
  const sharing = reach.destinations.filter(
    (one) => one === destination || (one.sendTo !== null && one.sendTo === destination.sendTo),
  );
  const after = moves.length > 0 && moved.size > 1 ? reachOf(applyAll(dry, moves)) : null;
  const wishes = sharing.flatMap((destination) =>
    [...moved].map((id): SimpleEdit => {
      const own =
        id === sourceId ? gainDb : gainDb === null ? null : (after?.at(id, destination.id)?.gainDb ?? null);
      return {
        edit: 'setWish',
        source: id,
        destination: destination.id,
        gainDb: own === null ? null : nearestGain(own),
      };
    }),
  );
  const verb =
    gainDb === null
      ? `close ${source.name} at ${destination.name}`
      : `${source.name} at ${destination.name} ${gainText(gainDb)} dB`;
  return { edit: 'batch', label: verb.slice(0, 120), edits: [...wishes, ...moves] };
}

/**
 * Returns the controls that decide on a cell: one for each path that there is, or, where nothing arrives, the one that
 * would open the shortest way. Empty where no way could be opened by a control alone.
 */
export function handlesOf(setup: Setup, reach: Reach, source: Source, destination: Destination): Handle[] {
  if (destination.sendTo === null) return [];
  const dry = withoutAir(setup);
  if (dry !== setup) return handlesOf(dry, reachWithoutAir(setup), source, destination);
  const arrival = reach.at(source.id, destination.id);
  if (arrival) {
    const found = arrival.places.map((places) => bestOnPath(setup, reach, places));
    const known = new Set<string>();
    return found.flatMap((handle) => {
      if (!handle || known.has(`${handle.from} ${handle.to}`)) return [];
      known.add(`${handle.from} ${handle.to}`);
      return [handle];
    });
  }
  const opening =
    sendsToOpen(setup, reach, source, destination)[0] ?? inputToOpen(setup, reach, source, destination);
  return opening ? [opening] : [];
}

/** The send at the end of a path, or else the mix input that moves the fewest sources. */
function bestOnPath(setup: Setup, reach: Reach, places: string[]): Handle | null {
  const handles = places.slice(1).flatMap((to, i): Handle[] => {
    const from = places[i];
    const send = setup.sends.find((one) => one.pickup === from && one.to === to);
    if (send) return [handle(reach, 'send', from, to, send.gainDb)];
    const input = setup.mixes.find((mix) => mix.id === to)?.inputs.find((one) => one.from === from);
    return input ? [handle(reach, 'input', from, to, input.gainDb)] : [];
  });
  const send = handles.find((one) => one.kind === 'send');
  if (send) return send;
  return handles.reduce<Handle | null>(
    (best, one) => (best && best.sources.length < one.sources.length ? best : one),
    null,
  );
}

/** The sends that would open the way from a pickup that carries the source, those that move the fewest sources first. */
function sendsToOpen(setup: Setup, reach: Reach, source: Source, destination: Destination): Handle[] {
  const sendTo = destination.sendTo;
  if (sendTo === null || !canBeSentTo(setup, destination)) return [];
  return setup.pickups
    .filter((pickup) => reach.sourcesAt(pickup.id).includes(source.id))
    .map((pickup) => handle(reach, 'send', pickup.id, sendTo, null))
    .sort((a, b) => a.sources.length - b.sources.length);
}

/** Tells whether the recorder can play to a destination: a track can be sent to, somebody who listens only where it runs. */
export function canBeSentTo(setup: Setup, { id, track }: Destination): boolean {
  const hears = setup.destinations.find((one) => one.id === id)?.hears ?? [];
  if (track || hears.length === 0 || setup.recorder.machine === undefined) return true;
  return setup.devices.some(
    (device) => hears.includes(device.id) && device.machine === setup.recorder.machine,
  );
}

/** A muted mix input that would bring the source there, or a mix that plays there and could take it in. */
function inputToOpen(setup: Setup, reach: Reach, source: Source, destination: Destination): Handle | null {
  for (const mix of setup.mixes) {
    for (const input of mix.inputs.filter((one) => one.muted)) {
      const opened = applyAll(setup, [
        { edit: 'setMixInput', mix: mix.id, from: input.from, values: { muted: false } },
      ]);
      if (reachOf(opened).at(source.id, destination.id))
        return { ...handle(reach, 'input', input.from, mix.id, null), sources: carried(reach, input.from) };
    }
  }
  return null;
}

function handle(reach: Reach, kind: Handle['kind'], from: string, to: string, gainDb: number | null): Handle {
  return { kind, from, to, gainDb, sources: carried(reach, from) };
}

/** The sources that pass a place; a source passes itself. */
function carried(reach: Reach, place: string): string[] {
  const passing = reach.sourcesAt(place);
  return passing.length > 0 ? passing : [place];
}

function gainWhenOpen(setup: Setup, reach: Reach, source: Source, one: Handle): number {
  const opened = reachOf(applyAll(setup, [set(one, one.kind === 'input' ? inputGain(setup, one) : 0)]));
  const destinations = reach.destinations.filter((destination) => opened.at(source.id, destination.id));
  const fed =
    destinations.find((destination) => destination.sendTo === one.to) ??
    destinations.find((destination) => !reach.at(source.id, destination.id));
  return fed ? (opened.at(source.id, fed.id)?.gainDb ?? 0) : 0;
}

function inputGain(setup: Setup, { from, to }: Handle): number {
  return setup.mixes.find((mix) => mix.id === to)?.inputs.find((one) => one.from === from)?.gainDb ?? 0;
}

function set({ kind, from, to }: Handle, gainDb: number): SimpleEdit {
  return kind === 'send'
    ? { edit: 'setSend', pickup: from, to, gainDb }
    : { edit: 'setMixInput', mix: to, from, values: { gainDb, muted: false } };
}

function closed({ kind, from, to }: Handle): SimpleEdit {
  return kind === 'send'
    ? { edit: 'setSend', pickup: from, to, gainDb: null }
    : { edit: 'setMixInput', mix: to, from, values: { muted: true } };
}

function requireRange(source: Source, gainDb: number): void {
  if (gainDb >= MIN_GAIN_DB && gainDb <= MAX_GAIN_DB) return;
  throw new EditError(
    'gainDb',
    `${source.name} would need a send of ${gainDb.toFixed(1)} dB; a send goes from ${MIN_GAIN_DB} to +${MAX_GAIN_DB} dB. Change the level of the source first`,
  );
}

function applyAll(setup: Setup, edits: SimpleEdit[]): Setup {
  return edits.reduce<Setup>(applyEdit, setup);
}
