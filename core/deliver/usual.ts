import { isSamePlan } from '../check/plan.ts';
import { roleByName } from '../check/proposals.ts';
import type { Proposal } from '../check/recording.ts';
import type { Check } from '../check/records.ts';
import { type MixedTrack, mixLevels } from './mixLevels.ts';
import type { DeliveryOrder, Ingredient, UploadOrder } from './records.ts';
import { type Found, type Standing, standingOf } from './standing.ts';

/** What video platforms bring sound to, and the peak that coding leaves room for. */
const TARGET_LUFS = -14;
const CEILING_DBTP = -1;

/** What is known of a recording when something is made of it: what its tracks seem to carry, what is planned, and what was found. */
export type KnownOfRecording = Pick<Check, 'inspected' | 'plan'> & { result: Found | null };

/**
 * What a check says of each track where it goes into an upload. Where it was not checked by the plan that stands: only what must not go out by
 * that plan, else null.
 */
export function standingsOf(check: KnownOfRecording): (Standing | null)[] {
  const { result, plan } = check;
  const isAnswered = result !== null && isSamePlan(result.plan, plan);
  return (check.inspected?.tracks ?? []).map((_, at) => {
    if (isAnswered) return standingOf(result, at);
    return plan?.tracks[at]?.notFor.includes('upload') ? { kind: 'not allowed' } : null;
  });
}

/**
 * What an upload is made of at first: a track that is meant for it and clean; else a mix of the tracks that carry one thing each and may go
 * out; else what is meant for it.
 */
export function firstUpload(check: KnownOfRecording): Omit<UploadOrder, 'pieces'> {
  const standings = standingsOf(check);
  const planned = check.plan?.tracks ?? [];
  const goes = planned.flatMap(({ goesTo }, at) => (goesTo.includes('upload') ? [at] : []));
  const clean = goes.find((at) => standings[at]?.kind === 'clean');
  const single = planned.flatMap(({ notFor }, at) => {
    const role = roleOf(check, at);
    const holds = standings[at]?.kind === 'holds';
    return notFor.includes('upload') || holds || role === 'mix' || role === 'silent' || goes.includes(at)
      ? []
      : [at];
  });
  const isMixNeeded = clean === undefined && goes.some((at) => standings[at]?.kind === 'holds');
  const chosen =
    clean !== undefined
      ? [clean]
      : isMixNeeded && single.length > 0
        ? single
        : goes.length > 0
          ? goes.slice(0, 1)
          : single;
  const tracks = chosen.map((track): Ingredient => ({ track, rescueId: null, gainDb: 0 }));
  return {
    tracks: levelled(check, tracks),
    targetLufs: TARGET_LUFS,
    ceilingDbtp: CEILING_DBTP,
    container: 'mp4',
    fadeS: 0,
    evenIf: [],
  };
}

/** What a track (counted from zero) carries: nothing where it is silent, else what somebody says, else what it seems to. */
export function roleOf({ plan, inspected }: KnownOfRecording, track: number): Proposal['role'] {
  const seems = inspected?.proposals[track]?.role ?? 'unknown';
  return seems === 'silent' ? seems : (roleByName(plan?.tracks[track]?.carries ?? null) ?? seems);
}

/** Brings what is mixed to the levels that Balance aims for. */
export function levelled(check: KnownOfRecording, tracks: Ingredient[]): Ingredient[] {
  const mixed = tracks.map(
    ({ track }): MixedTrack => ({
      role: roleOf(check, track),
      lufs: check.inspected?.tracks[track]?.integratedLufs ?? null,
    }),
  );
  const levels = tracks.length > 1 ? mixLevels(mixed) : [0];
  return tracks.map((one, at) => ({ ...one, gainDb: levels[at] }));
}

/** What is usually made of a recording: a video of all of it, the tracks for the editor, or both. */
export function usualOrder(
  check: Check,
  { isVideo, handoff }: { isVideo: boolean; handoff: 'wav' | 'flac' | null },
): DeliveryOrder {
  const pieces = [{ name: titleOf(check), fromS: 0, untilS: null }];
  return { kind: 'files', upload: isVideo ? { ...firstUpload(check), pieces } : null, handoff };
}

/** The name of a recording without what tells its kind. */
export function titleOf({ name }: Pick<Check, 'name'>): string {
  return name.replace(/\.[a-z0-9]{2,4}$/i, '') || name;
}
