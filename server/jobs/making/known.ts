import { stat } from 'node:fs/promises';
import { isSamePlan, referencesOf } from '../../../core/check/plan.ts';
import type { Check } from '../../../core/check/records.ts';
import { NOTHING_KNOWN, type TrackFindings } from '../../deliver/checkTracks.ts';
import { plannedReferences } from '../../media/plannedReferences.ts';
import type { Reference } from '../../media/references.ts';
import type { MakingContext } from './making.ts';

/**
 * Returns what the check of a recording found of some sounds, so that it is not looked for again: of the plan that stands, and as long as neither
 * the recording nor the file of the sound has changed since.
 */
export async function knownOf(
  context: MakingContext,
  { result, plan, checkedAt }: Check,
  path: string,
  sounds: Reference[],
): Promise<TrackFindings> {
  if (!result || !checkedAt || !isSamePlan(result.plan, plan)) return NOTHING_KNOWN;
  const atMs = Date.parse(checkedAt);
  if (!(await isOlder(path, atMs))) return NOTHING_KNOWN;
  const planned = await plannedReferences(referencesOf(result.plan), context);
  const known: TrackFindings[] = [];
  for (const sound of sounds) {
    const isIt = (one: Pick<Reference, 'track' | 'path'>) =>
      one.track === sound.track && one.path === sound.path;
    const looked = result.references.find(isIt);
    const asked = planned.find((one) => isIt(one) && one.name === looked?.name);
    if (!asked || (sound.path !== null && !(await isOlder(sound.path, atMs)))) continue;
    const named = { reference: sound.name };
    const isOfIt = ({ reference }: { reference: string }) => reference === asked.name;
    known.push({
      asked: asked.forbiddenIn.map((track) => ({ sound: sound.name, track })),
      leaks: result.leaks.filter(isOfIt).map(({ uses: _, ...leak }) => ({ ...leak, ...named })),
      untested: result.untested.filter(isOfIt).map(({ uses: _, ...one }) => ({ ...one, ...named })),
    });
  }
  return {
    asked: known.flatMap(({ asked }) => asked),
    leaks: known.flatMap(({ leaks }) => leaks),
    untested: known.flatMap(({ untested }) => untested),
  };
}

async function isOlder(path: string, atMs: number): Promise<boolean> {
  const info = await stat(path).catch(() => null);
  return info !== null && info.mtimeMs < atMs;
}
