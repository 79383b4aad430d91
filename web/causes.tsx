import { createContext, type ReactNode, use, useEffect, useMemo, useRef, useState } from 'react';
import { type Parted, partedByMeaning } from '../core/findings/accepted.ts';
import type { Finding } from '../core/findings/finding.ts';
import type { CauseReport } from '../core/repair/report.ts';
import type { Setup } from '../core/setup/schema.ts';
import type { CausesAnswer, CausesRequest } from './causes.worker.ts';
import { today } from './format.ts';
import { useSettled } from './parts/useSettled.ts';
import { useSetup } from './setupContext.tsx';
import { knownFindings } from './setupFindings.ts';

/** Causes are looked for once the setup has stayed as it is for so long (ms). */
const SETTLED_MS = 120;

/** A cause as it is shown: its gravest finding, everything that it brings, and what can be done; null while that is looked for. */
export interface ShownCause {
  finding: Finding;
  brings: Finding[];
  report: CauseReport | null;
}

/** The findings of the setup as they stand, by cause. */
export interface Causes extends Parted {
  causes: ShownCause[];
  /** Whether they are those of the setup as it is now; else causes are looked for, and findings are grouped as they were. */
  isCurrent: boolean;
}

const CausesContext = createContext<Causes | null>(null);

/** Returns the findings of the open setup by cause. */
export function useCauses(): Causes {
  const causes = use(CausesContext);
  if (!causes) throw new Error('useCauses needs a CausesProvider above it');
  return causes;
}

/** Looks for causes in a worker, so that the board never waits. */
export function CausesProvider({ children }: { children: ReactNode }) {
  const { setup } = useSetup();
  const { reports, isCurrent } = useReports(setup);
  const value = useMemo((): Causes => {
    const parted = partedByMeaning(setup, knownFindings(setup));
    return { ...parted, causes: byCause(parted.open, reports, isCurrent), isCurrent };
  }, [setup, reports, isCurrent]);
  return <CausesContext value={value}>{children}</CausesContext>;
}

/** The causes that the worker found last, and whether they are those of the setup as it is now. */
function useReports(setup: Setup): { reports: CauseReport[]; isCurrent: boolean } {
  const settled = useSettled(setup, SETTLED_MS);
  const worker = useRef<Worker | null>(null);
  const [known, setKnown] = useState<{ of: Setup | null; reports: CauseReport[] }>({ of: null, reports: [] });
  const asked = useRef<{ number: number; setup: Setup } | null>(null);
  useEffect(() => {
    const made = new Worker(new URL('./causes.worker.ts', import.meta.url), { type: 'module' });
    made.onmessage = ({ data }: MessageEvent<CausesAnswer>) => {
      if (data.number === asked.current?.number) setKnown({ of: asked.current.setup, reports: data.causes });
    };
    worker.current = made;
    return () => made.terminate();
  }, []);
  useEffect(() => {
    const number = (asked.current?.number ?? 0) + 1;
    asked.current = { number, setup: settled };
    worker.current?.postMessage({ number, setup: settled, today: today() } satisfies CausesRequest);
  }, [settled]);
  return { reports: known.reports, isCurrent: known.of === setup };
}

/** Findings grouped as the causes that are known say; what is not known yet stands by itself. */
function byCause(findings: Finding[], reports: CauseReport[], isCurrent: boolean): ShownCause[] {
  const reportOf = new Map(reports.flatMap((report) => report.brings.map((id) => [id, report] as const)));
  const listed = new Map<CauseReport | string, Finding[]>();
  for (const finding of findings) {
    const key = reportOf.get(finding.id) ?? finding.id;
    const others = listed.get(key);
    if (others) others.push(finding);
    else listed.set(key, [finding]);
  }
  return [...listed].map(([key, brings]) => ({
    finding: brings[0],
    brings,
    report: isCurrent && typeof key !== 'string' ? key : null,
  }));
}
