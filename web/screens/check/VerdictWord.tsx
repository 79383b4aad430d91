import { clsx } from 'clsx';
import type { Verdict } from '../../../core/check/verification.ts';
import { Mark } from '../../parts/Mark.tsx';
import { VERDICT_LOOKS } from './looks.ts';

/** A verdict: its word and its mark. */
export function VerdictWord({ verdict, className }: { verdict: Verdict; className?: string }) {
  const look = VERDICT_LOOKS[verdict];
  return (
    <span
      className={clsx('inline-flex items-center gap-1 align-bottom font-semibold', look.className, className)}
    >
      <Mark path={look.mark} />
      {verdict}
    </span>
  );
}
