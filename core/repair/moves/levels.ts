import type { Setup, Source } from '../../setup/schema.ts';
import { gainText } from '../../setup/words.ts';
import type { About, Candidate } from '../candidate.ts';
import type { Room } from '../room.ts';
import { inRange } from './opening.ts';

/**
 * Returns what brings a sound that arrives at another level than is wished to its level: each control on its paths, set so that it
 * lands there, the one that comes nearest to 0 dB first.
 */
export function levelMoves(room: Room, { source: id, destination, scene }: About): Candidate[] {
  const source = room.source(id);
  const place = room.destination(destination);
  const wishDb = place ? room.wishDb(id, place) : null;
  const arrival = place && room.arrival(id, place, scene);
  if (!source) return [];
  const volume = volumeMove(source);
  if (!place || !arrival || wishDb === null) return volume;
  const byDb = wishDb - arrival.gainDb;
  const moves: { gainDb: number; candidate: Candidate }[] = [];
  const put = (now: number, make: (gainDb: number) => Candidate) => {
    const gainDb = inRange(now + byDb);
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
    const control = controlOf(room.setup, from, to);
    if (control)
      put(control.gainDb, (gainDb) => ({
        ...setLevel(room, control.kind, from, to, gainDb),
        fault: `${nameOfControl(room, control.kind, from, to)} is at ${gainText(control.gainDb)} dB`,
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

type ControlKind = 'send' | 'input' | 'pickup';

/** What sets a level between two places: a send, an input of a mix, or a pickup. */
function controlOf(setup: Setup, from: string, to: string): { kind: ControlKind; gainDb: number } | null {
  const send = setup.sends.find((one) => one.pickup === from && one.to === to);
  if (send) return { kind: 'send', gainDb: send.gainDb };
  const input = setup.mixes.find(({ id }) => id === to)?.inputs.find((one) => one.from === from);
  if (input) return { kind: 'input', gainDb: input.gainDb };
  const pickup = setup.pickups.find(({ id }) => id === to);
  return pickup ? { kind: 'pickup', gainDb: pickup.gainDb } : null;
}

function nameOfControl(room: Room, kind: ControlKind, from: string, to: string): string {
  if (kind === 'pickup') return `The pickup of ${room.pickupName(to)}`;
  if (kind === 'input') return `${room.name(from)} in the mix “${room.name(to)}”`;
  const place = room.judged.destinations.find(({ feedId }) => feedId === to);
  return `${room.pickupName(from)} on ${place ? room.feedName(place) : room.name(to)}`;
}

function setLevel(room: Room, kind: ControlKind, from: string, to: string, gainDb: number): Candidate {
  const level = `${gainText(gainDb)} dB`;
  if (kind === 'send') {
    const place = room.judged.destinations.find(({ feedId }) => feedId === to);
    const where = place ? room.feedName(place) : room.name(to);
    return {
      label: `Set ${room.pickupName(from)} on ${where} to ${level}`,
      edits: [{ edit: 'setSend', pickup: from, to, gainDb }],
    };
  }
  if (kind === 'input')
    return {
      label: `Set ${room.name(from)} in the mix “${room.name(to)}” to ${level}`,
      edits: [{ edit: 'setMixInput', mix: to, from, values: { gainDb } }],
    };
  return {
    label: `Set the pickup of ${room.pickupName(to)} to ${level}`,
    edits: [{ edit: 'updatePickup', id: to, values: { gainDb } }],
  };
}
