import { describe, expect, test } from '@jest/globals';
import { regattaGuessed } from '../demo/setups.ts';
import { PROCESSORS } from '../processors/processing.ts';
import { reachOf } from '../reach/reach.ts';
import type { DestinationMeasures } from '../records.ts';
import { processingOf } from '../setup/bearers.ts';
import { applyEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { limitingRemedy } from './heard.ts';
import { measuredFindings } from './measured.ts';
import { limiterEdit, peakHeldAt } from './peaks.ts';
import { staticMixes } from './sounds.ts';

const setup = regattaGuessed();
const { mixes } = staticMixes(setup, reachOf(setup));
const live = reachOf(setup).destinations[2];

function measured(destinationId: string, more: Partial<DestinationMeasures>): DestinationMeasures {
  return {
    ...{ destinationId, integratedLufs: -16, loudnessRangeLu: 5, maxMomentaryLufs: -10 },
    ...{ maxShortTermLufs: -12, truePeakDbtp: -3 },
    ...more,
  };
}

const found = (...measures: DestinationMeasures[]) =>
  measuredFindings(setup, mixes, measures).map(({ finding }) => finding);

describe('peaks in a render', () => {
  test('above 0 dBTP clip, between there and the ceiling they are noted, below it is nothing', () => {
    expect(found(measured('live', { truePeakDbtp: 1.4 }))).toMatchObject([
      {
        code: 'clipping',
        severity: 'warn',
        destination: 'live',
        message: 'At Live the true peak is 1.4 dBTP: it clips. A limiter on everything there holds it.',
      },
    ]);
    expect(found(measured('live', { truePeakDbtp: -0.4 }))).toMatchObject([
      { code: 'clipping', severity: 'note' },
    ]);
    expect(found(measured('live', { truePeakDbtp: -0.9 }), measured('vod', { truePeakDbtp: null }))).toEqual(
      [],
    );
  });

  test('are nobody’s business where nobody else listens', () => {
    expect(
      found(measured('headphones', { truePeakDbtp: 3 }), measured('voice', { truePeakDbtp: 3 })),
    ).toEqual([]);
  });

  test('are held by a limiter at the end of everything, which is put there once', () => {
    const remedy = limitingRemedy(setup, mixes, ['live']);
    expect(remedy?.label).toBe('Put a limiter on everything at Live');
    const after = remedy ? applyEdit(setup, remedy.edit) : setup;
    expect(processingOf(after, { kind: 'track', id: 'live-mix' })).toEqual([
      { ...PROCESSORS.limiter.initial, ceilingDbtp: -1 },
    ]);
    expect(limitingRemedy(after, mixes, ['live'])).toBeNull();
    expect([peakHeldAt(setup, live), peakHeldAt(after, live)]).toEqual([Number.POSITIVE_INFINITY, -1]);
  });

  test('a limiter that lets too much through is lowered, and one that comes too early does not count', () => {
    const withSteps = (processing: Setup['tracks'][number]['processing']) =>
      applyEdit(setup, { edit: 'updateTrack', id: 'live-mix', values: { processing } });
    const lowered = limiterEdit(withSteps([{ ...PROCESSORS.limiter.initial, ceilingDbtp: -0.1 }]), live, -1);
    expect(lowered).toMatchObject({ values: { processing: [{ does: 'limiter', ceilingDbtp: -1 }] } });
    const early = withSteps([PROCESSORS.limiter.initial, { does: 'trim', gainDb: 6 }]);
    expect(peakHeldAt(early, live)).toBe(Number.POSITIVE_INFINITY);
    expect(peakHeldAt(withSteps([{ ...PROCESSORS.limiter.initial, off: true }]), live)).toBe(
      Number.POSITIVE_INFINITY,
    );
  });
});

describe('the own voice in a render', () => {
  const heard = (...copies: [delayMs: number, levelDb: number][]) =>
    found(
      measured('headphones', {
        ownVoices: [
          { sourceId: 'narrator', copies: copies.map(([delayMs, levelDb]) => ({ delayMs, levelDb })) },
        ],
      }),
    );

  test('is an echo when it comes later than 10 ms, or twice, with the delays that were measured', () => {
    expect(heard([36, -3])).toMatchObject([
      {
        id: 'echo.self:narrator:headphones',
        message: 'Measured: you hear your own voice (Narrator) 36.0 ms late.',
      },
    ]);
    expect(heard([0.1, 0], [6, -10])[0].message).toBe(
      'Measured: you hear your own voice (Narrator) 2 times, 0.1 and 6.0 ms late.',
    );
  });

  test('is none when it comes at once, or not at all', () => {
    expect(heard([4, 0])).toEqual([]);
    expect(heard()).toEqual([]);
  });
});
