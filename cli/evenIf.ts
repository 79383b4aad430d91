import type { Verdict } from '../core/check/verification.ts';

/** Verdicts with which a video is written all the same. */
export interface EvenIf {
  evenIfNotClean?: boolean;
  evenIfNotTestable?: boolean;
}

export function verdictsAllowed({ evenIfNotClean, evenIfNotTestable }: EvenIf) {
  return [
    ...(evenIfNotClean ? (['not clean'] as const) : []),
    ...(evenIfNotTestable ? (['not testable'] as const) : []),
  ];
}

/** Says how to have a video all the same that was not written. */
export function evenIfLine(verdict: Verdict | null): string {
  return `To have it all the same, say --even-if-${verdict === 'not clean' ? 'not-clean' : 'not-testable'}.`;
}
