import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { regattaWithFaults } from '../demo/setups.ts';
import { findingsOf } from '../findings/findings.ts';
import { applyEdit, EditSchema } from '../setup/edits.ts';
import { parseSetup } from '../setup/file.ts';
import { randomSetup } from '../testing/randomSetups.ts';
import { remediesFor } from './remedies.ts';

const TODAY = '2026-05-01';

describe('remedies', () => {
  test('of random setups end their finding, bring no stop, and change no wish that stands', () => {
    let findings = 0;
    let without = 0;
    fc.assert(
      fc.property(randomSetup, (setup) => {
        const before = findingsOf(setup, TODAY);
        const known = new Set(before.map(({ id }) => id));
        for (const finding of before) {
          const remedies = remediesFor(setup, finding, TODAY).filter(({ givesUp }) => givesUp.length === 0);
          findings += 1;
          if (remedies.length === 0) without += 1;
          for (const { edit } of remedies) {
            const mended = parseSetup(applyEdit(setup, EditSchema.parse(edit)));
            const after = findingsOf(mended, TODAY);
            expect(after.map(({ id }) => id)).not.toContain(finding.id);
            expect(after.filter(({ id, severity }) => severity === 'stop' && !known.has(id))).toEqual([]);
            expect(mended.intent.slice(0, setup.intent.length)).toEqual(setup.intent);
          }
        }
      }),
      { numRuns: 60, seed: 5 },
    );
    // Random wishes contradict random tracks (more wanted than the recorder has tracks for): not everything can be mended.
    expect(findings).toBeGreaterThan(500);
    expect(without / findings).toBeLessThan(0.2);
  });

  test('taking the first remedy again and again ends with no finding in the regatta', () => {
    let setup = regattaWithFaults();
    for (let steps = 0; steps < 10; steps++) {
      const [finding] = findingsOf(setup, TODAY);
      if (!finding) break;
      setup = parseSetup(applyEdit(setup, remediesFor(setup, finding, TODAY)[0].edit));
    }
    expect(findingsOf(setup, TODAY)).toEqual([]);
    expect(setup.tracks.map(({ name }) => name)).toContain('Wick');
  });

  test('the leak of the record is remedied by closing it on the VOD alone', () => {
    const setup = regattaWithFaults();
    const leak = findingsOf(setup, TODAY).find(({ code }) => code === 'leak.vod');
    const [remedy] = leak ? remediesFor(setup, leak, TODAY) : [];
    expect(remedy.label).toBe('Close Reedbox on track 2, “VOD mix”');
    const after = applyEdit(setup, remedy.edit);
    expect(after.sends).toHaveLength(setup.sends.length - 1);
    expect(after.sends.some(({ pickup, to }) => pickup === 'reedbox.pickup' && to === 'live-mix')).toBe(true);
  });
});
