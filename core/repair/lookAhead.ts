import type { Finding } from '../findings/finding.ts';
import type { Judge, Judged } from './judge.ts';
import { repairsOf } from './remedies.ts';
import type { Repair } from './search.ts';
import type { TroubleKind } from './weights.ts';

/** A step that could be taken first: a repair of one finding, with what judged it. */
export interface Beginning {
  judge: Judge;
  finding: Finding;
  repair: Repair;
}

/** A room of which less than this is left wrong is as it was meant: a level that is off by 1 dB weighs more. */
export const AS_MEANT = 2;
/** As many findings, the gravest first, are looked at for a first step, and as many repairs of each. */
const FINDINGS_LOOKED_AT = 6;
const REPAIRS_LOOKED_AT = 8;

/**
 * How much of what is wanted is still wrong: what arrives where, and what is heard alone. A device that stays turned down counts: other
 * levels made up for it. What is about lines and other settings alone is left out.
 */
export function leftWrong({ bySource, flaws }: Judged): number {
  let sum = 0;
  for (const { troubles } of [...bySource.values(), { troubles: flaws }])
    for (const { kind, destination, weight } of troubles) {
      if (kind === 'deviceDown') sum += AS_MEANT;
      else if (destination !== null || COUNTED.has(kind)) sum += weight;
    }
  return sum;
}

/** What counts though it is about no destination. */
const COUNTED = new Set<TroubleKind>(['shared', 'unheard', 'loop']);

/** Returns the different first steps that come nearer to what is wanted, those of the first findings first. */
export function beginningsOf(judge: Judge, findings: Finding[], from = judge.first): Beginning[] {
  const seen = new Set<string>();
  const found = findings.slice(0, FINDINGS_LOOKED_AT).flatMap((finding) =>
    repairsOf(judge, finding, from, true)
      .slice(0, REPAIRS_LOOKED_AT)
      .flatMap((repair): Beginning[] => {
        const key = JSON.stringify(repair.after.setup);
        if (seen.has(key) || repair.after.total >= from.total) return [];
        seen.add(key);
        return [{ judge, finding, repair }];
      }),
  );
  return found.sort((a, b) => a.repair.after.total - b.repair.after.total);
}
