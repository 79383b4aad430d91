import { createContext, type ReactNode, use, useEffect, useMemo, useRef, useState } from 'react';
import { type Parted, partedByMeaning } from '../core/findings/accepted.ts';
import type { Finding } from '../core/findings/finding.ts';
import type { CauseReport } from '../core/repair/report.ts';
import type { Setup } from '../core/setup/schema.ts';
import type { CausesAnswer, CausesRequest } from './causes.worker.ts';
import { today } from './format.ts';
import { useAfterPaint } from './parts/afterPaint.ts';
import { AskNewest } from './parts/askNewest.ts';
import { useSettled } from './parts/useSettled.ts';
import { useSetup } from './setupContext.tsx';
import { knownFindings } from './setupFindings.ts';

/** Causes are looked for once the setup has stayed as it is for so long (ms). */
const SETTLED_MS = 120;

/** A cause as it is shown: its gravest finding, everything that it brings, and what can be done. */
export interface ShownCause {
  finding: Finding;
  brings: Finding[];
  /** `looking` until the worker has answered; `failed` where it could not. */
  report: CauseReport | 'looking' | 'failed';
}

/** The findings of the setup as they stand, by cause. */
export interface Causes extends Parted {
  /** The setup that they were found in, which may be one key behind the one that is open. */
  of: Setup;
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
  // A key on the board shows its level first, and what is found about it right after.
  const setup = useAfterPaint(useSetup().setup);
  const { reports, hasFailed, isCurrent } = useReports(setup);
  const value = useMemo((): Causes => {
    const parted = partedByMeaning(setup, knownFindings(setup));
    const unknown = isCurrent ? 'failed' : 'looking';
    const causes = byCause(parted.open, reports).map(
      ({ report, ...found }): ShownCause => ({
        ...found,
        report: (isCurrent && !hasFailed && report) || unknown,
      }),
    );
    return { ...parted, of: setup, causes, isCurrent };
  }, [setup, reports, hasFailed, isCurrent]);
  return <CausesContext value={value}>{children}</CausesContext>;
}

/** What the worker found last. */
interface Known {
  of: Setup | null;
  reports: CauseReport[];
  hasFailed: boolean;
}

/** The causes that the worker found last, and whether they are those of the setup as it is now. */
function useReports(setup: Setup): Known & { isCurrent: boolean } {
  const settled = useSettled(setup, SETTLED_MS);
  const asking = useRef<AskNewest<CausesRequest, CausesAnswer> | null>(null);
  const [known, setKnown] = useState<Known>({ of: null, reports: [], hasFailed: false });
  useEffect(() => {
    asking.current = new AskNewest<CausesRequest, CausesAnswer>(
      () => new Worker(new URL('./causes.worker.ts', import.meta.url), { type: 'module' }),
      (question, reports) => setKnown({ of: question.setup, reports, hasFailed: false }),
      (question) => setKnown(({ reports }) => ({ of: question.setup, reports, hasFailed: true })),
    );
    return () => asking.current?.end();
  }, []);
  useEffect(() => asking.current?.ask({ setup: settled, today: today() }), [settled]);
  return { ...known, isCurrent: known.of === setup };
}

/** Findings grouped as the causes that are known say; what is not known yet stands by itself. */
function byCause(findings: Finding[], reports: CauseReport[]) {
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
    report: typeof key === 'string' ? null : key,
  }));
}
