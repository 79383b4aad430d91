import { fileURLToPath } from 'node:url';
import { expect, test } from '@jest/globals';
import { attackMedia } from './media.ts';

/** The short form of `npm run attack media`: the first ones of the same damaged files. */
const COUNT = 60;
/** Ends a run that hangs (ms); it usually takes a quarter of this. */
const MOST_MS = 300_000;

test(
  `of ${COUNT} damaged recordings each is read or refused in words; none hangs, crashes or takes much memory`,
  async () => {
    const workerFile = fileURLToPath(new URL('../dist/node/worker.js', import.meta.url));
    const outcome = await attackMedia(workerFile, COUNT);
    expect(outcome.faults).toEqual([]);
    expect(outcome.stalled).toEqual([]);
    expect(outcome.read + outcome.refused).toBe(COUNT);
    expect(outcome.refused).toBeGreaterThan(COUNT / 10);
    expect(outcome.mostBytes).toBeLessThan(2 ** 30);
  },
  MOST_MS,
);
