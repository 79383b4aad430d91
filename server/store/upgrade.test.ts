import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { regattaMadeRight, regattaWithFaults } from '../../core/demo/setups.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { testFolder } from '../testing.ts';
import { type Db, openDatabase } from './database.ts';
import { RoomStore } from './rooms.ts';
import { SetupStore } from './setups.ts';

const folder = testFolder();
let db: Db;
beforeAll(() => {
  db = openDatabase(folder.path);
});
afterAll(() => {
  db.close();
  folder.remove();
});

/** A setup as the first version wrote it: no wiring, and every pickup with its source. */
function firstVersion(setup: Setup): object {
  const { machines: _m, devices: _d, links: _l, mixes: _x, scenes: _s, ...rest } = setup;
  return { ...rest, version: 1, pickups: oldPickups(setup) };
}

function oldPickups(setup: Setup): object[] {
  return setup.pickups.map(({ takes, ...pickup }) => ({ ...pickup, source: takes }));
}

/** Puts a setup and one edit of it into the database, as the first version left them. */
function storeOld(id: string, before: Setup, after: Setup): void {
  const now = new Date().toISOString();
  db.prepare(
    'INSERT INTO setups (id, name, revision, document, created_at, updated_at) VALUES (?, ?, 2, ?, ?, ?)',
  ).run(id, after.name, JSON.stringify(firstVersion(after)), now, now);
  const change = {
    sources: { before: before.sources, after: after.sources },
    pickups: { before: oldPickups(before), after: oldPickups(after) },
    sends: { before: before.sends, after: after.sends },
    intent: { before: before.intent, after: after.intent },
  };
  db.prepare('INSERT INTO edits (setup_id, label, change, created_at) VALUES (?, ?, ?, ?)').run(
    id,
    'remove Minnow',
    JSON.stringify(change),
    now,
  );
}

function without(setup: Setup, source: string): Setup {
  return {
    ...setup,
    sources: setup.sources.filter(({ id }) => id !== source),
    pickups: setup.pickups.filter(({ takes }) => takes !== source),
    sends: setup.sends.filter(({ pickup }) => pickup !== `${source}.pickup`),
    intent: setup.intent.filter((wish) => wish.source !== source),
  };
}

describe('a data folder of the first version', () => {
  const right = regattaMadeRight();

  test('opens with its setups brought to the newest version', () => {
    storeOld('old', right, without(right, 'minnow'));
    expect(new SetupStore(db).get('old').setup).toEqual(without(right, 'minnow'));
  });

  test('keeps its history: what was done before is undone and done again', () => {
    const store = new SetupStore(db);
    const undone = store.undo('old', 2);
    expect(undone.setup).toEqual(right);
    expect(undone.redo).toBe('remove Minnow');
    expect(store.redo('old', 3).setup).toEqual(without(right, 'minnow'));
  });

  test('is edited further, and undone over the change of version', () => {
    const store = new SetupStore(db);
    const { revision } = store.get('old');
    const edited = store.edit('old', revision, {
      edit: 'addMachine',
      machine: { name: 'Boathouse', kind: 'computer' },
    });
    expect(edited.setup.machines).toHaveLength(1);
    const back = store.undo('old', edited.revision);
    expect(store.undo('old', back.revision).setup).toEqual(right);
  });
});

describe('the rooms', () => {
  test('are kept for each setup, and go with it', () => {
    const setups = new SetupStore(db);
    const rooms = new RoomStore(db);
    const { id } = setups.create(regattaWithFaults());
    expect(rooms.get(id)).toBeNull();
    rooms.set(id, { apps: [], defaults: { loft: 'loft.main' } });
    rooms.set(id, { apps: [], defaults: { loft: 'loft.cable' } });
    expect(rooms.get(id)).toEqual({ apps: [], defaults: { loft: 'loft.cable' } });
    setups.remove(id);
    expect(rooms.get(id)).toBeNull();
  });
});
