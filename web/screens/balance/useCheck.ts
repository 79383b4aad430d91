import { useEffect, useRef, useState } from 'react';
import type { BalanceInput } from '../../../core/balance/solve.ts';
import type { StaticMix } from '../../../core/balance/sounds.ts';
import { balanceVerified, type Verified } from '../../../core/balance/verified.ts';
import { nameOf } from '../../../core/setup/edits.ts';
import type { Setup } from '../../../core/setup/schema.ts';
import { settled } from '../../api/setups.ts';
import { measureEars, measureEarsWith } from '../../api/sounds.ts';

/** Where the check of a solution in a render stands. */
export type Check =
  | { status: 'checking'; round: number }
  | { status: 'checked'; verified: Verified }
  | { status: 'failed'; message: string };

/**
 * Renders what was solved, and solves again until the render shows it (see `balanceVerified`); a change of the setup ends it.
 * @param onSolved is given what the render has led to
 */
export function useCheck(
  setupId: string,
  setup: Setup,
  revision: number,
  onSolved: (verified: Verified) => void,
) {
  const [check, setCheck] = useState<Check | null>(null);
  const running = useRef<AbortController | null>(null);
  const newest = useRef(revision);
  newest.current = revision;
  const cancel = () => {
    running.current?.abort();
    running.current = null;
    setCheck(null);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is checked belongs to one state of the setup
  useEffect(() => cancel, [setup]);

  const start = async (input: BalanceInput, mixes: StaticMix[]) => {
    cancel();
    const own = new AbortController();
    running.current = own;
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
          const found = edit
            ? await measureEarsWith(setupId, newest.current, edit, own.signal)
            : await measureEars(setupId, own.signal);
          return found.ears;
        },
      );
      if (own.signal.aborted) return;
      setCheck({ status: 'checked', verified });
      onSolved(verified);
    } catch (error) {
      if (!own.signal.aborted) setCheck({ status: 'failed', message: (error as Error).message });
    }
  };
  return { check, start, cancel };
}
