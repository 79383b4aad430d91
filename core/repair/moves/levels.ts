import type { SimpleEdit } from '../../setup/edits.ts';
import type { Source } from '../../setup/schema.ts';
import { gainText } from '../../words/figures.ts';
import type { About, Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';
import { inRange } from './opening.ts';

/**
 * Returns what brings a sound that arrives at another level than is wished to its level: each control on its paths, set so that it
 * lands there, the one that comes nearest to 0 dB first.
 */
export function levelMoves(
  room: Room,
  { source: id, destination: destinationId, scene }: About,
): Candidate[] {
  const source = room.source(id);
  const destination = room.destination(destinationId);
  const wishDb = destination ? room.wishDb(id, destination) : null;
  const arrival = destination && room.arrival(id, destination, scene);
  if (!source) return [];
  const volume = volumeMove(source);
  if (!destination || !arrival || wishDb === null) return volume;
  const byDb = wishDb - arrival.gainDb;
  const moves: { gainDb: number; candidate: Candidate }[] = [];
  const put = (now: number, make: (gainDb: number) => Candidate) => {
    // If several controls are far off, no single one can be set far enough: one that is off the right way goes back to 0 dB.
    const isOff = Math.abs(now) >= 1 && Math.sign(now) !== Math.sign(byDb);
    const gainDb = inRange(now + byDb) ?? (isOff ? 0 : null);
    if (gainDb !== null) moves.push({ gainDb, candidate: make(gainDb) });
  };
  put(source.levelDb, (levelDb) => ({
    label: `Set the level of ${source.name} to ${gainText(levelDb)} dB, for all`,
    fault: `The level of ${source.name} is at ${gainText(source.levelDb)} dB`,
    edits: [{ edit: 'updateSource', id, values: { levelDb } }],
  }));
  const legs = new Set(arrival.places.flatMap((path) => path.slice(1).map((to, i) => `${path[i]} ${to}`)));
  for (const leg of legs) {
    const [from, to] = leg.split(' ');
    const control = controlOf(room, from, to);
    if (control)
      put(control.gainDb, (gainDb) => ({
        label: `Set ${control.name} to ${gainText(gainDb)} dB`,
        fault: `${control.name} is at ${gainText(control.gainDb)} dB`,
        edits: [control.set(gainDb)],
      }));
  }
  moves.sort((a, b) => Math.abs(a.gainDb) - Math.abs(b.gainDb));
  return [...volume, ...moves.map(({ candidate }) => candidate)];
}

function volumeMove({ id, name, volumePercent = 100 }: Source): Candidate[] {
  if (volumePercent === 100) return [];
  return [
    {
      label: `Set ${name}’s own volume to 100 %`,
      fault: `${name}’s own volume is at ${volumePercent} %`,
      edits: [{ edit: 'updateSource', id, values: { volumePercent: 100 } }],
    },
  ];
}

/** What sets a level between two places. */
interface Control {
  name: string;
  gainDb: number;
  set(gainDb: number): SimpleEdit;
}

/** Returns the send, the input of a mix, the pickup, or the own volume of a device that sets the level between two places; null where nothing does. */
function controlOf(room: Room, from: string, to: string): Control | null {
  const { sends, mixes, pickups } = room.setup;
  const send = sends.find((one) => one.pickup === from && one.to === to);
  if (send) {
    const destination = room.judged.destinations.find(({ sendTo }) => sendTo === to);
    return {
      name: `${room.pickupName(from)} on ${destination ? room.feedName(destination) : room.name(to)}`,
      gainDb: send.gainDb,
      set: (gainDb) => ({ edit: 'setSend', pickup: from, to, gainDb }),
    };
  }
  const input = mixes.find(({ id }) => id === to)?.inputs.find((one) => one.from === from);
  if (input)
    return {
      name: `${room.name(from)} in the mix “${room.name(to)}”`,
      gainDb: input.gainDb,
      set: (gainDb) => ({ edit: 'setMixInput', mix: to, from, values: { gainDb } }),
    };
  const device = room.device(to);
  if (device?.volumeDb)
    return {
      name: `the volume of “${device.name}”`,
      gainDb: device.volumeDb,
      set: (volumeDb) => ({ edit: 'updateDevice', id: to, values: { volumeDb } }),
    };
  const pickup = pickups.find(({ id }) => id === to);
  return pickup
    ? {
        name: `the pickup of ${room.pickupName(to)}`,
        gainDb: pickup.gainDb,
        set: (gainDb) => ({ edit: 'updatePickup', id: to, values: { gainDb } }),
      }
    : null;
}
