import type { CheckSummary } from '../../../core/check/records.ts';
import type { Verdict } from '../../../core/check/verification.ts';
import { MARKS } from '../../parts/Mark.tsx';

/** How a verdict is shown: its ink, and a mark of its own. */
export const VERDICT_LOOKS: Record<Verdict, { className: string; mark: string }> = {
  clean: { className: 'text-moss', mark: MARKS.tick },
  'not clean': { className: 'text-clay', mark: MARKS.drop },
  'not testable': { className: 'text-reed', mark: MARKS.gap },
};

/** What the list says of a recording: its verdict, or how far the work on it is. */
export function stateWords({ state, work, verdict, message }: CheckSummary): string {
  if (state === 'waiting') return 'waiting';
  if (state === 'running') return work === 'read' ? 'reading' : 'checking';
  if (state === 'failed') return 'failed';
  if (state === 'stopped') return 'stopped';
  return message ? 'has changed' : (verdict ?? 'not checked yet');
}
