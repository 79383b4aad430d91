import type { Check } from '../../../core/check/records.ts';
import type { Mark, Piece } from '../../../core/deliver/records.ts';
import { titleOf } from '../../../core/deliver/usual.ts';

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

/** The pieces that are made, in their order. */
export function piecesOf(check: Check, clips: Clips, marks: Mark[]): Piece[] {
  const whole: Piece[] = clips.whole
    ? [{ name: titleOf(check), fromS: clips.fromS, untilS: clips.untilS }]
    : [];
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
