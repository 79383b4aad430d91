import { describe, expect, test } from '@jest/globals';
import { regattaMadeRight, regattaWithFaults } from '../demo/setups.ts';
import { twoMachinesMadeRight, twoMachinesWithFaults } from '../demo/twoMachines.ts';
import { findingsOf } from '../findings/findings.ts';
import { applyEdit } from '../setup/edits.ts';
import { causesOf } from './causes.ts';

const TODAY = '2026-05-01';

describe('causes', () => {
  test('of two machines are about as many as faults were planted, not as many as findings', () => {
    const setup = twoMachinesWithFaults();
    const findings = findingsOf(setup, TODAY);
    const causes = causesOf(setup, TODAY);
    expect(findings.length).toBeGreaterThan(15);
    expect(causes.length).toBeLessThanOrEqual(9);
    expect(causes.flatMap(({ brings }) => brings.map(({ id }) => id)).sort()).toEqual(
      findings.map(({ id }) => id).sort(),
    );
    const echo = causes.find(({ finding }) => finding.code === 'echo.party');
    expect(echo?.brings.map(({ code, source }) => [code, source])).toEqual(
      expect.arrayContaining([
        ['echo.party', 'bosun'],
        ['echo.party', 'wick'],
        ['unwanted', 'pings'],
      ]),
    );
  });

  test('take everything that they bring along when they are mended', () => {
    for (const setup of [regattaWithFaults(), twoMachinesWithFaults()]) {
      for (const { brings, remedies } of causesOf(setup, TODAY)) {
        const [remedy] = remedies;
        const after = remedy ? findingsOf(applyEdit(setup, remedy.edit), TODAY).map(({ id }) => id) : [];
        for (const { id } of brings) expect(after).not.toContain(id);
      }
    }
  });

  test('one level that is wrong at its source is one cause', () => {
    const right = regattaMadeRight();
    const setup = applyEdit(right, { edit: 'updateSource', id: 'narrator', values: { levelDb: -30 } });
    expect(findingsOf(setup, TODAY).length).toBeGreaterThan(3);
    const causes = causesOf(setup, TODAY);
    expect(causes).toHaveLength(1);
    expect(causes[0].remedies[0]?.label).toBe('Set the level of Narrator to 0.0 dB, for all');
  });

  test('are none where nothing is wrong', () => {
    expect(causesOf(twoMachinesMadeRight(), TODAY)).toEqual([]);
  });
});
