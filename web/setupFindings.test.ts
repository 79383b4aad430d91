import { describe, expect, test } from '@jest/globals';
import { regattaWithFaults } from '../core/demo/setups.ts';
import { findingsByCell, knownFindings } from './setupFindings.ts';

describe('the findings of a setup on the screen', () => {
  test('are looked for once for one setup, and anew for another', () => {
    const setup = regattaWithFaults();
    expect(knownFindings(setup)).toBe(knownFindings(setup));
    expect(knownFindings({ ...setup })).not.toBe(knownFindings(setup));
    expect(knownFindings({ ...setup })).toEqual(knownFindings(setup));
  });

  test('are found by their cell; those of a source alone have none', () => {
    const findings = knownFindings(regattaWithFaults());
    const cells = findingsByCell(findings);
    expect(cells.get('reedbox vod')?.map(({ code }) => code)).toEqual(['leak.vod']);
    expect(cells.get('reedbox live')).toBeUndefined();
    expect([...cells.values()].flat()).toHaveLength(findings.length);
  });
});
