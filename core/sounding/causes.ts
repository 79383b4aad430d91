import { findingsOf } from '../findings/findings.ts';
import { destinationsOf } from '../reach/destinations.ts';
import { reachOf } from '../reach/reach.ts';
import { causesOf } from '../repair/causes.ts';
import { clearanceOf } from '../setup/clearance.ts';
import { applyEdit, type Edit, EditError } from '../setup/edits.ts';
import type { Setup, Wish } from '../setup/schema.ts';
import { nearestGain } from '../values.ts';

/** Why the real room differs from its setup: what is other in it, how it is mended, and the edit that makes the setup say what the room does. */
export interface RoomCause {
  /** “Reedbox plays into “Headset”, not into “Records””. */
  name: string;
  /** What the creator does in the real room. */
  handwork: string[];
  /** What the edit does, in words. */
  label: string;
  edit: Edit;
}

/** What was measured of one source on one track; null where it did not arrive. */
export interface MeasuredLevel {
  source: string;
  track: string;
  gainDb: number | null;
}

/**
 * Finds the changes of a setup that bring what was measured. They are looked for as the repairs of a room are, with what was measured as
 * what is wanted; then once more the other way round, for the step that mends the room.
 * @param measured whatever is known; what is not stays as the setup says
 * @param today `YYYY-MM-DD`
 */
export function roomCauses(setup: Setup, measured: MeasuredLevel[], today: string): RoomCause[] {
  const plain = withoutListeners(setup);
  const computed = wishesAsComputed(plain);
  const wanted = wishesAsMeasured(plain, computed, measured);
  const usual = new Set(findingsOf({ ...plain, intent: computed }, today).map(({ id }) => id));
  const found: RoomCause[] = [];
  for (const { remedies } of causesNow({ ...plain, intent: wanted }, today, usual)) {
    const [remedy] = remedies;
    if (!remedy) continue;
    const asItIs = edited(plain, remedy.edit);
    if (!asItIs) continue;
    const back = causesNow({ ...asItIs, intent: computed }, today, usual);
    found.push({
      name: back[0]?.name ?? remedy.label,
      handwork: back.flatMap(({ remedies: [first] }) =>
        !first ? [] : first.handwork.length > 0 ? first.handwork : [`${first.label}.`],
      ),
      label: remedy.label,
      edit: remedy.edit,
    });
  }
  return found;
}

function causesNow(setup: Setup, today: string, usual: ReadonlySet<string>) {
  return causesOf(
    setup,
    today,
    findingsOf(setup, today).filter(({ id, severity }) => severity !== 'note' && !usual.has(id)),
    { looksAhead: false },
  );
}

function edited(setup: Setup, edit: Edit): Setup | null {
  try {
    return applyEdit(setup, edit);
  } catch (error) {
    if (error instanceof EditError) return null;
    throw error;
  }
}

/**
 * The setup as far as its tracks are concerned: who listens elsewhere, what is allowed, what is accepted and which scene is on does
 * not matter.
 */
function withoutListeners(setup: Setup): Setup {
  const destinations = setup.destinations.filter(({ kind }) =>
    ['live', 'vod', 'loudspeakers'].includes(kind),
  );
  const kept = new Set([...setup.tracks, ...destinations].map(({ id }) => id));
  const { balance: _, linkedFaders: _faders, accepted: _accepted, groups: _groups, ...rest } = setup;
  return {
    ...rest,
    destinations,
    scenes: [],
    ...(setup.air && { air: setup.air.filter(({ destination }) => kept.has(destination)) }),
    pickups: setup.pickups.map(({ scenes: _scenes, ...pickup }) => pickup),
    sends: setup.sends.filter(({ to }) => kept.has(to)),
    sources: setup.sources.map((source) => ({
      ...source,
      clearance: clearanceOf('own'),
      ownTrack: false,
    })),
    intent: [],
  };
}

/** What the setup brings, as what is wanted. */
function wishesAsComputed(setup: Setup): Wish[] {
  const reach = reachOf(setup);
  return setup.sources.flatMap(({ id: source }) =>
    reach.destinations.flatMap(({ id: destination }) => {
      const arrival = reach.at(source, destination);
      return arrival ? [{ source, destination, gainDb: nearestGain(arrival.gainDb) }] : [];
    }),
  );
}

/** What was measured, as what is wanted; live and VOD are what their track carries. */
function wishesAsMeasured(setup: Setup, computed: Wish[], measured: MeasuredLevel[]): Wish[] {
  const destinations = destinationsOf(setup);
  const known = measured.flatMap(({ source, track, gainDb }) =>
    destinations
      .filter(({ sendTo }) => sendTo === track)
      .map(({ id }) => ({ source, destination: id, gainDb })),
  );
  const isKnown = (wish: Wish) =>
    known.some(({ source, destination }) => source === wish.source && destination === wish.destination);
  return [
    ...computed.filter((wish) => !isKnown(wish)),
    ...known.flatMap(({ gainDb, ...place }) =>
      gainDb === null ? [] : [{ ...place, gainDb: nearestGain(gainDb) }],
    ),
  ];
}
