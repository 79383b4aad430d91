import type { Check } from '../../../core/check/records.ts';
import { type MixedTrack, mixLevels } from '../../../core/deliver/mixLevels.ts';
import type { Ingredient, Mark, Piece, UploadOrder } from '../../../core/deliver/records.ts';
import { type Standing, standingOf } from '../../../core/deliver/standing.ts';

/** Which pieces of a recording become videos. */
export interface Clips {
  whole: boolean;
  /** The whole, or this stretch of it (s). */
  fromS: number;
  untilS: number | null;
  /** The marks that become clips, by their ids. */
  marks: string[];
  /** A mark without an end becomes a clip from so long before it to so long after it (s). */
  beforeS: number;
  afterS: number;
}

/** What video platforms bring sound to, and the peak that coding leaves room for. */
const TARGET_LUFS = -14;
const CEILING_DBTP = -1;

/** What a check says of each track where it goes into an upload; null where it was not checked. */
export function standingsOf(check: Check): (Standing | null)[] {
  return (check.inspected?.tracks ?? []).map((_, at) => check.result && standingOf(check.result, at));
}

/**
 * What an upload is made of at first: a track that is meant for it and clean; else a mix of the tracks that carry one thing each and may go
 * out; else what is meant for it.
 */
export function firstUpload(check: Check): Omit<UploadOrder, 'pieces'> {
  const standings = standingsOf(check);
  const planned = check.plan?.tracks ?? [];
  const goes = planned.flatMap(({ goesTo }, at) => (goesTo.includes('upload') ? [at] : []));
  const clean = goes.find((at) => standings[at]?.kind === 'clean');
  const single = planned.flatMap(({ notFor }, at) => {
    const role = check.inspected?.proposals[at]?.role;
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

/** Brings what is mixed to the levels that Balance aims for. */
export function levelled(check: Check, tracks: Ingredient[]): Ingredient[] {
  const mixed = tracks.map(
    ({ track }): MixedTrack => ({
      carries: check.plan?.tracks[track]?.carries ?? '',
      role: check.inspected?.proposals[track]?.role ?? 'unknown',
      lufs: check.inspected?.tracks[track]?.integratedLufs ?? null,
    }),
  );
  const levels = tracks.length > 1 ? mixLevels(mixed) : [0];
  return tracks.map((one, at) => ({ ...one, gainDb: levels[at] }));
}

/** The pieces that are made, in their order. */
export function piecesOf(check: Check, clips: Clips, marks: Mark[]): Piece[] {
  const name = check.name.replace(/\.[a-z0-9]{2,4}$/i, '');
  const whole: Piece[] = clips.whole ? [{ name, fromS: clips.fromS, untilS: clips.untilS }] : [];
  const chosen = marks.filter(({ id }) => clips.marks.includes(id));
  return [...whole, ...chosen.map((mark) => clipOf(mark, clips, check.durationS))];
}

/** The clip that a mark becomes. */
export function clipOf(
  { name, atS, endS }: Mark,
  { beforeS, afterS }: Pick<Clips, 'beforeS' | 'afterS'>,
  lengthS: number | null,
): Piece {
  if (endS !== null && endS > atS) return { name, fromS: atS, untilS: endS };
  return {
    name,
    fromS: Math.max(0, atS - beforeS),
    untilS: Math.min(lengthS ?? Number.POSITIVE_INFINITY, atS + Math.max(0.5, afterS)),
  };
}
