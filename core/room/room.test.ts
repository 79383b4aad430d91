import { describe, expect, test } from '@jest/globals';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { findingsOf } from '../findings/findings.ts';
import { applyEdit } from '../setup/edits.ts';
import { parseSetup } from '../setup/file.ts';
import { differencesOf, expectedSources, placed, putRight, RoomSchema, roomOf, withNewApp } from './room.ts';

const setup = {
  ...twoMachinesMadeRight(),
  sources: twoMachinesMadeRight().sources.map((one) =>
    one.into === undefined ? { ...one, into: 'default' } : one,
  ),
};

describe('the room', () => {
  test('is as the setup says at first', () => {
    const room = RoomSchema.parse(roomOf(setup));
    expect(differencesOf(setup, room)).toEqual([]);
    expect(expectedSources(setup, room)).toEqual([]);
  });

  test('an app that was reassigned, a volume and a default are told, and can be taken over', () => {
    const room = roomOf(setup);
    const changed = {
      apps: room.apps.map((app) =>
        app.id === 'reedbox' ? { ...app, into: 'loft.main', volumePercent: 40 } : app,
      ),
      defaults: { ...room.defaults, loft: 'loft.cable' },
    };
    const found = differencesOf(setup, changed);
    expect(found.map(({ kind }) => kind)).toEqual(['moved', 'volume', 'default']);
    expect(found[0].text).toBe('Reedbox plays into “Desktop”; the setup says “Records”.');
    expect(differencesOf(setup, putRight(setup, changed))).toEqual([]);
    const after = found.reduce((now, { edit }) => parseSetup(applyEdit(now, edit)), setup);
    expect(differencesOf(after, changed)).toEqual([]);
    expect(findingsOf(after, '2026-05-01').map(({ code }) => code)).toContain('player-volume');
  });

  test('an app that nobody named yet waits to be placed; one that has not sounded is expected', () => {
    const room = withNewApp(setup, roomOf(setup), 'Ropeway', 'boathouse');
    const [found] = differencesOf(setup, room);
    expect(found).toMatchObject({ kind: 'new', id: 'new:ropeway' });
    const after = parseSetup(applyEdit(setup, found.edit));
    expect(after.sources.at(-1)).toMatchObject({ id: 'ropeway', machine: 'boathouse', into: 'default' });
    const app = room.apps.at(-1);
    expect(app && placed(app, 'loft')).not.toHaveProperty('source.into');
    const quiet = { ...room, apps: room.apps.map((one) => ({ ...one, sounding: one.id !== 'bellbuoy' })) };
    expect(expectedSources(setup, quiet)).toEqual(['bellbuoy']);
  });
});
