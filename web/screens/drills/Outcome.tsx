import { clsx } from 'clsx';
import type { DrillResult } from '../../../core/drills/drills.ts';

/** How many stop-findings a drill would bring. */
export function stopsOf({ findings }: DrillResult): number {
  return findings.filter((one) => one.severity === 'stop').length;
}

/** How a drill ends, in a word or two. */
export function Outcome({ result }: { result: DrillResult }) {
  const stops = stopsOf(result);
  const [word, color] =
    stops > 0
      ? [`${stops} ${stops === 1 ? 'stop' : 'stops'}`, 'text-clay']
      : result.findings.length > 0
        ? [`${result.findings.length} to look at`, 'text-reed']
        : result.changes.length > 0
          ? ['levels move', 'text-soft']
          : ['holds', 'text-moss'];
  return <strong className={clsx('text-sm font-semibold whitespace-nowrap', color)}>{word}</strong>;
}
