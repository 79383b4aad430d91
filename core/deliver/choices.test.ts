import { describe, expect, test } from '@jest/globals';
import type { Check, CheckResult } from '../check/records.ts';
import { type MixedTrack, mixLevels } from './mixLevels.ts';
import { standingOf } from './standing.ts';
import { standingsOf } from './usual.ts';

describe('the levels of a mix', () => {
  const track = (role: MixedTrack['role'], lufs: number | null): MixedTrack => ({ role, lufs });

  test('voices as loud as each other, game and music together 10 LU below, alerts as they are', () => {
    const tracks = [
      track('voice', -20),
      track('voice chat', -26),
      track('game', -15),
      track('music', -15),
      track('alerts', -30),
    ];
    const levels = mixLevels(tracks);
    expect(levels[0]).toBe(0);
    expect(levels[1]).toBe(6);
    expect(levels[2]).toBe(levels[3]);
    const bed = 10 * Math.log10(2 * 10 ** ((-15 + levels[2]) / 10));
    expect(bed).toBeCloseTo(-30, 1);
    expect(levels[4]).toBe(0);
  });

  test('what is silent stays, and without a voice all do', () => {
    expect(mixLevels([track('voice', null), track('game', -12)])).toEqual([0, 0]);
    expect(mixLevels([])).toEqual([]);
  });
});

describe('what a check says of a track', () => {
  const plan: CheckResult['plan'] = {
    setupId: null,
    tracks: [
      { carries: 'Stream', goesTo: ['upload'], notFor: [] },
      { carries: 'Clean', goesTo: ['vod', 'upload'], notFor: [] },
      { carries: 'Game', goesTo: [], notFor: [] },
      { carries: 'Music', goesTo: [], notFor: ['upload'] },
    ],
    files: [],
    unknown: [],
  };
  const leak = { startS: 1, endS: 4, levelDb: -12, offsetMs: 0, uses: ['upload' as const] };
  const result: CheckResult = {
    plan,
    pairs: 2,
    references: [],
    leaks: [{ ...leak, reference: 'Music', track: 1 }],
    untested: [],
  };

  test('before a check, and after the plan was changed, only what must not go out is known', () => {
    const inspected = { tracks: plan.tracks };
    const standings = (of: CheckResult | null) =>
      standingsOf({ plan, inspected, result: of } as unknown as Check);
    const onlyMusic = [null, null, null, { kind: 'not allowed' }];
    expect(standings(null)).toEqual(onlyMusic);
    const older = { ...result, plan: { ...plan, files: [], setupId: 'other' } };
    expect(standings(older)).toEqual(onlyMusic);
    expect(standings(result)[1]).toEqual({ kind: 'clean' });
  });

  test('clean, with what is in it, not allowed, or not looked at', () => {
    expect([0, 1, 2, 3].map((at) => standingOf(result, at))).toEqual([
      { kind: 'holds', names: ['Music'] },
      { kind: 'clean' },
      { kind: 'not known', names: ['Music'] },
      { kind: 'not allowed' },
    ]);
  });

  test('nothing is called clean where nothing was looked for', () => {
    const free = plan.tracks.map((one) => ({ ...one, notFor: [] }));
    expect(standingOf({ ...result, plan: { ...plan, tracks: free } }, 1)).toEqual({ kind: 'all allowed' });
  });

  test('what cannot be looked for is not known', () => {
    const unknown = [{ name: 'Reedbox', notFor: ['upload' as const] }];
    const silent = [{ reference: 'Music', track: 2, reason: 'it is silent', uses: ['upload' as const] }];
    expect(standingOf({ ...result, plan: { ...plan, unknown } }, 1)).toEqual({
      kind: 'not known',
      names: ['Reedbox'],
    });
    expect(standingOf({ ...result, untested: silent }, 1)).toEqual({ kind: 'not known', names: ['Music'] });
  });
});
