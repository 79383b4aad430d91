import type { CheckPlan } from '../../../core/check/plan.ts';
import type { CheckResult } from '../../../core/check/records.ts';
import {
  type LookedFor,
  limitWords,
  usesUnasked,
  verdictSentence,
  verdictsByUse,
} from '../../../core/check/verification.ts';
import { USE_WORDS } from '../../../core/setup/clearance.ts';
import { listed } from '../../../core/words/figures.ts';
import { VerdictWord } from './VerdictWord.tsx';

function lookedFor({ tracks, files }: CheckPlan): LookedFor {
  return { tracks: tracks.some(({ notFor }) => notFor.length > 0), files: files.length > 0 };
}

/** The verdict for each use: one word, and what it stands on. */
export function Verdicts({ result, isAnswered }: { result: CheckResult; isAnswered: boolean }) {
  const verdicts = verdictsByUse(result.plan, result);
  const unasked = usesUnasked(result.plan);
  return (
    <section aria-label="Verdicts" className={isAnswered ? '' : 'opacity-60'}>
      {!isAnswered && (
        <p role="status" className="mb-1 text-reed">
          You changed the question. Check again: this is the answer to the old one.
        </p>
      )}
      {verdicts.length === 0 && unasked.length === 0 && (
        <p className="text-soft">
          No track goes anywhere yet. Choose under “Goes to” where each track is heard.
        </p>
      )}
      <ul className="grid gap-x-6 gap-y-3 md:grid-cols-3">
        {verdicts.map((one) => (
          <li key={one.use} data-use={one.use} className="border-l-4 border-rule pl-3">
            <h2 className="font-title text-lg first-letter:uppercase">
              {USE_WORDS[one.use]}: <VerdictWord verdict={one.verdict} className="text-lg" />
            </h2>
            <p>{verdictSentence(one)}</p>
            {[...new Set(one.untested.map(({ reason }) => reason))].map((reason) => (
              <p key={reason} className="text-sm text-soft">
                {listed(
                  [...new Set(one.untested.filter((u) => u.reason === reason).map((u) => u.reference))],
                  6,
                )}
                : {reason}.
              </p>
            ))}
          </li>
        ))}
      </ul>
      {unasked.length > 0 && (
        <p className="mt-2 text-sm text-soft">
          Not checked: {listed(unasked.map((use) => USE_WORDS[use]))}. By what you say below, everything is
          allowed there.
        </p>
      )}
      {verdicts.length > 0 && (
        <p className="mt-2 text-xs text-soft">
          {result.pairs} {result.pairs === 1 ? 'pair' : 'pairs'} of a sound and a track compared, as far as
          both can be read. {limitWords(lookedFor(result.plan))}
        </p>
      )}
    </section>
  );
}
