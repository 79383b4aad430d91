import type { Finding } from '../findings/finding.ts';
import { findingsOf } from '../findings/findings.ts';
import type { ReachChange } from '../reach/changes.ts';
import { ownGainDb, volumeDb } from '../reach/reach.ts';
import type { Edit } from '../setup/edits.ts';
import type { Setup, Source } from '../setup/schema.ts';
import { afterAll } from './afterAll.ts';
import { attempt } from './attempt.ts';
import { worsened } from './compare.ts';
import { changesOf, type Effect, effectsOf } from './effects.ts';
import { handworkOf } from './handwork.ts';
import { Judge, type Judged } from './judge.ts';
import { separations } from './moves/separate.ts';
import { Room } from './room.ts';
import { asEdit, labelOf, type Repair, Search } from './search.ts';

/** A change that mends a finding as it was meant, or (apart) one that gives up what was wanted: in words, and as an edit. */
export interface Remedy {
  label: string;
  edit: Edit;
  /** What the creator must do on their real machines to make it true; empty when Northfen does it all. */
  handwork: string[];
  /** What it gives up of what is wanted, in words. One that gives something up is no remedy: it is offered apart, and last. */
  givesUp: string[];
  /** What changes for whom, and the same in words. */
  readonly changes: ReachChange[];
  readonly effects: Effect[];
}

/** No more remedies than this are offered. */
const OFFERED = 4;

/**
 * Returns the remedies of a finding, the best first: see `Search`. None makes anything else worse, and none gives up what is
 * wanted; what does so is marked, and comes last.
 * @param judge of the setup, when it is known already
 */
export function remediesFor(
  setup: Setup,
  finding: Finding,
  today: string,
  judge = new Judge(setup, today),
): Remedy[] {
  const repairs = repairsOf(judge, finding).slice(0, OFFERED);
  return [...repairs.map((repair) => remedyOf(judge.first, repair)), ...givingUp(judge, finding)];
}

/** What is about levels itself. */
const ABOUT_LEVELS = new Set<Finding['code']>(['off-level', 'player-volume']);

/**
 * Searches for repairs of a finding, the best first. Where its source is off its wishes by the same everywhere, that is a cause of its
 * own: the search goes on as if it were right, so that no other level makes up for it.
 * @param isThorough whether two acts together are tried even where a single one does
 */
export function repairsOf(judge: Judge, finding: Finding, from = judge.first, isThorough = false): Repair[] {
  const scene = finding.scenes?.[0] ?? null;
  const offDb =
    finding.source === null || ABOUT_LEVELS.has(finding.code)
      ? 0
      : offEverywhere(judge, from, finding.source);
  if (offDb !== 0) {
    const found = new Search(judge, evened(judge, from, finding.source as string, offDb), finding, scene)
      .repairs(isThorough)
      .flatMap(({ acts, handwork }): Repair[] => {
        const setup = attempt(from.setup, asEdit(acts));
        const after = setup && judge.judge(setup, from);
        return after && after.total < from.total && !worsened(from, after)
          ? [{ acts, handwork, from, after }]
          : [];
      });
    if (found.length > 0) return withoutNewStops(judge, from, found);
  }
  return withoutNewStops(judge, from, new Search(judge, from, finding, scene).repairs(isThorough));
}

/** Tells whether a repair makes a track another one: then what is found is found at other places. */
function changesUses({ acts }: Repair): boolean {
  return acts.some(({ edits }) => edits.some((edit) => edit.edit === 'updateTrack' && edit.values.uses));
}

function withoutNewStops(judge: Judge, from: Judged, repairs: Repair[]): Repair[] {
  if (!repairs.some(changesUses)) return repairs;
  const stopsOf = (setup: Setup) =>
    findingsOf(setup, judge.today).flatMap(({ id, severity }) => (severity === 'stop' ? [id] : []));
  const known = new Set(stopsOf(from.setup));
  return repairs.filter((one) => !changesUses(one) || stopsOf(one.after.setup).every((id) => known.has(id)));
}

/**
 * By how much (dB) a source is too quiet everywhere for its own level or its app's volume; 0 where they do not explain what is off.
 */
function offEverywhere(judge: Judge, from: Judged, id: string): number {
  const room = new Room(judge, from);
  const source = room.source(id);
  if (!source) return 0;
  const figures = from.destinations.flatMap((destination) => {
    const wishDb = room.wishDb(id, destination);
    const arrival = wishDb === null ? null : room.arrival(id, destination);
    return wishDb !== null && arrival ? [wishDb - arrival.gainDb] : [];
  });
  const own = [volumeDb(source), source.levelDb, ownGainDb(source)].filter((gainDb) => Math.abs(gainDb) >= 1);
  const cause = own.find((gainDb) => figures.every((one) => Math.abs(one + gainDb) < 0.5));
  return figures.length > 0 && cause !== undefined ? -cause : 0;
}

/** The setup with a source at another level. */
function evened(judge: Judge, from: Judged, id: string, byDb: number): Judged {
  const sources = from.setup.sources.map((one) =>
    one.id === id ? { ...one, levelDb: one.levelDb + byDb } : one,
  );
  return judge.judge({ ...from.setup, sources }, from);
}

/** Returns a repair as it is offered. @param before the setup that it is for */
export function remedyOf(before: Judged, { acts, after, handwork }: Repair): Remedy {
  return withChanges(before, after, { label: labelOf(acts), edit: asEdit(acts), handwork, givesUp: [] });
}

/** Returns what ends a finding by no longer wanting something, each with what is lost. */
export function givingUp(judge: Judge, finding: Finding): Remedy[] {
  const { setup } = judge.first;
  return afterAll(setup, finding).flatMap(({ label, edits, givesUp }): Remedy[] => {
    const edit: Edit = { edit: 'batch', label: label.slice(0, 120), edits };
    const after = edits.length > 0 ? attempt(setup, edit) : null;
    const handwork = handworkOf(setup, edit);
    return after
      ? [withChanges(judge.first, judge.judge(after, judge.first), { label, edit, handwork, givesUp })]
      : [];
  });
}

/** What changes is looked up when it is asked for. */
export function withChanges(
  before: Judged,
  after: Judged,
  remedy: Pick<Remedy, 'label' | 'edit' | 'handwork' | 'givesUp'>,
): Remedy {
  let known: ReachChange[] | null = null;
  return {
    ...remedy,
    get changes() {
      known ??= changesOf(before, after);
      return known;
    },
    get effects() {
      return effectsOf(before.setup, after.setup, this.changes);
    },
  };
}

/**
 * Returns ways to bring a source to the recorder apart from those that it is fused with, the one that comes nearest to what is wanted
 * first; none raises a trouble that weighs as much as a stop.
 */
export function separationsOf(setup: Setup, source: Source, today: string): Remedy[] {
  const judge = new Judge(setup, today);
  return separations(new Room(judge, judge.first), source)
    .flatMap((candidate) => {
      const edit = asEdit([candidate]);
      const after = candidate.edits.length > 0 ? attempt(setup, edit) : null;
      if (!after) return [];
      const judged = judge.judge(after, judge.first);
      const { total } = judged;
      if (total > judge.first.total) return [];
      const handwork = handworkOf(setup, edit);
      return [
        {
          total,
          remedy: withChanges(judge.first, judged, { label: candidate.label, edit, handwork, givesUp: [] }),
        },
      ];
    })
    .sort((a, b) => a.total - b.total || a.remedy.handwork.length - b.remedy.handwork.length)
    .map(({ remedy }) => remedy);
}
