import { describe, expect, test } from '@jest/globals';
import { clockLine, type Heard } from './clockLine.ts';

/** A stretch that was heard, on a clock that begins `offsetS` later and drifts. */
function stretch(startS: number, endS: number, offsetS: number, driftPpm: number, offMs = 0): Heard {
  const middle = (startS + endS) / 2;
  return { startS, endS, offsetMs: offsetS * 1000 + driftPpm * 1e-3 * middle + offMs, driftPpm };
}

describe('how one recording lies in another', () => {
  test('an hour with pauses, on a clock that is 60 ppm off', () => {
    const heard = Array.from({ length: 60 }, (_, minute) =>
      stretch(60 * minute, 60 * minute + 40, -37.3, 60, minute % 2 ? 0.3 : -0.3),
    );
    const line = clockLine(heard);
    expect(line?.offsetS).toBeCloseTo(-37.3, 3);
    expect(line?.driftPpm).toBeCloseTo(60, 0);
    expect(line?.heardS).toBe(2400);
    expect(line?.offS).toBeLessThan(0.001);
  });

  test('words that are like others somewhere else do not matter', () => {
    const heard = [
      stretch(100, 101, 4, 0),
      ...[0, 60, 120, 180].map((at) => stretch(at, at + 30, 12.5, -20)),
      stretch(150, 151, -90, 0),
    ];
    const line = clockLine(heard);
    expect(line?.offsetS).toBeCloseTo(12.5, 4);
    expect(line?.driftPpm).toBeCloseTo(-20, 1);
  });

  test('too little is no place at all; a short stretch says nothing of the drift', () => {
    expect(clockLine([])).toBeNull();
    expect(clockLine([stretch(10, 14, 1, 0), stretch(80, 83, 9, 0)])).toBeNull();
    expect(clockLine([stretch(10, 22, 1, 0)])).toMatchObject({ driftPpm: 0, offsetS: 1 });
  });

  test('a clock that jumps is said to be off', () => {
    const heard = [0, 100, 200, 300].map((at) => stretch(at, at + 60, 1, 0, at < 150 ? 0 : 30));
    expect(clockLine(heard)?.offS).toBeGreaterThan(0.005);
  });
});
