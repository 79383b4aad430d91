import { type Finding, finding, placeName } from '../findings/finding.ts';
import { BLOCK_S, powersOfMix } from '../measure/covariance.ts';
import { keysOf, MOST_STEPS, PROCESSORS } from '../processors/processing.ts';
import { leadingTo, soundingBlocks } from '../proof/moments.ts';
import type { Destination } from '../reach/destinations.ts';
import { ownLegOf, processLeg } from '../reach/onTheWay.ts';
import { type Edit, nameOf, type SimpleEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { levelText, listed } from '../words/figures.ts';
import { aimOf, roleOf } from './aims.ts';
import { coursesOf, figuresOf, gainsOf, type MixFigures } from './figures.ts';
import { limiterEdit } from './peaks.ts';
import { type BalanceInput, balance, balanceEdit } from './solve.ts';
import type { StaticMix } from './sounds.ts';

/** A destination may be this far off its target (LU). */
const NEAR_TARGET_LU = 1;
/** A voice that is buried for less than this in all is not worth a finding (s). */
const LEAST_BURIED_S = 1;

/** A finding that is made in the sound itself, with the place where it is heard, if there is one. */
export interface HeardFinding {
  finding: Finding;
  atS: number | null;
}

/** Destinations that somebody else gets: live, the VOD, and tracks that are published. What one track feeds is one. */
export function audiences(mixes: StaticMix[]): StaticMix[] {
  const feeds = new Set<string | null>();
  return mixes.filter(({ destination: { kind, track, sendTo }, gains }) => {
    const isAudience = kind === 'live' || kind === 'vod' || track?.purpose === 'publish';
    if (!isAudience || feeds.has(sendTo) || gains.every((gain) => gain === 0)) return false;
    feeds.add(sendTo);
    return true;
  });
}

/** Returns what is wrong with the sound that audiences get: voices that are buried, and loudness off its target. */
export function heardFindings(input: BalanceInput, mixes: StaticMix[]): HeardFinding[] {
  return audiences(mixes).flatMap((mix) => {
    const figures = figuresOf(coursesOf(input.setup, input.sounds, mix, input.covariances));
    return [
      ...buriedAt(mix.destination, figures),
      ...offTargetAt(mix.destination, figures, aimOf(input.setup, mix.destination).targetLufs),
    ];
  });
}

/** Where a finding is best heard: when, if that matters, and as which destination. */
export interface HeardPlace {
  timeS?: number;
  destination: string;
}

/**
 * Returns where a finding is best heard: at its place; where its source begins to sound at its destination; for a source alone,
 * where the fewest others arrive with it. Null where nobody hears it.
 */
export function whereToHear(
  { sounds, covariances }: Pick<BalanceInput, 'sounds' | 'covariances'>,
  mixes: StaticMix[],
  { finding: { source, destination }, atS }: HeardFinding,
): HeardPlace | null {
  if (destination && atS !== null) return { destination: destination, timeS: leadingTo(atS) };
  if (destination && !source) return { destination: destination };
  const own = (gains: Float64Array) => gainsOf(sounds, gains, (id) => id === source);
  const [place] = mixes
    .filter(({ gains }) => own(gains).some((gain) => gain !== 0))
    .filter((mix) => !destination || mix.destination.id === destination)
    .sort((a, b) => arrivals(a) - arrivals(b));
  if (!place) return null;
  const begins = soundingBlocks(powersOfMix(covariances, own(place.gains))).indexOf(1);
  return { destination: place.destination.id, timeS: leadingTo(begins * BLOCK_S) };
}

function arrivals({ gains }: StaticMix): number {
  return gains.filter((gain) => gain !== 0).length;
}

function buriedAt(destination: Destination, { buried }: MixFigures): HeardFinding[] {
  const seconds = buried.reduce((sum, { fromS, untilS }) => sum + untilS - fromS, 0);
  if (seconds < LEAST_BURIED_S) return [];
  const places = buried.length === 1 ? 'at one place' : `at ${buried.length} places`;
  const text = `At ${placeName(destination)} a voice is hard to follow ${places}, ${seconds.toFixed(0)} s in all: it is less than 3 LU above game and music.`;
  return [
    { finding: finding('buried', 'warn', text, { destination: destination.id }), atS: buried[0].fromS },
  ];
}

function offTargetAt(
  destination: Destination,
  { integratedLufs }: MixFigures,
  targetLufs: number | null,
): HeardFinding[] {
  if (integratedLufs === null || targetLufs === null) return [];
  const off = integratedLufs - targetLufs;
  if (Math.abs(off) <= NEAR_TARGET_LU) return [];
  const text = `${capitalised(placeName(destination))} comes to ${levelText(integratedLufs)} LUFS, ${Math.abs(off).toFixed(1)} LU ${off > 0 ? 'louder' : 'quieter'} than its target of ${levelText(targetLufs)}.`;
  return [{ finding: finding('off-target', 'note', text, { destination: destination.id }), atS: null }];
}

function capitalised(text: string): string {
  return text[0].toUpperCase() + text.slice(1);
}

/** The edit that balances the destinations that findings are about, in words, and what would still stand in the way. */
export function balancingRemedy(
  input: BalanceInput,
  mixes: StaticMix[],
  destinationIds: string[],
): { label: string; edit: Edit; obstacles: string[] } | null {
  const wanted = audiences(mixes).filter(({ destination }) => destinationIds.includes(destination.id));
  const results = wanted.map((mix) => balance(input, mix));
  const levels = balanceEdit(input.setup, results, (id) => nameOf(input.setup, id));
  if (!levels) return null;
  const limiters = wanted.flatMap(
    ({ destination }, i) => limiterEdit(input.setup, destination, results[i].aim.ceilingDbtp) ?? [],
  );
  const where = listed(wanted.map(({ destination }) => placeName(destination)));
  const steps = levels.edit === 'batch' ? levels.edits : [levels];
  return {
    label: `Balance ${where}${limiters.length > 0 ? ', with a limiter on everything there' : ''}`,
    edit: { edit: 'batch', label: `balance ${where}`.slice(0, 120), edits: [...limiters, ...steps] },
    obstacles: results.flatMap(({ obstacles }) => obstacles),
  };
}

/** The edit that has a limiter hold the true peak of destinations; null where each is held. */
export function limitingRemedy(
  setup: Setup,
  mixes: StaticMix[],
  destinationIds: string[],
): { label: string; edit: Edit } | null {
  const wanted = audiences(mixes).filter(({ destination }) => destinationIds.includes(destination.id));
  const edits = wanted.flatMap(
    ({ destination }) => limiterEdit(setup, destination, aimOf(setup, destination).ceilingDbtp) ?? [],
  );
  if (edits.length === 0) return null;
  const where = listed(wanted.map(({ destination }) => placeName(destination)));
  const label = `Put a limiter on everything at ${where}`;
  return { label, edit: { edit: 'batch', label: `limit ${where}`.slice(0, 120), edits } };
}

/** By how much game and music make room for a voice (dB): enough for the end of a sentence, not so much that they vanish. */
const ROOM_DB = 9;

/**
 * The edit that has game and music make room while somebody speaks, at the destinations that findings are about and nowhere
 * else; null where they do so already, or no leg carries them alone.
 */
export function duckingRemedy(
  { setup, reach }: Pick<BalanceInput, 'setup' | 'reach'>,
  mixes: StaticMix[],
  destinationIds: string[],
): { label: string; edit: Edit } | null {
  const ducked = new Set<string>();
  const edits = new Map<string, SimpleEdit>();
  const wanted = audiences(mixes).filter(({ destination }) => destinationIds.includes(destination.id));
  const isWanted = ({ sendTo }: Destination) =>
    wanted.some(({ destination }) => destination.sendTo === sendTo);
  for (const { destination } of wanted) {
    const arriving = setup.sources.filter(({ id }) => reach.at(id, destination.id));
    const voices = arriving.filter((source) => roleOf(source) === 'voice');
    for (const source of arriving.filter((one) => roleOf(one) === 'bed')) {
      const leg = ownLegOf(setup, reach, source, destination);
      if (!leg || leg.others.some((other) => roleOf(other) !== 'bed') || !leg.behind.every(isWanted))
        continue;
      const keys = voices.filter(({ id }) => !keysOf(leg.processing).includes(id));
      const steps = keys.map(({ id }) => ({ ...PROCESSORS.ducking.initial, key: id, depthDb: ROOM_DB }));
      if (steps.length === 0 || leg.processing.length + steps.length > MOST_STEPS) continue;
      ducked.add(source.name);
      edits.set(`${leg.handle.from} ${leg.handle.to}`, processLeg(setup, leg, [...leg.processing, ...steps]));
    }
  }
  if (edits.size === 0) return null;
  const where = listed(wanted.map(({ destination }) => placeName(destination)));
  return {
    label: `Duck ${listed([...ducked])} by ${ROOM_DB} dB under the voices, at ${where} alone`,
    edit: {
      edit: 'batch',
      label: `duck under the voices at ${where}`.slice(0, 120),
      edits: [...edits.values()],
    },
  };
}
