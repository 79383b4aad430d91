import { describe, expect, test } from '@jest/globals';
import { findingsOf } from '../findings/findings.ts';
import { remediesFor } from '../repair/remedies.ts';
import { applyEdit } from '../setup/edits.ts';
import { parseSetup } from '../setup/file.ts';
import { twoMachinesMadeRight, twoMachinesWithFaults } from './twoMachines.ts';

const TODAY = '2026-05-01';

describe('the two machines', () => {
  test('made right, keep every rule and have no finding', () => {
    expect(findingsOf(parseSetup(twoMachinesMadeRight()), TODAY)).toEqual([]);
  });

  test('as they were found, have each planted fault told by name', () => {
    const codes = findingsOf(parseSetup(twoMachinesWithFaults()), TODAY).map(({ code }) => code);
    for (const code of [
      'leak.vod',
      'echo.party',
      'scene-gap',
      'missing',
      'swallowed',
      'fused',
      'doubled',
      'hum-risk',
      'on-default',
      'player-volume',
    ])
      expect(codes).toContain(code);
  });

  test('get from their faults to no finding by remedies alone, the gravest first, without ever raising a stop', () => {
    let setup = twoMachinesWithFaults();
    let findings = findingsOf(setup, TODAY);
    for (let step = 0; findings.length > 0; step++) {
      expect(step).toBeLessThan(20);
      const [remedy] = remediesFor(setup, findings[0], TODAY);
      expect(remedy).toBeDefined();
      const stops = findings.filter(({ severity }) => severity === 'stop').length;
      setup = parseSetup(applyEdit(setup, remedy.edit));
      findings = findingsOf(setup, TODAY);
      expect(findings.filter(({ severity }) => severity === 'stop').length).toBeLessThanOrEqual(stops);
    }
  });
});
