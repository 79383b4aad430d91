import type { SimpleEdit } from '../../setup/edits.ts';
import { newId } from '../../setup/ids.ts';
import type { Device, Mix } from '../../setup/wiring.ts';
import type { About, Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';
import { inRange } from './opening.ts';

/** Returns what gives mixes other inputs in place of those that they have, and mixes that are not there. */
export function mixMoves(room: Room, about: About): Candidate[] {
  return [...exchangedInputs(room, about), ...newMixes(room, about)];
}

/** A mix on the way takes something else in place of one of its inputs, at the level of that. */
function exchangedInputs(room: Room, { source, destination }: About): Candidate[] {
  const place = room.destination(destination);
  if (!place) return [];
  const leading = room.leadingTo(place);
  return room.setup.mixes
    .filter(({ id }) => leading.has(id))
    .flatMap((mix) =>
      mix.inputs
        .filter(({ muted }) => !muted)
        .flatMap((input) => {
          const brings = input.from === source || room.passes(source, input.from);
          return carriers(room, mix)
            .filter(({ id }) => brings !== room.passes(source, id))
            .map(({ id, name }): Candidate => {
              const { from, ...values } = input;
              return {
                label: `Take ${name} into the mix “${mix.name}” instead of ${room.name(from)}`,
                fault: `The mix “${mix.name}” takes in ${room.name(from)}, not ${name}`,
                edits: [
                  { edit: 'setMixInput', mix: mix.id, from, values: null },
                  { edit: 'setMixInput', mix: mix.id, from: id, values },
                ],
              };
            });
        }),
    );
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

/** A new mix plays into an output that leads to the destination and into which no mix plays. */
function newMixes(room: Room, { source, destination }: About): Candidate[] {
  const { setup } = room;
  const place = room.destination(destination);
  const heardAt = setup.destinations.find(({ id }) => id === destination);
  if (!place || room.arrival(source, place)) return [];
  const leading = room.leadingTo(place);
  const targets = setup.devices.filter(
    ({ id, direction }) =>
      direction === 'out' && leading.has(id) && !setup.mixes.some(({ into }) => into.includes(id)),
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
    if (!heardAt?.hears?.includes(target.id)) return single;
    const all = onMachine.flatMap(({ id }) => {
      const gains = room.sourcesAt(id).flatMap((one) => {
        const wishDb = room.wishDb(one, place);
        const isThere = room.arrival(one, place) !== null;
        return wishDb === null ? [null] : isThere ? [] : [inRange(wishDb - (room.gainAt(one, id) ?? 0))];
      });
      const [gainDb] = gains;
      return gainDb !== undefined && gainDb !== null && gains.every((one) => one !== null)
        ? [{ from: id, gainDb }]
        : [];
    });
    return all.length > 1 ? [mixOf(room, target, all, made), ...single] : single;
  });
}

function mixOf(
  room: Room,
  target: Device,
  inputs: { from: string; gainDb: number }[],
  made: (inputs: { from: string; gainDb: number }[]) => SimpleEdit,
): Candidate {
  const what = inputs.map(({ from }) => room.name(from)).join(' and ');
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
