import type { Conclusion } from '../../../core/proof/conclusion.ts';
import { isLeak, type ProofLine } from '../../../core/proof/proof.ts';
import { formatDb } from '../../format.ts';

/** How a line of a proof is shown: its word, what it means, and its tint. `mark` is a path in a 16 by 16 box. */
export interface VerdictLook {
  word: string;
  meaning: string;
  className: string;
  mark: string;
}

const TICK = 'M3 8.5l3.5 3.5L13 4';
const DROP = 'M8 2c3 4 4 6 4 8a4 4 0 0 1-8 0c0-2 1-4 4-8z';
const GAP = 'M2 12h4M10 12h4M8 3v5';
const DASH = 'M5 8h6';

/** Returns how a line of the proof is shown. */
export function lookOf(line: ProofLine): VerdictLook {
  const measured = line.measuredDb === null ? '' : `${formatDb(line.measuredDb)}`;
  if (isLeak(line)) {
    return {
      word: `leak ${measured}`,
      meaning: `heard in the sound, and not cleared for ${line.uncleared.map((use) => (use === 'vod' ? 'VOD' : use)).join(', ')}`,
      className: 'bg-clay-pale font-semibold',
      mark: DROP,
    };
  }
  switch (line.verdict) {
    case 'heard':
      return { word: measured, meaning: 'heard, as planned', className: 'bg-water-pale/50', mark: TICK };
    case 'absent':
      return {
        word: 'absent',
        meaning: 'not planned, and not found in the sound',
        className: 'text-soft',
        mark: '',
      };
    case 'unplanned':
      return {
        word: `stray ${measured}`,
        meaning: 'heard, though it is not planned',
        className: 'bg-heather-pale font-semibold',
        mark: DROP,
      };
    case 'unheard':
      return {
        word: 'not heard',
        meaning: 'planned, but not found in the sound',
        className: 'bg-reed-pale font-semibold',
        mark: GAP,
      };
    case 'off-level':
      return {
        word: `off ${measured}`,
        meaning: 'heard, but at another level than planned',
        className: 'bg-reed-pale font-semibold',
        mark: GAP,
      };
    case 'silent':
      return {
        word: 'no sound',
        meaning: 'the source made no sound in this take, so nothing can be said',
        className: 'text-soft',
        mark: DASH,
      };
    case 'too-quiet':
      return {
        word: 'too quiet',
        meaning: 'planned so quietly that it cannot be relied on to be found',
        className: 'text-soft',
        mark: DASH,
      };
  }
}

/** How the conclusion of a take is shown: its words in the list, and its ink. */
export const CONCLUSION_LOOKS: Record<Conclusion['kind'], { word: string; className: string }> = {
  leaks: { word: 'not safe to publish', className: 'text-clay' },
  differs: { word: 'differs from what you want', className: 'text-reed' },
  partly: { word: 'tested in part', className: 'text-reed' },
  proven: { word: 'proven', className: 'text-moss' },
};
