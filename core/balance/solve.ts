import { fromDb } from '../audio/decibel.ts';
import type { Sound } from '../engine/arrivingSounds.ts';
import { type Covariances, condense, integratedLufs, powersOfMix } from '../measure/covariance.ts';
import { cellEdit, handlesOf } from '../reach/cell.ts';
import type { Reach } from '../reach/reach.ts';
import { applyEdit, type Edit, type SimpleEdit } from '../setup/edits.ts';
import { MAX_GAIN_DB, MIN_GAIN_DB, nearestGain, type Setup } from '../setup/schema.ts';
import { levelText, listed } from '../words/figures.ts';
import { type Aim, aimOf, ROLES, type Role, roleOf } from './aims.ts';
import { coursesOf, figuresOf, gainsOf, type MixFigures, voiceOverBed } from './figures.ts';
import { peakHeldAt } from './peaks.ts';
import type { StaticMix } from './sounds.ts';

/** What “more” and “less” mean (LU). */
const WISH_LU = 3;
const ROUNDS = 8;
/** An aim counts as reached when it is this near (LU). */
const NEAR_LU = 0.5;

/** A new level for one source at one destination. */
export interface Proposal {
  sourceId: string;
  beforeDb: number;
  afterDb: number;
}

/** What balancing found for one destination: new levels, the figures before and after, and what stood in the way. */
export interface Balanced {
  destinationId: string;
  /** The track or destination that its levels belong to: other destinations may share them. */
  sendTo: string | null;
  aim: Aim;
  proposals: Proposal[];
  before: MixFigures;
  after: MixFigures;
  /** The true peak that is to be expected (dBTP); null while none was measured. */
  expectedDbtp: number | null;
  /** By how much what makes the peaks was moved (dB). */
  peakChangeDb: number;
  /** Whether everything is quieter than it should be, so that the true peak keeps to its ceiling. */
  isPeakLimited: boolean;
  obstacles: string[];
}

/** What is known for solving: a setup, and the covariances of everything that arrives. */
export interface BalanceInput {
  setup: Setup;
  reach: Reach;
  sounds: Sound[];
  covariances: Covariances;
  /** The true peak of a destination as it is now (dBTP), where it was measured. */
  peaksDbtp?: ReadonlyMap<string, number>;
  /** How much louder a render of a destination is than its covariances say (LU), where that was measured. */
  offsetsLu?: ReadonlyMap<string, number>;
}

/** Sources that one control moves, and what they are in the mix. */
interface Group {
  sources: string[];
  role: Role;
  /** Its sources are not all of one role, though they move together. */
  isMixed: boolean;
  locked: boolean;
  wishLu: number;
  /** By how much it may go up and down (dB). */
  room: [down: number, up: number];
  changeDb: number;
}

/**
 * Finds levels for one destination: the voices as loud as each other, the bed a stated number of LU under them while
 * somebody speaks, the whole at its target. Sources that one control moves, move together; locked ones stay. Works on the
 * covariances alone, so that it takes milliseconds.
 */
export function balance(input: BalanceInput, mix: StaticMix): Balanced {
  const { setup, reach, sounds, covariances } = input;
  const { destination } = mix;
  const aim = aimOf(setup, destination);
  const offsetLu = input.offsetsLu?.get(destination.id) ?? 0;
  const figuresWith = (gains: Float64Array): MixFigures => {
    const figures = figuresOf(coursesOf(setup, sounds, { gains }, covariances));
    const { integratedLufs } = figures;
    return { ...figures, integratedLufs: integratedLufs === null ? null : integratedLufs + offsetLu };
  };
  const before = figuresWith(mix.gains);
  const groups = groupsOf(input, mix, aim);
  const gainsNow = () => changed(sounds, mix.gains, groups);
  for (const group of groups) if (group.role !== 'voice') move(group, group.wishLu);
  evenVoices(input, mix, groups);
  const goal = aim.targetLufs ?? before.integratedLufs;
  layAndScale(input, mix, groups, aim.bedLu, goal === null ? null : goal - offsetLu);
  for (const group of groups) group.changeDb = Math.round(group.changeDb * 10) / 10;
  const obstacles = limitObstacles(setup, groups);
  let after = figuresWith(gainsNow());
  const peak = input.peaksDbtp?.get(destination.id) ?? null;
  const heldDbtp = peakHeldAt(setup, destination);
  const expected = () => (peak === null ? null : Math.min(heldDbtp, peak + mainChange(groups)));
  let expectedDbtp = expected();
  const isPeakLimited = expectedDbtp !== null && expectedDbtp > aim.ceilingDbtp;
  if (expectedDbtp !== null && isPeakLimited) {
    const down = aim.ceilingDbtp - expectedDbtp;
    for (const group of groups) move(group, Math.floor(down * 10) / 10);
    after = figuresWith(gainsNow());
    expectedDbtp = expected();
    obstacles.push(
      expectedDbtp !== null && expectedDbtp > aim.ceilingDbtp
        ? `The true peak stays above ${levelText(aim.ceilingDbtp)} dBTP, since what makes it is locked.`
        : `The true peak would be above ${levelText(aim.ceilingDbtp)} dBTP, so everything is ${Math.abs(down).toFixed(1)} dB lower. A lower target, or a limiter on everything that arrives here, would help.`,
    );
  }
  obstacles.push(...missedAims(setup, aim, after, groups));
  return {
    destinationId: destination.id,
    sendTo: destination.sendTo,
    aim,
    proposals: proposalsOf(reach, destination.id, groups),
    before,
    after,
    expectedDbtp,
    peakChangeDb: mainChange(groups),
    isPeakLimited,
    obstacles,
  };
}

/** Solves several destinations; those that are fed by one track share its levels, so that only the first is solved. */
export function balanceAll(input: BalanceInput, mixes: StaticMix[]): Balanced[] {
  const feeds = new Set<string | null>();
  return mixes.flatMap((mix) => {
    const { sendTo } = mix.destination;
    if (feeds.has(sendTo)) return [];
    feeds.add(sendTo);
    return [balance(input, mix)];
  });
}

/** The edit that sets the levels that were found; null when they are what they were. */
export function balanceEdit(setup: Setup, results: Balanced[], nameOf: (id: string) => string): Edit | null {
  let next = setup;
  const edits: SimpleEdit[] = [];
  for (const { destinationId, proposals } of results) {
    for (const { sourceId, beforeDb, afterDb } of proposals) {
      if (Math.abs(afterDb - beforeDb) < 0.05) continue;
      const edit = cellEdit(next, sourceId, destinationId, afterDb);
      next = applyEdit(next, edit);
      if (edit.edit === 'batch') edits.push(...edit.edits);
    }
  }
  if (edits.length === 0) return null;
  const names = listed(results.map(({ destinationId }) => nameOf(destinationId)));
  return { edit: 'batch', label: `balance ${names}`.slice(0, 120), edits };
}

function groupsOf({ setup, reach, sounds }: BalanceInput, mix: StaticMix, aim: Aim): Group[] {
  const arriving = new Set(sounds.filter((_, i) => mix.gains[i] !== 0).map(({ sourceId }) => sourceId));
  const groups = new Map<string, Group>();
  for (const source of setup.sources) {
    if (!arriving.has(source.id)) continue;
    const handles = handlesOf(setup, reach, source, mix.destination);
    const key = handles.length > 0 ? handles.map(({ from, to }) => `${from} ${to}`).join() : source.id;
    const gains = handles.flatMap(({ gainDb }) => (gainDb === null ? [] : [gainDb]));
    const room: Group['room'] =
      gains.length === 0 ? [0, 0] : [MIN_GAIN_DB - Math.min(...gains), MAX_GAIN_DB - Math.max(...gains)];
    const wish = aim.wishes[source.id];
    const group = groups.get(key);
    if (!group) {
      groups.set(key, {
        sources: [source.id],
        role: roleOf(source),
        isMixed: false,
        locked: wish === 'locked' || gains.length === 0,
        wishLu: wish === 'more' ? WISH_LU : wish === 'less' ? -WISH_LU : 0,
        room,
        changeDb: 0,
      });
      continue;
    }
    group.sources.push(source.id);
    group.locked ||= wish === 'locked';
    group.isMixed ||= roleOf(source) !== group.role;
    if (roleOf(source) === 'voice') group.role = 'voice';
  }
  return [...groups.values()];
}

function changed(sounds: Sound[], gains: Float64Array, groups: Group[]): Float64Array {
  const factors = new Map(
    groups.flatMap(({ sources, changeDb }) => sources.map((id) => [id, fromDb(changeDb)])),
  );
  return gains.map((gain, index) => gain * (factors.get(sounds[index].sourceId) ?? 1));
}

function move(group: Group, byDb: number): void {
  if (group.locked) return;
  group.changeDb = Math.min(group.room[1], Math.max(group.room[0], group.changeDb + byDb));
}

/** Brings every voice to the loudness of the loudest that may move, or of one that is locked. */
function evenVoices({ sounds, covariances }: BalanceInput, mix: StaticMix, groups: Group[]): void {
  const voices = groups
    .filter(({ role }) => role === 'voice')
    .flatMap((group) => {
      const own = gainsOf(sounds, mix.gains, (id) => group.sources.includes(id));
      const lufs = integratedLufs(powersOfMix(covariances, own));
      return lufs === null ? [] : [{ group, lufs: lufs - group.wishLu }];
    });
  if (voices.length < 2) return;
  const locked = voices.filter(({ group }) => group.locked);
  const goal = Math.max(...(locked.length > 0 ? locked : voices).map(({ lufs }) => lufs));
  for (const { group, lufs } of voices) move(group, goal - lufs);
}

/**
 * Lays the bed under the voices and brings the whole to a loudness. What moves together is taken together first (voices,
 * bed and accents, each in a free and a locked part), so that each step looks at six sounds, however many there are.
 */
function layAndScale(
  { sounds, covariances }: BalanceInput,
  mix: StaticMix,
  groups: Group[],
  bedLu: number,
  lufs: number | null,
): void {
  const partOf = ({ role, locked }: Group) => 2 * ROLES.indexOf(role) + (locked ? 1 : 0);
  const parts = new Map(groups.flatMap((group) => group.sources.map((id) => [id, partOf(group)])));
  const condensed = condense(
    covariances,
    changed(sounds, mix.gains, groups),
    sounds.map(({ sourceId }) => parts.get(sourceId) ?? 0),
    2 * ROLES.length,
  );
  const changes = [0, 0, 0];
  const gainsNow = (roles: readonly Role[]) =>
    ROLES.flatMap((role, index) => (roles.includes(role) ? [fromDb(changes[index]), 1] : [0, 0]));
  for (let round = 0; round < ROUNDS; round++) {
    const over = voiceOverBed(
      powersOfMix(condensed, gainsNow(['voice'])),
      powersOfMix(condensed, gainsNow(['bed'])),
    );
    const bedBy = over === null ? 0 : over - bedLu;
    changes[1] += bedBy;
    const now = lufs === null ? null : integratedLufs(powersOfMix(condensed, gainsNow(ROLES)));
    const allBy = now === null || lufs === null ? 0 : lufs - now;
    for (let index = 0; index < changes.length; index++) changes[index] += allBy;
    if (Math.abs(bedBy) < 0.02 && Math.abs(allBy) < 0.02) break;
  }
  for (const group of groups) move(group, changes[ROLES.indexOf(group.role)]);
}

/** What the loudest part of the mix does: peaks come from there. */
function mainChange(groups: Group[]): number {
  return groups.reduce((most, { changeDb }) => Math.max(most, changeDb), Number.NEGATIVE_INFINITY);
}

function limitObstacles(setup: Setup, groups: Group[]): string[] {
  const name = (id: string) => setup.sources.find((source) => source.id === id)?.name ?? id;
  return groups.flatMap(({ sources, changeDb, room, locked }) => {
    if (locked) return [];
    const who = listed(sources.map(name));
    if (changeDb >= room[1]) return [`${who} cannot go higher: the control stands at +${MAX_GAIN_DB} dB.`];
    return changeDb <= room[0] ? [`${who} cannot go lower: the control stands at ${MIN_GAIN_DB} dB.`] : [];
  });
}

function missedAims(setup: Setup, aim: Aim, after: MixFigures, groups: Group[]): string[] {
  const missed: string[] = [];
  const name = (id: string) => setup.sources.find((source) => source.id === id)?.name ?? id;
  const locked = groups.filter((group) => group.locked).flatMap(({ sources }) => sources.map(name));
  const because = locked.length > 0 ? ` ${listed(locked)} ${locked.length === 1 ? 'is' : 'are'} locked.` : '';
  if (after.integratedLufs === null) return ['Nothing sounds here, so there is nothing to balance.'];
  if (aim.targetLufs !== null && Math.abs(after.integratedLufs - aim.targetLufs) > NEAR_LU)
    missed.push(
      `${levelText(after.integratedLufs)} LUFS is reached, not ${levelText(aim.targetLufs)}.${because}`,
    );
  if (after.voiceOverBedLu !== null && Math.abs(after.voiceOverBedLu - aim.bedLu) > NEAR_LU)
    missed.push(
      `The bed lies ${after.voiceOverBedLu.toFixed(1)} LU under the voices, not ${aim.bedLu.toFixed(1)}.${because}`,
    );
  for (const { sources } of groups.filter(({ isMixed }) => isMixed))
    missed.push(
      `${listed(sources.map(name))} come by one control, so they move together. Separate them first.`,
    );
  return missed;
}

function proposalsOf(reach: Reach, destinationId: string, groups: Group[]): Proposal[] {
  return groups.flatMap(({ sources, changeDb }) =>
    sources.flatMap((sourceId): Proposal[] => {
      const gainDb = reach.at(sourceId, destinationId)?.gainDb;
      if (gainDb === undefined) return [];
      return [{ sourceId, beforeDb: gainDb, afterDb: nearestGain(gainDb + changeDb) }];
    }),
  );
}

/** The loudness of one source by itself at a destination (LUFS); null in silence. */
export function ownLufs(
  { sounds, covariances }: Pick<BalanceInput, 'sounds' | 'covariances'>,
  gains: Float64Array,
  sourceId: string,
): number | null {
  const own = gainsOf(sounds, gains, (id) => id === sourceId);
  return integratedLufs(powersOfMix(covariances, own));
}
