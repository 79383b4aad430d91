import type { Destination } from '../../reach/destinations.ts';
import type { SimpleEdit } from '../../setup/edits.ts';
import { newId } from '../../setup/ids.ts';
import type { Device, Mix } from '../../setup/wiring.ts';
import { listed } from '../../words/figures.ts';
import type { About, Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';
import { inRange } from './opening.ts';

/** Returns what gives mixes other inputs in place of those that they have, and mixes that are not there. */
export function mixMoves(room: Room, about: About): Candidate[] {
  return [...exchangedInputs(room, about), ...newMixes(room, about)];
}

/** A mix on the way takes something else in place of one of its inputs, at the level of that. */
function exchangedInputs(room: Room, { source, destination: destinationId }: About): Candidate[] {
  const destination = room.destination(destinationId);
  if (!destination) return [];
  const leading = room.mayLeadTo(destination);
  return room.setup.mixes
    .filter(({ id }) => leading.has(id))
    .flatMap((mix) =>
      mix.inputs
        .filter(({ muted }) => !muted)
        .flatMap((input) => {
          const brings = input.from === source || room.passes(source, input.from);
          return carriers(room, mix)
            .filter(({ id }) => brings || room.passes(source, id))
            .map((device) => takenInstead(room, mix, input, device));
        }),
    );
}

/** Returns acts by which a mix takes another device in place of an input that closes a loop. */
export function withoutLoopingInput(room: Room, mix: Mix, from: string): Candidate[] {
  const input = mix.inputs.find((one) => one.from === from && !one.muted);
  return input ? carriers(room, mix).map((device) => takenInstead(room, mix, input, device)) : [];
}

function takenInstead(
  room: Room,
  mix: Mix,
  { from, ...values }: Mix['inputs'][number],
  { id, name }: Device,
): Candidate {
  return {
    label: `Take ${name} into the mix “${mix.name}” instead of ${room.name(from)}`,
    fault: `The mix “${mix.name}” takes in ${room.name(from)}, not ${name}`,
    edits: [
      { edit: 'setMixInput', mix: mix.id, from, values: null },
      { edit: 'setMixInput', mix: mix.id, from: id, values },
    ],
  };
}

/** The devices of its machine that a mix could take in and that carry something. */
function carriers(room: Room, { id, machine, inputs, into }: Mix): Device[] {
  return room.setup.devices.filter(
    (one) =>
      one.machine === machine &&
      one.id !== id &&
      !into.includes(one.id) &&
      !inputs.some(({ from }) => from === one.id) &&
      room.sourcesAt(one.id).length > 0,
  );
}

/** A new mix plays into an output that leads to the destination, or leads nowhere yet, and into which no mix plays. */
function newMixes(room: Room, { source, destination: destinationId }: About): Candidate[] {
  const { setup } = room;
  const destination = room.destination(destinationId);
  if (!destination || room.arrival(source, destination)) return [];
  const leading = room.leadingTo(destination);
  const mayLead = room.mayLeadTo(destination);
  const targets = setup.devices.filter(
    ({ id, direction }) =>
      direction === 'out' && mayLead.has(id) && !setup.mixes.some(({ into }) => into.includes(id)),
  );
  return targets.flatMap((target) => {
    const onMachine = setup.devices.filter(
      ({ id, machine }) => machine === target.machine && id !== target.id && !leading.has(id),
    );
    const carrying = onMachine.filter(({ id }) => room.passes(source, id));
    const name = `To ${target.name}`.slice(0, 60);
    const made = (inputs: { from: string; gainDb: number }[]): SimpleEdit => ({
      edit: 'addMix',
      id: newId(setup, `${target.id} mix`),
      mix: { name, machine: target.machine, inputs, into: [target.id] },
    });
    const single = carrying.map(({ id }) => mixOf(room, target, [{ from: id, gainDb: 0 }], made));
    const all = wantedAt(room, destination, onMachine);
    return all.length > 1 ? [mixOf(room, target, all, made), ...single] : single;
  });
}

/**
 * Devices that carry, each source once, what is wanted at a destination and is missing there, with the gains at which it would
 * be as loud as it is wanted. Those that carry one source alone come first.
 */
function wantedAt(
  room: Room,
  destination: Destination,
  devices: Device[],
): { from: string; gainDb: number }[] {
  const parts = devices.flatMap(({ id }) => {
    const sources = room.sourcesAt(id);
    const gains = sources.map((one) => {
      const wishDb = room.wishDb(one, destination);
      return wishDb === null || room.arrival(one, destination) ? null : wishDb - (room.gainAt(one, id) ?? 0);
    });
    const known = gains.filter((one) => one !== null);
    if (sources.length === 0 || known.length < gains.length) return [];
    const gainDb = inRange(known[0]);
    return gainDb === null || Math.max(...known) - Math.min(...known) > 1 ? [] : [{ id, sources, gainDb }];
  });
  const covered = new Set<string>();
  return parts
    .sort((a, b) => a.sources.length - b.sources.length)
    .flatMap(({ id, sources, gainDb }) => {
      if (sources.some((one) => covered.has(one))) return [];
      for (const one of sources) covered.add(one);
      return [{ from: id, gainDb }];
    });
}

function mixOf(
  room: Room,
  target: Device,
  inputs: { from: string; gainDb: number }[],
  made: (inputs: { from: string; gainDb: number }[]) => SimpleEdit,
): Candidate {
  const what = listed(inputs.map(({ from }) => room.name(from)));
  return {
    label: `Make a mix of ${what} that plays into “${target.name}”`,
    fault: `No mix brings ${what} to “${target.name}”`,
    edits: [made(inputs)],
    adjusted: (byDb) => {
      const moved = inputs.map(({ from, gainDb }) => ({ from, gainDb: inRange(gainDb + byDb) }));
      return moved.every(({ gainDb }) => gainDb !== null)
        ? {
            ...mixOf(room, target, moved as typeof inputs, made),
            adjusted: undefined,
          }
        : null;
    },
  };
}
