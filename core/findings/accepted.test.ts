import { describe, expect, test } from '@jest/globals';
import { regattaWithFaults } from '../demo/setups.ts';
import { causesOf } from '../repair/causes.ts';
import { mend } from '../repair/mend.ts';
import { applyEdit } from '../setup/edits.ts';
import { parseSetup, writeSetupFile } from '../setup/file.ts';
import { openFindings, partedByMeaning } from './accepted.ts';
import { findingsOf } from './findings.ts';

const TODAY = '2026-05-01';
const faulty = regattaWithFaults();
const leak = findingsOf(faulty, TODAY).filter(({ code }) => code === 'leak.vod')[0];
const accepted = applyEdit(faulty, {
  edit: 'acceptFinding',
  finding: leak.id,
  facts: leak.message,
  note: 'the record is mine',
});

describe('a finding that is meant', () => {
  test('leaves the count, the causes and mending, and stands in a list with its note', () => {
    const { open, meant } = partedByMeaning(accepted, findingsOf(accepted, TODAY));
    expect(open.map(({ id }) => id)).not.toContain(leak.id);
    expect(meant).toMatchObject([{ finding: { id: leak.id }, note: 'the record is mine' }]);
    expect(causesOf(accepted, TODAY).map(({ finding }) => finding.id)).not.toContain(leak.id);
    const { setup, stopStands } = mend(accepted, TODAY);
    expect(setup.sends).toContainEqual({ pickup: 'reedbox.pickup', to: 'vod-mix', gainDb: -16 });
    expect(stopStands).toBe(false);
  });

  test('comes back when it says something else, and when it is counted again', () => {
    const louder = applyEdit(accepted, {
      edit: 'setSend',
      pickup: 'reedbox.pickup',
      to: 'vod-mix',
      gainDb: -3,
    });
    expect(openFindings(louder, findingsOf(louder, TODAY)).map(({ id }) => id)).toContain(leak.id);
    const back = applyEdit(accepted, { edit: 'acceptFinding', finding: leak.id, facts: null });
    expect(openFindings(back, findingsOf(back, TODAY)).map(({ id }) => id)).toContain(leak.id);
  });

  test('is written in the setup file', () => {
    const read = parseSetup(JSON.parse(writeSetupFile(accepted)));
    expect(read.accepted).toEqual([{ finding: leak.id, facts: leak.message, note: 'the record is mine' }]);
  });
});
