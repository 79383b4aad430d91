import { useQuery } from '@tanstack/react-query';
import { createContext, type ReactNode, useContext, useMemo, useState } from 'react';
import { useMatch } from 'react-router';
import { type HeardFinding, heardFindings } from '../core/balance/heard.ts';
import { measuredFindings } from '../core/balance/measured.ts';
import { lookedAt, recordingFindings } from '../core/balance/recordings.ts';
import type { BalanceInput } from '../core/balance/solve.ts';
import type { StaticMix } from '../core/balance/sounds.ts';
import type { Setup, Source } from '../core/setup/schema.ts';
import { mediaPath, useMedia } from './api/media.ts';
import { measuresOf, useCalibrations } from './api/sounds.ts';
import { useBalance } from './parts/useBalance.ts';
import { useSettled } from './parts/useSettled.ts';
import { useRehearsal } from './rehearsal.tsx';
import { useSetup } from './setupContext.tsx';
import { knownFindings } from './setupFindings.ts';

/** The sound is looked at once the setup has stayed as it is for so long (ms), and rendered after a while longer. */
const SETTLED_MS = 700;
const RENDERED_MS = 2500;
/** Leads to what is wrong in the sound, behind the address of Reach. */
export const IN_THE_SOUND = '#in-the-sound';
/** Recordings that are longer are read when it is asked for (s). */
const LONG_S = 600;

/** What is wrong in the sound of a setup, where there are recordings. */
export interface Heard {
  /** The state of the setup that was looked at. */
  of: Setup;
  /** `none`: there are no recordings; `long`: they are not looked at until {@link ask} is called. */
  status: 'none' | 'long' | 'reading' | 'known' | 'failed';
  message: string | null;
  /** What the routing does not tell already. */
  findings: HeardFinding[];
  /** What it does tell, and what is measured too: look up by its id. */
  confirmed: ReadonlyMap<string, HeardFinding>;
  /** Whether a render is being measured, which may find more. */
  isRendering: boolean;
  /** Whether that waits until nothing plays. */
  isHeld: boolean;
  input: BalanceInput | null;
  mixes: StaticMix[];
  ask: () => void;
}

const HeardContext = createContext<Heard | null>(null);

/** Returns what is wrong in the sound; null until the setup has stayed the same for a moment. */
export function useHeard(): Heard | null {
  return useContext(HeardContext);
}

/**
 * Looks at the sound of the setup that is open. What is drawn comes first: it waits for the setup to settle. Recordings are read
 * on Reach and Balance, a render is measured on Reach alone, and while nothing plays: nothing is to take the processor from
 * a rehearsal. Other screens have what is known already.
 */
export function HeardProvider({ children }: { children: ReactNode }) {
  const { id, setup: newest, revision } = useSetup();
  const looked = useSettled<Setup | null>(newest, SETTLED_MS, null);
  const setup = looked ?? newest;
  const { data: media = [] } = useMedia();
  const [isAsked, setAsked] = useState(false);
  const isLong = media.some(
    (one) => one.durationS > LONG_S && setup.sources.some((source) => source.media?.path === mediaPath(one)),
  );
  const isReach = useMatch('/setups/:setupId/reach') !== null;
  const isBalance = useMatch('/setups/:setupId/balance') !== null;
  const isWanted = looked !== null && (isReach || isBalance) && (isAsked || !isLong);
  const { query, input, balanced, hasSounds } = useBalance(setup, isWanted);
  const rendered = useSettled<Setup | null>(setup, RENDERED_MS, null);
  const isPlaying = useRehearsal().state.status === 'playing';
  const isRendered = isWanted && isReach && hasSounds && rendered === newest;
  const measures = useQuery({ ...measuresOf(id, revision), enabled: isRendered && !isPlaying });
  const recordings = useRecordings(setup.sources, isWanted);
  const mixes = useMemo(() => balanced.map(({ mix }) => mix), [balanced]);
  const heard = useMemo(() => (input ? heardFindings(input, mixes) : []), [input, mixes]);
  const measured = useMemo(
    () => (measures.data ? measuredFindings(setup, mixes, measures.data) : []),
    [setup, mixes, measures.data],
  );
  const status = !hasSounds
    ? 'none'
    : !isWanted
      ? 'long'
      : query.isError
        ? 'failed'
        : query.isPending
          ? 'reading'
          : 'known';
  const message = query.error?.message ?? null;
  const isRendering = measures.isFetching;
  const isHeld = isRendered && isPlaying && !measures.data;
  const value = useMemo((): Heard => {
    const found = [...recordings, ...heard, ...measured];
    const inRouting = new Set(knownFindings(setup).map((one) => one.id));
    return {
      of: setup,
      status,
      message,
      findings: found.filter(({ finding }) => !inRouting.has(finding.id)),
      confirmed: new Map(found.map((one) => [one.finding.id, one])),
      isRendering,
      isHeld,
      input,
      mixes,
      ask: () => setAsked(true),
    };
  }, [setup, status, message, recordings, heard, measured, isRendering, isHeld, input, mixes]);
  return <HeardContext value={looked && value}>{children}</HeardContext>;
}

/** What is wrong with the recordings by themselves. */
function useRecordings(sources: Source[], wanted: boolean): HeardFinding[] {
  const looked = useMemo(() => lookedAt(sources), [sources]);
  const paths = useMemo(() => looked.map(({ media }) => media?.path ?? ''), [looked]);
  const calibrations = useCalibrations(paths, wanted);
  return useMemo(
    () =>
      looked.flatMap((source, i) => {
        const read = calibrations[i];
        return read ? recordingFindings(source, read).map((finding) => ({ finding, atS: null })) : [];
      }),
    [looked, calibrations],
  );
}
