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
import { lines } from './rules/lines.ts';
import { knots, loops } from './rules/loops.ts';
import { ownTracks } from './rules/ownTracks.ts';
import { trackUses } from './rules/trackUses.ts';
import { wishes } from './rules/wishes.ts';
import { type Survey, surveyOf } from './survey.ts';

/** Every rule. Each yields the findings of one kind, in no order. */
const RULES: readonly ((survey: Survey) => Generator<Finding>)[] = [
  leaks,
  wishes,
  copies,
  echoes,
  loops,
  knots,
  apps,
  ownTracks,
  trackUses,
  fused,
  lines,
  processedTwice,
];

const SEVERITIES: Severity[] = ['stop', 'warn', 'note'];
const RANKS = new Map<FindingCode, number>(FINDING_CODES.map((code, index) => [code, index]));

/**
 * Returns every finding of the setup, the gravest first. `today` (`YYYY-MM-DD`) decides which clearances have
 * expired. Pass the reach along when it is already known.
 */
export function findingsOf(setup: Setup, today: string, reach: Reach = reachOf(setup)): Finding[] {
  const survey = surveyOf(setup, today, reach);
  const byRank: Finding[][] = [];
  for (const rule of RULES) {
    for (const finding of rule(survey)) {
      const rank = rankOf(finding);
      const others = byRank[rank];
      if (others) others.push(finding);
      else byRank[rank] = [finding];
    }
  }
  return byRank.flat();
}

function rankOf({ severity, code }: Finding): number {
  return SEVERITIES.indexOf(severity) * 100 + (RANKS.get(code) ?? 0);
}
