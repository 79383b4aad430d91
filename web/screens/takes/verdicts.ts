import type { Conclusion } from '../../../core/proof/conclusion.ts';
import { isLeak, type ProofLine } from '../../../core/proof/proof.ts';
import { USE_WORDS } from '../../../core/setup/clearance.ts';
import { formatDb } from '../../format.ts';
import { MARKS } from '../../parts/Mark.tsx';

/** How a line of a proof is shown: its word, what it means, and its tint. `mark` is a path in a 16 by 16 box. */
export interface VerdictLook {
  word: string;
  meaning: string;
  className: string;
  mark: string;
}

/** Returns how a line of the proof is shown. */
export function lookOf(line: ProofLine): VerdictLook {
  const measured = line.measuredDb === null ? '' : `${formatDb(line.measuredDb)}`;
  if (isLeak(line)) {
    return {
      word: `leak ${measured}`,
      meaning: `heard in the sound, and not cleared for ${line.uncleared.map((use) => USE_WORDS[use]).join(', ')}`,
      className: 'bg-clay-pale font-semibold',
      mark: MARKS.drop,
    };
  }
  switch (line.verdict) {
    case 'heard':
      return {
        word: measured,
        meaning: 'heard, as planned',
        className: 'bg-water-pale/50',
        mark: MARKS.tick,
      };
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
        mark: MARKS.drop,
      };
    case 'unheard':
      return {
        word: 'not heard',
        meaning: 'planned, but not found in the sound',
        className: 'bg-reed-pale font-semibold',
        mark: MARKS.gap,
      };
    case 'off-level':
      return {
        word: `off ${measured}`,
        meaning: 'heard, but at another level than planned',
        className: 'bg-reed-pale font-semibold',
        mark: MARKS.gap,
      };
    case 'silent':
      return {
        word: 'no sound',
        meaning: 'the source made no sound in this take, so nothing can be said',
        className: 'text-soft',
        mark: MARKS.dash,
      };
    case 'too-quiet':
      return {
        word: 'too quiet',
        meaning: 'planned so quietly that it cannot be relied on to be found',
        className: 'text-soft',
        mark: MARKS.dash,
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
