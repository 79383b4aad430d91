import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { QueryClient, QueryObserver } from '@tanstack/react-query';
import { voiceOver } from '../../core/demo/setups.ts';
import { applyEdit, type Edit } from '../../core/setup/edits.ts';
import { ApiError } from './client.ts';
import { changeOf, EditQueue } from './editQueue.ts';
import type { StoredSetup } from './types.ts';
import type { Change, ChangeStore } from './unsaved.ts';

const KEY = ['setup', 'a'];
const naming = (name: string, id = 'game'): Edit => ({ edit: 'updateSource', id, values: { name } });
const away = () => new ApiError(0, 'offline', 'Northfen does not answer.');

/** A server that keeps a setup, and may be away, or changed by others. */
class FakeServer {
  stored: StoredSetup = { id: 'a', revision: 1, setup: voiceOver(), undo: null, redo: null };
  isAway = false;
  /** Carries the next change out, but its answer is lost on the way. */
  losesAnswer = false;
  readonly done: string[] = [];

  async send(change: Change, revision: number): Promise<StoredSetup> {
    if (this.isAway) throw away();
    if (this.done.includes(change.id)) return this.stored;
    if (revision !== this.stored.revision) throw new ApiError(409, 'stale', 'changed in another window');
    if (change.kind !== 'edit') throw new Error('only edits here');
    try {
      this.change(change.edit);
    } catch (error) {
      throw new ApiError(422, 'edit-refused', (error as Error).message);
    }
    this.done.push(change.id);
    if (this.losesAnswer) {
      this.losesAnswer = false;
      throw away();
    }
    return this.stored;
  }

  async fetch(): Promise<StoredSetup> {
    if (this.isAway) throw away();
    return this.stored;
  }

  change(edit: Edit): void {
    this.stored = {
      ...this.stored,
      revision: this.stored.revision + 1,
      setup: applyEdit(this.stored.setup, edit),
    };
  }

  nameOf(id: string): string | undefined {
    return this.stored.setup.sources.find((one) => one.id === id)?.name;
  }
}

class FakeStore implements ChangeStore {
  kept: Change[] = [];
  load = () => this.kept;
  save = (_id: string, changes: Change[]) => {
    this.kept = changes;
  };
}

let server: FakeServer;
let store: FakeStore;
let refused: string[];
const clients: QueryClient[] = [];
beforeEach(() => {
  server = new FakeServer();
  store = new FakeStore();
  refused = [];
});
afterEach(() => {
  for (const client of clients.splice(0)) client.clear();
});

/** Opens a window on the setup, as one that is reloaded does. */
function openWindow() {
  const client = new QueryClient();
  clients.push(client);
  const queue = new EditQueue(client, 'a', server, store, (message) => refused.push(message));
  client.setQueryData(KEY, queue.take(server.stored));
  const shown = (id = 'game') =>
    client.getQueryData<StoredSetup>(KEY)?.setup.sources.find((one) => one.id === id)?.name;
  const edit = (change: Edit) => queue.add(changeOf(server.stored.setup, change));
  return { client, queue, shown, edit };
}

const rest = (ms = 20) => new Promise((resolve) => setTimeout(resolve, ms));

describe('changes', () => {
  test('are shown at once and sent one after the other', async () => {
    const { queue, shown, edit } = openWindow();
    for (const name of ['One', 'Two', 'Three']) edit(naming(name));
    expect(shown()).toBe('Three');
    expect(queue.state).toMatchObject({ status: 'saving', count: 3 });
    await rest();
    expect(server.nameOf('game')).toBe('Three');
    expect(server.stored.revision).toBe(4);
    expect(queue.state).toEqual({ status: 'saved', count: 0, reason: null });
  });

  test('wait while the server is away, outlive a reload, and are sent when it is back', async () => {
    server.isAway = true;
    const first = openWindow();
    first.edit(naming('Kept'));
    first.edit(naming('Kept, too', 'narrator'));
    await rest();
    expect(first.queue.state).toMatchObject({
      status: 'waiting',
      count: 2,
      reason: 'Northfen does not answer.',
    });
    expect(server.nameOf('game')).toBe('Lock & Paddle');

    const reloaded = openWindow();
    expect([reloaded.shown(), reloaded.shown('narrator')]).toEqual(['Kept', 'Kept, too']);
    server.isAway = false;
    reloaded.queue.retry();
    await rest();
    expect([server.nameOf('game'), server.nameOf('narrator')]).toEqual(['Kept', 'Kept, too']);
    expect(store.kept).toEqual([]);
    expect(refused).toEqual([]);
  });

  test('are made once, though the answer was lost', async () => {
    server.losesAnswer = true;
    const { queue, edit } = openWindow();
    edit({ edit: 'addSource', source: { ...voiceOver().sources[0], name: 'New' } as never });
    await rest();
    queue.retry();
    await rest();
    expect(server.stored.setup.sources.filter(({ name }) => name === 'New')).toHaveLength(1);
    expect(queue.state.status).toBe('saved');
  });

  test('of two windows are both made, and nobody is told otherwise', async () => {
    const { shown, edit } = openWindow();
    server.change(naming('Of the other window', 'narrator'));
    edit(naming('Of this window'));
    await rest();
    expect([server.nameOf('game'), server.nameOf('narrator')]).toEqual([
      'Of this window',
      'Of the other window',
    ]);
    expect([shown(), shown('narrator')]).toEqual(['Of this window', 'Of the other window']);
    expect(refused).toEqual([]);
  });

  test('that no longer fit are told by their names, and the others are made', async () => {
    server.isAway = true;
    const { queue, shown, edit } = openWindow();
    edit(naming('Gone by now'));
    edit(naming('Still there', 'narrator'));
    await rest();
    server.change({ edit: 'removeSource', id: 'game' });
    server.isAway = false;
    queue.retry();
    await rest();
    expect(refused).toEqual([
      expect.stringMatching(/^“change Gone by now” was not made: .*no source "game" any more/),
    ]);
    expect(server.nameOf('narrator')).toBe('Still there');
    expect(shown()).toBeUndefined();
  });

  test('of another window are shown once those of this one have arrived', async () => {
    const { client, queue, shown, edit } = openWindow();
    const queryFn = async () => queue.take(server.stored);
    const close = new QueryObserver(client, {
      queryKey: KEY,
      queryFn,
      staleTime: Number.POSITIVE_INFINITY,
    }).subscribe(() => {});
    edit(naming('Of this window'));
    queue.announce(3);
    await rest();
    expect(shown('narrator')).toBe('Narrator');
    server.change(naming('Of the other window', 'narrator'));
    queue.announce(3);
    await rest();
    expect([shown(), shown('narrator')]).toEqual(['Of this window', 'Of the other window']);
    close();
  });
});
