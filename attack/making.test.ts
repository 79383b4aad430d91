import { fileURLToPath } from 'node:url';
import { expect, test } from '@jest/globals';
import { attackMaking } from './making.ts';

/** The short form of `npm run attack making`; it usually takes a quarter of this (ms). */
const MOST_MS = 240_000;

test(
  'whatever is made of a recording, and whenever it is stopped or the process is killed: nothing unfinished is left, and it is told',
  async () => {
    const { wrong, ended } = await attackMaking(fileURLToPath(new URL('..', import.meta.url)), 2);
    expect(wrong).toEqual([]);
    expect(ended).toBeGreaterThan(3);
  },
  MOST_MS,
);
