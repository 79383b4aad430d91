import { describe, expect, test } from '@jest/globals';
import { STEP_S, suggestMarks, type TrackCourse } from './suggest.ts';

const MINUTES = 3;
const STEPS = (MINUTES * 60) / STEP_S;

/** A track that is at a level (dBFS) in some stretches (s), and quiet else. */
function course(
  role: TrackCourse['role'],
  levelDb: number,
  stretches: [number, number][],
  elseDb = -90,
): TrackCourse {
  const at = (step: number) => {
    const isIn = stretches.some(([from, until]) => step * STEP_S >= from && step * STEP_S < until);
    return 10 ** ((isIn ? levelDb : elseDb) / 10);
  };
  return { role, powers: Float64Array.from({ length: STEPS }, (_, step) => at(step)) };
}
const kindsAt = (tracks: TrackCourse[], kind: string) =>
  suggestMarks(tracks)
    .filter((one) => one.kind === kind)
    .map(({ atS, endS }) => [atS, endS]);
const GAME = course('game', -30, [[0, 180]]);

describe('moments that may be worth a mark', () => {
  test('each ring of the alerts once, also when it has a tail', () => {
    const bell = course('alerts', -20, [
      [10, 11],
      [11.5, 12],
      [60, 60.5],
    ]);
    expect(kindsAt([GAME, bell], 'alert')).toEqual([
      [10, null],
      [60, null],
    ]);
  });

  test('two people talking at once, not one alone nor a word in between', () => {
    const voice = course('voice', -20, [
      [20, 30],
      [80, 90],
      [100, 110],
    ]);
    const friends = course('voice chat', -25, [
      [25, 34],
      [89.5, 90],
      [140, 150],
    ]);
    expect(kindsAt([GAME, voice, friends], 'at once')).toEqual([[25, 30]]);
  });

  test('the loudest moments where something stands out, and none where all is alike', () => {
    const loud = course('voice', -8, [
      [42, 45],
      [120, 123],
    ]);
    expect(kindsAt([GAME, loud], 'loud')).toEqual([
      [42, 45],
      [120, 123],
    ]);
    expect(kindsAt([GAME], 'loud')).toEqual([]);
  });

  test('silences in which nothing sounds on any track; a mix is not counted twice', () => {
    const voice = course('voice', -20, [[0, 50]]);
    const game = course('game', -30, [[70, 180]]);
    expect(kindsAt([voice, game], 'silence')).toEqual([[50, 70]]);
    expect(kindsAt([voice, game, course('mix', -20, [[55, 60]])], 'silence')).toEqual([[50, 70]]);
    expect(suggestMarks([])).toEqual([]);
  });
});
