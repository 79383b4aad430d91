import { describe, expect, test } from '@jest/globals';
import { voiceOver } from '../demo/setups.ts';
import { ChangeConflict, changeBetween, replayChange, reverseChange } from './change.ts';
import { applyEdit, type Edit } from './edits.ts';

const base = voiceOver();
const changeBy = (edit: Edit) => changeBetween(base, applyEdit(base, edit));
const name = (id: string, text: string): Edit => ({ edit: 'updateSource', id, values: { name: text } });

describe('a change that is taken back after others', () => {
  test('leaves what others did to other things', () => {
    const mine = changeBy(name('game', 'Mine'));
    const both = applyEdit(applyEdit(base, name('game', 'Mine')), name('narrator', 'Theirs'));
    expect(replayChange(both, reverseChange(mine))).toEqual(applyEdit(base, name('narrator', 'Theirs')));
  });

  test('puts a removed thing back in its place, with all that went with it', () => {
    const removed = applyEdit(base, { edit: 'removeSource', id: 'game' });
    const later = applyEdit(removed, name('narrator', 'Theirs'));
    const back = replayChange(later, reverseChange(changeBetween(base, removed)));
    expect(back).toEqual(applyEdit(base, name('narrator', 'Theirs')));
  });

  test('is refused where the same thing was changed again since', () => {
    const mine = changeBy(name('game', 'Mine'));
    const again = applyEdit(applyEdit(base, name('game', 'Mine')), name('game', 'Theirs'));
    expect(() => replayChange(again, reverseChange(mine))).toThrow(ChangeConflict);
  });

  test('of an order is refused where the order is another by now', () => {
    const moved = applyEdit(base, { edit: 'moveSource', id: 'game', to: 0 });
    expect(replayChange(moved, reverseChange(changeBetween(base, moved)))).toEqual(base);
    const other = applyEdit(moved, { edit: 'moveSource', id: 'game', to: 2 });
    expect(() => replayChange(other, reverseChange(changeBetween(base, moved)))).toThrow(ChangeConflict);
  });
});
