import { expect, test } from '@jest/globals';
import { foundWithin } from './checkSources.ts';

test('what was found in a recording lies in a piece of it where the piece has it', () => {
  const leak = (startS: number, endS: number) => ({
    reference: 'Reedbox',
    track: 4,
    startS,
    endS,
    levelDb: -20,
    offsetMs: 0,
  });
  const untested = [{ reference: 'Bosun', track: 4, reason: 'it is silent' }];
  const found = foundWithin(
    { leaks: [leak(0, 5), leak(8, 12), leak(18, 40), leak(60, 70)], untested },
    { fromS: 10, lengthS: 20 },
  );
  expect(found.leaks).toEqual([
    { ...leak(0, 2), track: 1 },
    { ...leak(8, 20), track: 1 },
  ]);
  expect(found.untested).toEqual([{ ...untested[0], track: 1 }]);
});
