import { expect, test } from '@jest/globals';
import { regattaMadeRight } from '../demo/setups.ts';
import { applyEdit } from '../setup/edits.ts';
import { readSetupFile, writeSetupFile } from '../setup/file.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { faderEdit, groupsAfter, linkedWith } from './linkedCells.ts';
import { reachOf } from './reach.ts';

const right = regattaMadeRight();
const linked = (setup: Setup, groups: string[][]) => applyEdit(setup, { edit: 'setLinkedFaders', groups });
const levels = (setup: Setup, source: string) => {
  const reach = reachOf(setup);
  return ['live', 'vod', 'headphones'].map((id) => reach.at(source, id)?.gainDb ?? null);
};

test('levels of linked destinations move by as many dB, one step of undo, and others stay', () => {
  const before = levels(right, 'narrator') as number[];
  const setup = linked(right, [['live', 'vod']]);
  const edit = faderEdit(setup, 'narrator', 'live', before[0] - 3);
  const after = levels(applyEdit(setup, edit), 'narrator') as number[];
  expect([after[0] - before[0], after[1] - before[1]]).toEqual([-3, -3]);
  expect(after[2]).toBe(before[2]);
  expect(edit.edit).toBe('batch');
  // What arrives at one of them alone moves there alone: the record is not cleared for the VOD.
  const records = applyEdit(setup, faderEdit(setup, 'reedbox', 'live', -20));
  expect(levels(records, 'reedbox').slice(0, 2)).toEqual([-20, null]);
});

test('wishes move along, so that nothing is off its wish', () => {
  const setup = linked(right, [['live', 'vod']]);
  const after = applyEdit(setup, faderEdit(setup, 'game', 'vod', -14));
  const wish = (id: string) =>
    after.intent.find((one) => one.source === 'game' && one.destination === id)?.gainDb;
  expect([wish('live'), wish('vod')]).toEqual([levels(after, 'game')[0], -14]);
});

test('a destination joins a group and leaves it; in two groups it is refused', () => {
  expect(groupsAfter(right, 'live', 'vod')).toEqual([['live', 'vod']]);
  const three = linked(right, groupsAfter(linked(right, [['live', 'vod']]), 'headphones', 'vod'));
  expect(three.linkedFaders).toEqual([['live', 'vod', 'headphones']]);
  expect(linkedWith(three, 'vod')).toEqual(['live', 'headphones']);
  expect(groupsAfter(three, 'vod', null)).toEqual([['live', 'headphones']]);
  expect(groupsAfter(linked(right, [['live', 'vod']]), 'vod', null)).toEqual([]);
  const circle = linked(right, [
    ['live', 'vod'],
    ['vod', 'headphones'],
  ]);
  expect(brokenRules(circle).map(({ rule }) => rule)).toEqual([
    '“VOD” is linked twice, so that its levels would move each other in a circle; keep it in one group',
  ]);
  expect(readSetupFile(writeSetupFile(three)).linkedFaders).toEqual(three.linkedFaders);
  const gone = applyEdit(three, { edit: 'removeDestination', id: 'headphones' });
  expect(gone.linkedFaders).toEqual([['live', 'vod']]);
});
