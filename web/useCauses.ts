import { useEffect, useRef, useState } from 'react';
import type { Setup } from '../core/setup/schema.ts';
import type { CausesAnswer, CausesRequest } from './causes.worker.ts';
import { today } from './format.ts';
import { useSettled } from './parts/useSettled.ts';

/** Causes are looked for once the setup has stayed as it is for so long (ms). */
const SETTLED_MS = 200;

/** How findings go together: by the id of the gravest, the ids of all that one cause brings. */
export interface KnownCauses {
  groups: string[][];
  /** Whether they are those of the setup as it is now; else they are of an earlier state. */
  isCurrent: boolean;
}

/** Returns the causes of a setup, looked for in a worker, so that the board never waits; the last ones until they are there. */
export function useCauses(setup: Setup): KnownCauses {
  const settled = useSettled(setup, SETTLED_MS);
  const worker = useRef<Worker | null>(null);
  const [known, setKnown] = useState<{ of: Setup | null; groups: string[][] }>({ of: null, groups: [] });
  const asked = useRef<{ number: number; setup: Setup } | null>(null);
  useEffect(() => {
    const made = new Worker(new URL('./causes.worker.ts', import.meta.url), { type: 'module' });
    made.onmessage = ({ data }: MessageEvent<CausesAnswer>) => {
      if (data.number === asked.current?.number) setKnown({ of: asked.current.setup, groups: data.groups });
    };
    worker.current = made;
    return () => made.terminate();
  }, []);
  useEffect(() => {
    const number = (asked.current?.number ?? 0) + 1;
    asked.current = { number, setup: settled };
    worker.current?.postMessage({ number, setup: settled, today: today() } satisfies CausesRequest);
  }, [settled]);
  return { groups: known.groups, isCurrent: known.of === setup };
}
