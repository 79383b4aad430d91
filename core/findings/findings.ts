import { withoutAir } from '../reach/air.ts';
import { type Reach, reachOf } from '../reach/reach.ts';
import type { Setup } from '../setup/schema.ts';
import { FINDING_CODES, type FindingCode, type Severity } from './codes.ts';
import type { Finding } from './finding.ts';
import { processedTwice } from './processedTwice.ts';
import { apps } from './rules/apps.ts';
import { copies } from './rules/copies.ts';
import { echoes } from './rules/echoes.ts';
import { fused } from './rules/fused.ts';
import { leaks } from './rules/leaks.ts';
import { lines, ownClocks } from './rules/lines.ts';
import { listeningIn } from './rules/listeningIn.ts';
import { knots, loops } from './rules/loops.ts';
import { openLoudspeakers } from './rules/openLoudspeakers.ts';
import { ownTracks } from './rules/ownTracks.ts';
import { trackUses } from './rules/trackUses.ts';
import { levelsOff, wishes } from './rules/wishes.ts';
import { type Survey, surveyOf } from './survey.ts';

/** A rule yields the findings of one kind, in no order. */
type Rule = (survey: Survey) => Generator<Finding>;

/** These look at what comes through the air, too. */
const RULES_OF_AIR: readonly Rule[] = [leaks, echoes, openLoudspeakers];
/** These look at what comes over the wiring: what microphones hear of loudspeakers is one finding, not many. */
const RULES: readonly Rule[] = [
  wishes,
  copies,
  listeningIn,
  loops,
  knots,
  apps,
  ownTracks,
  trackUses,
  fused,
  lines,
  ownClocks,
  processedTwice,
];

const SEVERITIES: Severity[] = ['stop', 'warn', 'note'];
const RANKS = new Map<FindingCode, number>(FINDING_CODES.map((code, index) => [code, index]));

/**
 * Returns every finding of the setup, the gravest first. `today` (`YYYY-MM-DD`) decides which clearances have
 * expired. Pass the reach along when it is already known.
 */
export function findingsOf(setup: Setup, today: string, reach: Reach = reachOf(setup)): Finding[] {
  const dry = withoutAir(setup);
  const dryReach = dry === setup ? reach : reachOf(dry);
  const wet = surveyOf(setup, today, reach, dryReach);
  const survey = dry === setup ? wet : surveyOf(dry, today, dryReach);
  const byRank: Finding[][] = [];
  const gather = (rule: Rule, about: Survey) => {
    for (const finding of rule(about)) {
      const rank = rankOf(finding);
      const others = byRank[rank];
      if (others) others.push(finding);
      else byRank[rank] = [finding];
    }
  };
  for (const rule of RULES_OF_AIR) gather(rule, wet);
  for (const rule of RULES) gather(rule, survey);
  return byRank.flat();
}

/** Returns every level that is off its wish by so many dB, those that are no finding yet among them. */
export function levelFindings(setup: Setup, today: string, fromDb: number): Finding[] {
  return [...levelsOff(surveyOf(withoutAir(setup), today), fromDb)];
}

function rankOf({ severity, code }: Finding): number {
  return SEVERITIES.indexOf(severity) * 100 + (RANKS.get(code) ?? 0);
}
