import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { BalanceInput } from '../../../core/balance/solve.ts';
import type { StaticMix } from '../../../core/balance/sounds.ts';
import { balanceVerified, type Verified } from '../../../core/balance/verified.ts';
import { nameOf } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { settled } from '../../api/setups.ts';
import { measuresOf, measureWith } from '../../api/sounds.ts';
import { useSetup } from '../../setupContext.tsx';

/** Where the check of a solution in a render stands. */
export type Check =
  | { status: 'checking'; round: number }
  | { status: 'checked'; verified: Verified }
  | { status: 'failed'; message: string };
/** A check belongs to one state of a setup. */
type CheckOf = { of: Setup; check: Check };

/** Renders what was solved, and solves again until the render shows it (see `balanceVerified`); a change of the setup ends it. */
export function useCheck() {
  const { id: setupId, setup, revision } = useSetup();
  const queries = useQueryClient();
  const [state, setState] = useState<CheckOf | null>(null);
  const running = useRef<AbortController | null>(null);
  const newest = useRef(revision);
  newest.current = revision;
  const cancel = () => {
    running.current?.abort();
    running.current = null;
    setState(null);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is checked belongs to one state of the setup
  useEffect(() => cancel, [setup]);

  const start = async (input: BalanceInput, mixes: StaticMix[]) => {
    cancel();
    const own = new AbortController();
    running.current = own;
    const setCheck = (check: Check) => setState({ of: setup, check });
    try {
      setCheck({ status: 'checking', round: 1 });
      await settled(setupId);
      const verified = await balanceVerified(
        input,
        mixes,
        (id) => nameOf(setup, id),
        async (edit, _after, round) => {
          own.signal.throwIfAborted();
          setCheck({ status: 'checking', round });
          return edit
            ? measureWith(setupId, newest.current, edit, own.signal)
            : queries.fetchQuery(measuresOf(setupId, newest.current));
        },
      );
      if (!own.signal.aborted) setCheck({ status: 'checked', verified });
    } catch (error) {
      if (!own.signal.aborted) setCheck({ status: 'failed', message: (error as Error).message });
    }
  };
  return { check: state?.of === setup ? state.check : null, start, cancel };
}
