import { median } from '../median.ts';
import type { Edit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { applied } from './attempt.ts';
import type { Candidate } from './candidate.ts';
import { halfMended, putRight, waysLost, worse, worsened } from './compare.ts';
import { handworkOf } from './handwork.ts';
import type { Judge, Judged } from './judge.ts';
import { movesAbout, movesFor, rebuildingsFor } from './moves/forFinding.ts';
import { Room } from './room.ts';
import { SOLVED, type Target, weightOf } from './target.ts';
import type { Trouble } from './weights.ts';

/** What one more act costs, in the unit of the measure: of two repairs that end alike, the one with fewer acts wins. */
const ACT_COSTS = 2;
/** … and one more thing that is done by hand. */
const HAND_COSTS = 0.4;
/** … and each thing that is changed, but not put right: it has a cause of its own, which that would hide. */
const HALF_COSTS = 10;
/** … and each edit of an act beyond its first. */
const EDIT_COSTS = 0.3;
const MOST_EDITS_COUNTED = 6;
/** An act that does harm is followed, though others do none, where it comes nearer than they by this much. */
const PROMISING = 20;
/** A repair that closes a pickup is outdone by an act that puts so much more right, but for what another fault spoils. */
const OUTDONE_BY = 150;
/** … and each way that is taken from something that is still missing. */
const WAY_COSTS = 3;
/** This many beginnings, those that come nearest, are followed by a second act, and this many by a third. */
const FOLLOWED = [8, 4];
/** Beside them are followed: the nearest that solve the finding, whatever harm they do; … */
const SOLVING_FOLLOWED = 3;
/** … those that bring the sound furthest on its way without harm; … */
const HARMLESS_FOLLOWED = 3;
/** … those that bring it furthest, whatever harm they do; … */
const FURTHEST_FOLLOWED = 2;
/** … and those that put most right of what is wrong, whatever comes up instead: a second fault may have hidden that. */
const MOST_RIGHT_FOLLOWED = 2;
/** As many things that an act made worse are mended by the next one. */
const FIXED_AFTER = 2;
/** As many things that a repair leaves wrong with its source are looked at. */
const LEFT_LOOKED_AT = 2;
/** What is about one setting: nothing else comes of it. */
const SETTINGS = new Set<Target['code']>([
  'on-default',
  'player-volume',
  'double-processing',
  'hum-risk',
  'drift',
  'rate-mismatch',
  'own-clock',
]);
/** No more acts than this are tried in one search. */
const MOST_TRIED = 1800;

/** Acts that solve what a finding is about, without anything else getting worse. */
export interface Repair {
  acts: Candidate[];
  from: Judged;
  after: Judged;
  /** What must be done on the real machines. */
  handwork: string[];
  /** Some act would come much nearer to what is wanted, were it not for another fault: that is better mended first. */
  isOutdone?: boolean;
}

/** Acts that were tried one after the other, and where they lead. */
interface Tried {
  acts: Candidate[];
  after: Judged;
  isSolved: boolean;
  isWorse: boolean;
  order: number;
}

/**
 * Searches for repairs of one finding: single acts near it, then two and three together where one does not do (beam search). What
 * brings the measure to its best with the fewest acts comes first.
 */
export class Search {
  private readonly judge: Judge;
  private readonly from: Judged;
  private readonly target: Target;
  private readonly scene: string | null;
  private readonly gains = new Map<string, number>();
  private tried = 0;

  constructor(judge: Judge, from: Judged, target: Target, scene: string | null) {
    this.judge = judge;
    this.from = from;
    this.target = target;
    this.scene = scene;
  }

  /**
   * Returns the repairs, the best first; none where nothing within three acts solves it without harm, and none for what the measure
   * does not know: nothing could show that it is solved.
   * @param isThorough whether two acts together are tried even where a single one does
   */
  repairs(isThorough = false): Repair[] {
    if (weightOf(this.target, this.from, this.from) < SOLVED) return [];
    const room = new Room(this.judge, this.from);
    const singles = this.tryAll(movesFor(room, this.target, this.scene), null);
    for (const one of singles) this.gains.set(keyOf(one.acts[0]), this.from.total - one.after.total);
    let found = this.accepted(singles);
    if (found.length === 0) found = this.accepted(this.tryAll(rebuildingsFor(room, this.target), null));
    if (
      !isThorough &&
      found.length > 0 &&
      !this.isPromising(singles, found[0]) &&
      !this.isOutdone(found[0], singles) &&
      this.isRestMendable(found[0])
    )
      return found;
    let layer = singles;
    for (const followed of FOLLOWED) {
      layer = this.best(layer, followed).flatMap((parent) => this.followUps(parent));
      const together = this.accepted(layer).filter((one) => this.belongTogether(one));
      found = this.ranked([...found, ...together]);
      if (found.length > 0) break;
    }
    return this.marked(found, singles);
  }

  /** Repairs, marked where another fault spoils a better act. */
  private marked(found: Repair[], singles: Tried[]): Repair[] {
    return found.length > 0 && this.isOutdone(found[0], singles)
      ? found.map((one) => ({ ...one, isOutdone: true }))
      : found;
  }

  /**
   * Tells whether a repair closes a pickup in several places, while a single act that does harm puts much more right: then the pickup
   * takes up the wrong sound, and another fault hides it.
   */
  private isOutdone({ acts, after }: Repair, singles: Tried[]): boolean {
    if (editsOf(acts) === 1 || !acts.every(isClosing)) return false;
    const spoilt = singles.filter(({ isSolved, isWorse }) => isSolved && isWorse);
    if (spoilt.length === 0) return false;
    const least = putRight(this.from, after) + OUTDONE_BY;
    return spoilt.some((one) => putRight(this.from, one.after) > least);
  }

  /** Tells whether some act comes much nearer than a repair, but for what a second one would have to put right. */
  private isPromising(singles: Tried[], { after }: Repair): boolean {
    const left = this.leftOf(after);
    if (left < PROMISING) return false;
    return singles.some((one) => one.isSolved && one.isWorse && this.leftOf(one.after) < left - PROMISING);
  }

  /** What still weighs of the source that the search is for; of a search for none, all that weighs. */
  private leftOf({ bySource, total }: Judged): number {
    return this.target.source === null ? total : (bySource.get(this.target.source)?.total ?? 0);
  }

  /** Tells whether single acts solve whatever a repair leaves wrong with its source: then that has causes of its own. */
  private isRestMendable({ acts, after }: Repair): boolean {
    if (SETTINGS.has(this.target.code)) return true;
    const source = this.target.source;
    const left = source === null ? [] : (after.bySource.get(source)?.troubles ?? []);
    const cells = left.filter(({ weight, destination }) => weight >= 1 && destination !== null);
    const parent: Tried = { acts, after, isSolved: true, isWorse: false, order: 0 };
    const room = new Room(this.judge, after);
    return cells.slice(0, LEFT_LOOKED_AT).every((trouble) => {
      const { destination, scene } = trouble;
      const weightIn = (judged: Judged) =>
        (judged.bySource.get(source as string)?.troubles ?? [])
          .filter(({ place, scene: at }) => place === trouble.place && at === scene)
          .reduce((sum, { weight }) => sum + weight, 0);
      const moves = movesAbout(room, { source: source as string, destination, scene });
      return this.tryAll(moves, parent).some(
        (one) => weightIn(one.after) < SOLVED && !worsened(after, one.after),
      );
    });
  }

  private tryAll(candidates: Candidate[], parent: Tried | null): Tried[] {
    const seen = new Set<string>();
    return candidates.flatMap((candidate, order) => {
      const key = keyOf(candidate);
      if (seen.has(key)) return [];
      seen.add(key);
      const one = this.tryOne(candidate, parent, order);
      const landed = one && this.landed(one, candidate, parent, order);
      return [...(landed ? [landed] : []), ...(one ? [one] : [])];
    });
  }

  private tryOne(candidate: Candidate, parent: Tried | null, order: number): Tried | null {
    if (candidate.edits.length === 0 || this.tried >= MOST_TRIED) return null;
    this.tried += 1;
    const before = parent?.after ?? this.from;
    const setup = applied(before.setup, candidate.edits);
    if (!setup) return null;
    const after = this.judge.judge(setup, before);
    return {
      acts: [...(parent?.acts ?? []), candidate],
      after,
      isSolved: weightOf(this.target, after, this.from) < SOLVED,
      isWorse: worsened(this.from, after),
      order,
    };
  }

  /** The same act at the level at which what it brings lands on its wish; null where it lands there already. */
  private landed(one: Tried, candidate: Candidate, parent: Tried | null, order: number): Tried | null {
    if (!candidate.adjusted) return null;
    const byDb = this.offBy(parent?.after ?? this.from, one.after);
    const adjusted = byDb === null || Math.abs(byDb) < 0.05 ? null : candidate.adjusted(byDb);
    return adjusted && this.tryOne(adjusted, parent, order);
  }

  /** By how much (dB) what comes newly to its destinations is too quiet there: the middle of the figures. */
  private offBy(before: Judged, after: Judged): number | null {
    const room = new Room(this.judge, after);
    const figures: number[] = [];
    for (const [id, { troubles }] of after.bySource) {
      if (before.bySource.get(id)?.troubles === troubles) continue;
      for (const { kind, destination: destinationId } of troubles) {
        const destination = kind === 'off' ? room.destination(destinationId) : undefined;
        const wishDb = destination ? room.wishDb(id, destination) : null;
        const arrival = destination && room.arrival(id, destination);
        if (wishDb !== null && arrival) figures.push(wishDb - arrival.gainDb);
      }
    }
    return figures.length > 0 ? median(figures) : null;
  }

  /** A second act near what is still wrong after a first: what the search is for, and what the first made worse. */
  private followUps(parent: Tried): Tried[] {
    const room = new Room(this.judge, parent.after);
    const candidates = parent.isSolved ? [] : movesFor(room, this.target, this.scene);
    const fixed = worse(this.from, parent.after)
      .sort((a, b) => b.weight - a.weight)
      .slice(0, FIXED_AFTER);
    for (const { source, destination, scene } of fixed)
      if (source !== null && destination !== null)
        candidates.push(...movesAbout(room, { source, destination, scene }));
    if (candidates.length === 0) candidates.push(...this.movesForRest(room, parent.after));
    return this.tryAll(candidates, parent);
  }

  /** Acts near the gravest thing that is left wrong with the source, or else with any other. */
  private movesForRest(room: Room, after: Judged): Candidate[] {
    const own = after.bySource.get(this.target.source ?? '')?.troubles ?? [];
    const rest =
      gravestAt(own) ?? gravestAt([...after.bySource.values()].flatMap(({ troubles }) => troubles));
    if (!rest) return [];
    const { source, destination, scene } = rest;
    return movesAbout(room, { source: source as string, destination, scene });
  }

  /** The beginnings that are worth following, each once. */
  private best(layer: Tried[], count: number): Tried[] {
    const reached = ({ after }: Tried) => after.bySource.get(this.target.source ?? '')?.passes.size ?? 0;
    const nearest = [...layer].sort(
      (a, b) => a.after.total - b.after.total || reached(b) - reached(a) || a.order - b.order,
    );
    const furthest = nearest.slice(count).sort((a, b) => reached(b) - reached(a));
    const harmless = furthest.filter(({ isWorse }) => !isWorse).slice(0, HARMLESS_FOLLOWED);
    const solving = nearest.filter(({ isSolved }) => isSolved).slice(0, SOLVING_FOLLOWED);
    const right = nearest
      .map((one) => ({ one, byRight: putRight(this.from, one.after) }))
      .sort((a, b) => b.byRight - a.byRight)
      .map(({ one }) => one);
    return [
      ...new Set([
        ...right.slice(0, MOST_RIGHT_FOLLOWED),
        ...nearest.slice(0, count),
        ...solving,
        ...harmless,
        ...furthest.slice(0, FURTHEST_FOLLOWED),
      ]),
    ];
  }

  private accepted(layer: Tried[]): Repair[] {
    return this.ranked(
      layer
        .filter(
          ({ isSolved, isWorse, after }) => isSolved && !isWorse && isAllowed(this.from.setup, after.setup),
        )
        .map(({ acts, after }) => ({
          acts,
          from: this.from,
          after,
          handwork: handworkOf(this.from.setup, asEdit(acts)),
        })),
    );
  }

  private ranked(repairs: Repair[]): Repair[] {
    const cost = ({ acts, after, handwork }: Repair) =>
      after.total +
      ACT_COSTS * acts.length +
      HAND_COSTS * handwork.length +
      EDIT_COSTS * Math.min(MOST_EDITS_COUNTED, editsOf(acts) - acts.length) +
      HALF_COSTS * halfMended(this.from, after) +
      WAY_COSTS * Math.min(MOST_EDITS_COUNTED, waysLost(this.from, after));
    return repairs
      .map((one) => ({ one, cost: cost(one) }))
      .sort((a, b) => a.cost - b.cost)
      .map(({ one }) => one);
  }

  /** Acts are one repair only if together they gain more than each by itself: else they mend two things. */
  private belongTogether({ acts, after }: Repair): boolean {
    const whole = this.from.total - after.total;
    const alone = acts.reduce((sum, act) => sum + Math.max(0, this.gainOf(act)), 0);
    return whole > alone + ACT_COSTS / 2;
  }

  private gainOf(act: Candidate): number {
    const key = keyOf(act);
    const known = this.gains.get(key);
    if (known !== undefined) return known;
    const setup = applied(this.from.setup, act.edits);
    const gain = setup ? this.from.total - this.judge.judge(setup, this.from).total : 0;
    this.gains.set(key, gain);
    return gain;
  }
}

/** Returns acts as one edit, labelled with what they do. */
export function asEdit(acts: Candidate[]): Edit {
  return { edit: 'batch', label: labelOf(acts).slice(0, 120), edits: acts.flatMap(({ edits }) => edits) };
}

/** Says what is wrong if some acts mend it: the name of a cause. */
export function faultOf(acts: Candidate[]): string {
  return acts.map(({ fault }) => `${fault[0].toUpperCase()}${fault.slice(1)}`).join('. ');
}

/** Says what acts do, one after the other. */
export function labelOf(acts: Candidate[]): string {
  return acts
    .map(({ label }, i) => (i === 0 ? label : `${label[0].toLowerCase()}${label.slice(1)}`))
    .join(', and ');
}

function keyOf({ edits }: Candidate): string {
  return JSON.stringify(edits);
}

/** Tells whether a setup keeps the rules and every wish of the one that it was made from. */
function isAllowed(from: Setup, setup: Setup): boolean {
  const kept = new Set(setup.intent);
  return from.intent.every((wish) => kept.has(wish)) && brokenRules(setup).length === 0;
}

/** The gravest trouble with a source at a destination. */
function gravestAt(troubles: Trouble[]): Trouble | undefined {
  return troubles
    .filter(({ weight, source, destination }) => weight >= 1 && source !== null && destination !== null)
    .sort((a, b) => b.weight - a.weight)[0];
}

function isClosing({ edits }: Candidate): boolean {
  return edits.every(
    (one) =>
      (one.edit === 'setSend' && one.gainDb === null) || (one.edit === 'setMixInput' && one.values === null),
  );
}

function editsOf(acts: Candidate[]): number {
  return acts.reduce((sum, { edits }) => sum + edits.length, 0);
}
