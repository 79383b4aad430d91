import { describe, expect, test } from '@jest/globals';
import { regattaGuessed, regattaMadeRight } from '../demo/setups.ts';
import { withHumCut } from '../processors/humCuts.ts';
import { MOST_STEPS, PROCESSORS, type Processing } from '../processors/processing.ts';
import { applyEdit } from '../setup/edits.ts';
import { lookedAt, recordingFindings, recordingRemedy } from './recordings.ts';

const narrator = { id: 'narrator', name: 'Narrator', kind: 'microphone' as const };
const levels = { floorDb: -70, speechDb: -24 };
const clean = { clippedShare: 0, hum: null, ...levels };
const humming = { clippedShare: 0, hum: { hz: 50 as const, overDb: 22.4 }, ...levels };

test('voices are looked at, and what is plugged in; a game may sound like a hum', () => {
  expect(lookedAt(regattaGuessed().sources).map(({ id }) => id)).toEqual([
    'narrator',
    'bosun',
    'wick',
    'minnow',
  ]);
});

test('a recording that clips is told, one that does not is not', () => {
  expect(recordingFindings(narrator, clean)).toEqual([]);
  const messageAt = (clippedShare: number) =>
    recordingFindings(narrator, { ...clean, clippedShare })[0].message;
  expect(messageAt(0.02)).toContain('Narrator clips: 2.0 % of it');
  expect(messageAt(0.0005)).toContain('0.05 %');
});

describe('a recording that hums', () => {
  const setup = regattaGuessed();
  const minnow = setup.sources.find(({ id }) => id === 'minnow') ?? setup.sources[0];
  const withSteps = (processing: Processing) => ({ ...minnow, processing });

  test('is told with its frequency, until its lines are cut out', () => {
    const [finding] = recordingFindings(minnow, humming);
    expect(finding.message).toBe('Minnow hums: 50 Hz and its harmonics are 22 dB above what is beside them.');
    const remedy = recordingRemedy(setup, finding);
    expect(remedy?.label).toBe('Cut the hum out of Minnow');
    const after = remedy ? applyEdit(setup, remedy.edit) : setup;
    const source = after.sources.find(({ id }) => id === 'minnow') ?? minnow;
    expect(source.processing?.map((step) => ('hz' in step ? step.hz : step.does))).toEqual([
      80, 50, 100, 150,
    ]);
    expect(recordingFindings(source, humming)).toEqual([]);
  });

  test('is not mended by a high-pass alone, by cuts that are bypassed, or by those for other mains', () => {
    const processing = withHumCut([], 50);
    const bypassed = processing.map((step) => ({ ...step, off: true }));
    const other = { clippedShare: 0, hum: { hz: 60 as const, overDb: 15 }, ...levels };
    expect(recordingFindings(withSteps([PROCESSORS['high-pass'].initial]), humming)).toHaveLength(1);
    expect(recordingFindings(withSteps(bypassed), humming)).toHaveLength(1);
    expect(recordingFindings(withSteps(processing), other)).toHaveLength(1);
  });

  test('keeps what was done to it before, and is left alone where there is no room', () => {
    const finding = recordingFindings(minnow, humming)[0];
    const having = (processing: Processing) =>
      recordingRemedy(
        applyEdit(setup, { edit: 'updateSource', id: 'minnow', values: { processing } }),
        finding,
      )?.edit;
    expect(having([PROCESSORS['high-pass'].initial, PROCESSORS.gate.initial])).toMatchObject({
      values: { processing: [{ hz: 50 }, { hz: 100 }, { hz: 150 }, { does: 'high-pass' }, { does: 'gate' }] },
    });
    expect(having(Array.from({ length: MOST_STEPS - 1 }, () => PROCESSORS.band.initial))).toBeUndefined();
  });

  test('does not hum any more in the demo that is made right', () => {
    const right = regattaMadeRight().sources.find(({ id }) => id === 'minnow') ?? minnow;
    expect(recordingFindings(right, humming)).toEqual([]);
  });
});

describe('a voice with noise behind it', () => {
  const setup = regattaGuessed();
  const wick = setup.sources.find(({ id }) => id === 'wick') ?? setup.sources[0];
  const noisy = { ...clean, floorDb: -38, speechDb: -24 };

  test('is told with how far under the voice the noise lies, and reduced by what it takes', () => {
    const [finding, ...more] = recordingFindings(wick, noisy);
    expect(more).toEqual([]);
    expect(finding.message).toContain('The noise behind Wick is 14 dB under the voice');
    const remedy = recordingRemedy(setup, finding);
    expect(remedy?.label).toBe('Take the noise out of Wick');
    const after = remedy ? applyEdit(setup, remedy.edit) : setup;
    const source = after.sources.find(({ id }) => id === 'wick') ?? wick;
    expect(source.processing?.[0]).toEqual({ does: 'noise reduction', reduceDb: 22 });
    expect(recordingFindings(source, noisy)).toEqual([]);
  });

  test('is told again where what is done about it is not enough', () => {
    const reduced = (reduceDb: number) => ({
      ...wick,
      processing: [{ does: 'noise reduction' as const, reduceDb }],
    });
    const [finding] = recordingFindings(reduced(4), noisy);
    expect(finding.message).toContain('is 14 dB under the voice, and 18 dB once it is reduced: a fan');
    expect(recordingFindings(reduced(8), noisy)).toEqual([]);
    const withReduction = applyEdit(setup, {
      edit: 'updateSource',
      id: 'wick',
      values: { processing: [{ does: 'noise reduction', reduceDb: 24 }] },
    });
    // The most that is offered is done already.
    expect(recordingRemedy(withReduction, { ...finding, detail: '-8' })).toBeNull();
  });

  test('is not told where the noise is far below, hums, is no voice’s, or nothing speaks', () => {
    expect(recordingFindings(wick, { ...noisy, floorDb: -50 })).toEqual([]);
    expect(recordingFindings(wick, { ...noisy, speechDb: null })).toEqual([]);
    expect(recordingFindings({ ...wick, kind: 'game' }, noisy)).toEqual([]);
    const both = recordingFindings(wick, { ...humming, floorDb: -38, speechDb: -24 });
    expect(both.map(({ code }) => code)).toEqual(['hum']);
  });
});
