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
  test('every finding of a random setup has one; applied, the finding is gone and no new stop-finding has come', () => {
    fc.assert(
      fc.property(randomSetup, (setup) => {
        const before = findingsOf(setup, TODAY);
        for (const finding of before) {
          const remedies = remediesFor(setup, finding, TODAY);
          expect({ finding: finding.id, count: remedies.length }).not.toEqual({
            finding: finding.id,
            count: 0,
          });
          for (const { edit } of remedies) {
            const after = findingsOf(parseSetup(applyEdit(setup, EditSchema.parse(edit))), TODAY);
            expect(after.map(({ id }) => id)).not.toContain(finding.id);
            const known = new Set(before.map(({ id }) => id));
            expect(after.filter(({ id, severity }) => severity === 'stop' && !known.has(id))).toEqual([]);
          }
        }
      }),
      { numRuns: 150 },
    );
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
