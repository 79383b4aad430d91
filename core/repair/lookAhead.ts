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

/** A room in which less than this is wrong is as it was meant: a level that is off by 1 dB weighs more. */
export const AS_MEANT = 2;
/** First steps are taken from this many of the gravest findings, and from this many repairs of each. */
const FINDINGS_LOOKED_AT = 6;
const REPAIRS_LOOKED_AT = 8;

/**
 * Returns the weight of what is still wrong at destinations, on shared tracks and in loops. A device that stays turned down counts too, since
 * other levels then make up for it. Lines and other settings do not count.
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

/** Troubles that count although they concern no destination. */
const COUNTED = new Set<TroubleKind>(['shared', 'unheard', 'loop']);

/** Returns the different first steps that come nearer to what is wanted, the nearest first. */
export function beginningsOf(judge: Judge, findings: Finding[]): Beginning[] {
  const from = judge.first;
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
