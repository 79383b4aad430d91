import { clsx } from 'clsx';
import type { Verdict } from '../../../core/check/verification.ts';
import { VERDICT_LOOKS } from './looks.ts';

/** A verdict: its word and its mark. */
export function VerdictWord({ verdict, className }: { verdict: Verdict; className?: string }) {
  const look = VERDICT_LOOKS[verdict];
  return (
    <span className={clsx('inline-flex items-center gap-1 font-semibold', look.className, className)}>
      <svg
        aria-hidden="true"
        viewBox="0 0 16 16"
        className="h-4 w-4 shrink-0"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.8"
        strokeLinecap="round"
      >
        <path d={look.mark} />
      </svg>
      {verdict}
    </span>
  );
}
