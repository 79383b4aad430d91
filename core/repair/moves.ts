import { cellEdit } from '../reach/cell.ts';
import type { Destination } from '../reach/destinations.ts';
import { knownReach } from '../reach/knownReach.ts';
import { nameOf, type SimpleEdit } from '../setup/edits.ts';
import { MAX_GAIN_DB, MIN_GAIN_DB, nearestGain, type Setup, type Source } from '../setup/schema.ts';
import { gainText } from '../setup/words.ts';
import { attempt } from './attempt.ts';
import type { Candidate } from './candidate.ts';

/** What brings a sound that arrives at another level than is wished to its level: where it is set, or at the source. */
export function levelMoves(setup: Setup, source: Source, destination: Destination): Candidate[] {
  const wish = setup.intent.find((one) => one.source === source.id && one.destination === destination.id);
  const arrival = knownReach(setup).at(source.id, destination.id);
  if (!wish || !arrival) return [];
  const moves: Candidate[] = [];
  if ((source.volumePercent ?? 100) !== 100)
    moves.push({
      label: `Set ${source.name}’s own volume to 100 %`,
      edits: [{ edit: 'updateSource', id: source.id, values: { volumePercent: 100 } }],
    });
  const levelDb = source.levelDb + wish.gainDb - arrival.gainDb;
  if (levelDb >= MIN_GAIN_DB && levelDb <= MAX_GAIN_DB)
    moves.push({
      label: `Set the level of ${source.name} to ${gainText(levelDb)} dB, for all`,
      edits: [{ edit: 'updateSource', id: source.id, values: { levelDb: nearestGain(levelDb) } }],
    });
  const here = onlyLevels(setup, source, destination, wish.gainDb);
  if (here.length > 0)
    moves.push({
      label: `Set ${source.name} at ${destination.name} to ${gainText(wish.gainDb)} dB, as it is wanted`,
      edits: here,
    });
  const even: SimpleEdit = { edit: 'updateSource', id: source.id, values: { levelDb: 0 } };
  const evened = attempt(setup, even);
  const then = evened ? onlyLevels(evened, source, destination, wish.gainDb) : [];
  if (source.levelDb !== 0 && then.length > 0)
    moves.push({
      label: `Set the level of ${source.name} to 0 dB, and it at ${destination.name} to ${gainText(wish.gainDb)} dB`,
      edits: [even, ...then],
    });
  return moves;
}

/** The edits that the board would make to set a level, without those of what is wanted. */
function onlyLevels(setup: Setup, source: Source, destination: Destination, gainDb: number): SimpleEdit[] {
  try {
    const edit = cellEdit(setup, source.id, destination.id, gainDb);
    const edits = edit.edit === 'batch' ? edit.edits : [edit];
    return edits.filter((one) => one.edit !== 'setWish');
  } catch {
    return [];
  }
}

/**
 * Takes up a device of the recorder's machine that a source reaches and no pickup takes, and sends what it carries where that is
 * wanted, at the wished levels.
 */
export function pickupMoves(setup: Setup, source: Source): Candidate[] {
  const reach = knownReach(setup);
  const recorder = setup.recorder.machine;
  const taken = new Set(setup.pickups.map(({ takes }) => takes));
  return setup.devices
    .filter(({ id, machine }) => (recorder === undefined || machine === recorder) && !taken.has(id))
    .filter(({ id }) => reach.sourcesAt(id).includes(source.id))
    .map((device): Candidate => {
      const id = `${device.id}.taken`.slice(0, 64);
      const feeds = new Map<string, number>();
      for (const carried of reach.sourcesAt(device.id)) {
        for (const wish of setup.intent.filter((one) => one.source === carried)) {
          const place = reach.destinations.find((one) => one.id === wish.destination);
          const arrives = reach.at(carried, wish.destination);
          if (!place?.feedId || arrives || feeds.has(place.feedId)) continue;
          feeds.set(place.feedId, nearestGain(wish.gainDb - (reach.gainAt(carried, device.id) ?? 0)));
        }
      }
      return {
        label: `Pick up ${nameOf(setup, device.id)} and send it where it is wanted`,
        edits: [
          { edit: 'addPickup', id, pickup: { takes: device.id, gainDb: 0 } },
          ...Array.from(feeds, ([to, gainDb]): SimpleEdit => ({ edit: 'setSend', pickup: id, to, gainDb })),
        ],
      };
    })
    .filter(({ edits }) => edits.length > 1);
}

/** Lets a track that is there be the live or the VOD one. */
export function trackUseMoves(setup: Setup, use: 'live' | 'vod'): Candidate[] {
  return setup.tracks
    .filter(({ uses }) => !uses.includes(use))
    .map((track) => ({
      label: `Let “${track.name}” be the ${use === 'vod' ? 'VOD' : 'live'} track`,
      edits: [{ edit: 'updateTrack', id: track.id, values: { uses: [...track.uses, use] } }],
    }));
}
