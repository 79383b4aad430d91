import type { PublishedUse } from '../../../core/check/plan.ts';
import type { CheckSummary } from '../../../core/check/records.ts';
import type { Verdict } from '../../../core/check/verification.ts';

/** How a verdict is shown: its ink, and a mark of its own (for a box of 16 by 16). */
export const VERDICT_LOOKS: Record<Verdict, { className: string; mark: string }> = {
  clean: { className: 'text-moss', mark: 'M3 8.5l3.5 3.5L13 4.5' },
  'not clean': { className: 'text-clay', mark: 'M8 2c3 4 4 5.5 4 7.5a4 4 0 0 1-8 0C4 7.5 5 6 8 2z' },
  'not testable': { className: 'text-reed', mark: 'M2 12h4M10 12h4M8 3v5' },
};

/** What the uses are called in sentences and above columns. */
export const USE_NAMES: Record<PublishedUse, string> = { live: 'live', vod: 'VOD', upload: 'upload' };

/** What is said of a recording in the list: its verdict, or how the work on it stands. */
export function stateWords({ state, work, verdict, message }: CheckSummary): string {
  if (state === 'waiting') return 'waits its turn';
  if (state === 'running') return work === 'read' ? 'reading' : 'checking';
  if (state === 'failed') return 'failed';
  if (state === 'stopped') return 'stopped';
  return message ? 'has changed' : (verdict ?? 'not checked yet');
}
