import { describe, expect, test } from '@jest/globals';
import { regattaGuessed, regattaWithFaults } from '../demo/setups.ts';
import { PROCESSORS } from '../processors/processing.ts';
import { reachOf } from '../reach/reach.ts';
import type { Setup } from '../setup/schema.ts';
import { isContradiction, isLeak, type Measured, proofOf } from './proof.ts';

const TODAY = '2026-05-01';

/** What would be measured of a source in a track; absent unless a level is given. */
function measured(sourceId: string, trackId: string, levelDb: number | null, testable = true): Measured {
  const present = levelDb !== null;
  return {
    sourceId,
    trackId,
    presence: {
      testable,
      present,
      levelDb,
      offsetMs: present ? 0 : null,
      confidence: present ? 1 : 0,
      intervals: [],
    },
  };
}

function lineOf(setup: Setup, one: Measured) {
  const lines = proofOf(setup, reachOf(setup), [one], TODAY);
  const line = lines.find(({ sourceId, trackId }) => sourceId === one.sourceId && trackId === one.trackId);
  if (!line) throw new Error('the proof has no such line');
  return line;
}

describe('a line of the proof', () => {
  const setup = regattaGuessed();

  test('is there for every source and every track of the sheet', () => {
    expect(proofOf(setup, reachOf(setup), [], TODAY)).toHaveLength(
      setup.sources.length * setup.tracks.length,
    );
  });

  test.each<[string, Measured, string, boolean]>([
    ['planned and heard at its level', measured('reedbox', 'live-mix', -16.4), 'heard', false],
    ['planned and heard 3 dB off', measured('reedbox', 'live-mix', -13), 'off-level', true],
    ['planned and not heard', measured('reedbox', 'live-mix', null), 'unheard', true],
    ['not planned and heard', measured('reedbox', 'voice', -40), 'unplanned', true],
    ['not planned and not heard', measured('reedbox', 'voice', null), 'absent', false],
    ['silent', measured('reedbox', 'live-mix', null, false), 'silent', false],
  ])('%s', (_name, one, verdict, contradicts) => {
    const line = lineOf(setup, one);
    expect(line.verdict).toBe(verdict);
    expect(isContradiction(line)).toBe(contradicts);
  });

  test('processed on its way: heard at any level, since none was planned', () => {
    const ducked = structuredClone(setup);
    const send = ducked.sends.find(({ pickup, to }) => pickup === 'reedbox.pickup' && to === 'live-mix');
    if (!send) throw new Error('the demo plays records live');
    send.processing = [{ ...PROCESSORS.ducking.initial, key: 'narrator' }];
    expect(lineOf(ducked, measured('reedbox', 'live-mix', -22)).verdict).toBe('heard');
    expect(lineOf(ducked, measured('reedbox', 'live-mix', null)).verdict).toBe('unheard');
    send.processing = [{ ...PROCESSORS.compressor.initial, off: true }, PROCESSORS.limiter.initial];
    expect(lineOf(ducked, measured('reedbox', 'live-mix', -22)).verdict).toBe('off-level');
    delete send.processing;
    const [live] = ducked.tracks;
    live.processing = [PROCESSORS.compressor.initial];
    expect(lineOf(ducked, measured('reedbox', 'live-mix', -22)).verdict).toBe('heard');
    live.processing = [PROCESSORS.limiter.initial];
    expect(lineOf(ducked, measured('reedbox', 'live-mix', -22)).verdict).toBe('off-level');
  });

  test('planned too quietly to be relied on is neither proven nor contradicted', () => {
    const quiet = structuredClone(setup);
    quiet.sends.push({ pickup: 'game.pickup', to: 'voice', gainDb: -55 });
    const line = lineOf(quiet, measured('game', 'voice', null));
    expect(line.verdict).toBe('too-quiet');
    expect(isContradiction(line)).toBe(false);
  });

  test('of a source without a recording says that it made no sound', () => {
    expect(proofOf(setup, reachOf(setup), [], TODAY).every(({ verdict }) => verdict === 'silent')).toBe(true);
  });
});

describe('a leak', () => {
  test('is a sound that was heard where it is not cleared, planned or not', () => {
    const planned = lineOf(regattaWithFaults(), measured('reedbox', 'vod-mix', -16));
    expect(planned).toMatchObject({ verdict: 'heard', uncleared: ['vod'] });
    expect(isLeak(planned)).toBe(true);
    const unplanned = lineOf(regattaGuessed(), measured('bosun', 'upload-mix', -30));
    expect(unplanned).toMatchObject({ verdict: 'unplanned', uncleared: ['upload'] });
    expect(isLeak(unplanned)).toBe(true);
  });

  test('is none where nothing was heard, and none on a track for editing', () => {
    expect(isLeak(lineOf(regattaGuessed(), measured('reedbox', 'vod-mix', null)))).toBe(false);
    expect(isLeak(lineOf(regattaGuessed(), measured('reedbox', 'records', 0)))).toBe(false);
  });
});
