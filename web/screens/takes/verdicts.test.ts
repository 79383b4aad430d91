import { describe, expect, test } from '@jest/globals';
import type { ProofLine, Verdict } from '../../../core/proof/proof.ts';
import { lookOf } from './verdicts.ts';

const line = (verdict: Verdict, more: Partial<ProofLine> = {}): ProofLine => ({
  sourceId: 'reedbox',
  trackId: 'vod-mix',
  plannedDb: -16,
  measuredDb: -16.04,
  offsetMs: 0,
  confidence: 1,
  intervals: [],
  uncleared: [],
  verdict,
  ...more,
});

describe('how a line of the proof is shown', () => {
  test.each<[Verdict, string]>([
    ['heard', '−16.0'],
    ['absent', 'absent'],
    ['unplanned', 'stray −16.0'],
    ['unheard', 'not heard'],
    ['off-level', 'off −16.0'],
    ['silent', 'no sound'],
    ['too-quiet', 'too quiet'],
  ])('%s has the word “%s” and says what it means', (verdict, word) => {
    const look = lookOf(line(verdict));
    expect(look.word).toBe(word);
    expect(look.meaning.length).toBeGreaterThan(15);
  });

  test('what is heard without clearance is a leak, planned or not, and says for what', () => {
    for (const verdict of ['heard', 'unplanned', 'off-level'] as const) {
      const look = lookOf(line(verdict, { uncleared: ['vod', 'upload'] }));
      expect(look.word).toBe('leak −16.0');
      expect(look.meaning).toContain('not cleared for VOD, upload');
    }
    expect(lookOf(line('absent', { uncleared: ['vod'], measuredDb: null })).word).toBe('absent');
  });

  test('no two kinds of trouble look the same without their colour', () => {
    const looks = (['unplanned', 'unheard', 'silent', 'heard'] as const).map((one) => lookOf(line(one)));
    expect(new Set(looks.map(({ mark }) => mark)).size).toBe(4);
  });
});
