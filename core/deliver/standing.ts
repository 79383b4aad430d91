import { soundsOf } from '../check/plan.ts';
import type { CheckResult } from '../check/records.ts';
import type { Verification } from '../check/verification.ts';

/** What a check says of a track that may go into an upload. */
export type Standing =
  | { kind: 'clean' }
  /** Everything may go out, so that nothing was looked for. */
  | { kind: 'all allowed' }
  /** What it carries must not go out. */
  | { kind: 'not allowed' }
  /** Something was found in it that must not go out. */
  | { kind: 'holds'; names: string[] }
  /** It was not looked at for everything, or not everything can be looked for. */
  | { kind: 'not known'; names: string[] };

/** What was found of a plan. */
export type Found = Pick<CheckResult, 'plan'> & Omit<Verification, 'verdict'>;

/** Returns what a check says of a track (counted from zero) where it goes into an upload. */
export function standingOf({ plan, leaks, untested }: Found, track: number): Standing {
  if (plan.tracks[track]?.notFor.includes('upload')) return { kind: 'not allowed' };
  const restricted = soundsOf(plan).filter(({ notFor }) => notFor.includes('upload'));
  const isRestricted = (name: string) =>
    // A folder of the plan is checked file by file.
    restricted.some((one) => one.name === name || one.place?.kind === 'folder');
  const here = (one: { reference: string; track: number }) =>
    one.track === track + 1 && isRestricted(one.reference);
  const unknown = plan.unknown.filter(({ notFor }) => notFor.includes('upload'));
  if (restricted.length + unknown.length === 0) return { kind: 'all allowed' };
  const holds = [...new Set(leaks.filter(here).map(({ reference }) => reference))];
  if (holds.length > 0) return { kind: 'holds', names: holds };
  const goesTo = plan.tracks[track]?.goesTo ?? [];
  const notAsked = restricted.filter(({ notFor }) => !goesTo.some((use) => notFor.includes(use)));
  const names = [
    ...notAsked.map(({ name }) => name),
    ...untested.filter(here).map(({ reference }) => reference),
    ...unknown.map(({ name }) => name),
  ];
  return names.length > 0 ? { kind: 'not known', names: [...new Set(names)] } : { kind: 'clean' };
}
