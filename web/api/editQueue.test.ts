import { afterEach, expect, test } from '@jest/globals';
import { QueryClient, QueryObserver } from '@tanstack/react-query';
import { blankSetup } from '../../core/setup/blank.ts';
import { EditQueue } from './editQueue.ts';
import type { StoredSetup } from './types.ts';

const KEY = ['setup', 'a'];
const at = (revision: number, name = `at ${revision}`): StoredSetup => ({
  id: 'a',
  revision,
  setup: blankSetup(name),
  undo: null,
  redo: null,
});

const opened: (() => void)[] = [];
afterEach(() => {
  for (const close of opened.splice(0)) close();
});

/** A window that shows the setup, and the server's copy of it, which others may change. */
async function openWindow() {
  const client = new QueryClient();
  const server = { stored: at(1) };
  const queue = new EditQueue(client, 'a');
  const queryFn = async () => server.stored;
  await client.fetchQuery({ queryKey: KEY, queryFn });
  opened.push(
    new QueryObserver(client, { queryKey: KEY, queryFn, staleTime: Number.POSITIVE_INFINITY }).subscribe(
      () => {},
    ),
    () => client.clear(),
  );
  const shown = () => client.getQueryData<StoredSetup>(KEY)?.setup.name;
  return { client, queue, server, shown };
}

/** Lets everything that is ready happen. */
const rest = () => new Promise((resolve) => setTimeout(resolve, 20));

test('what another window changes while a change is on its way is shown once that has arrived', async () => {
  const { queue, server, shown } = await openWindow();
  let answer = (_stored: StoredSetup): void => {};
  queue.add(
    () => new Promise((resolve) => (answer = resolve)),
    () => {},
  );
  await rest();
  server.stored = at(3, 'of the other window');
  queue.announce(2);
  queue.announce(3);
  await rest();
  expect(shown()).toBe('at 1');
  answer(at(2));
  await rest();
  expect(shown()).toBe('of the other window');
});

test('a revision that is known already is not fetched again', async () => {
  const { queue, server, shown } = await openWindow();
  queue.add(
    async () => at(2),
    () => {},
  );
  await rest();
  server.stored = at(2, 'fetched');
  queue.announce(2);
  await rest();
  expect(shown()).toBe('at 2');
});

test('changes go one after the other, each on the revision that the one before led to', async () => {
  const { queue, shown } = await openWindow();
  const revisions: number[] = [];
  for (let change = 0; change < 3; change++)
    queue.add(
      async (revision) => {
        revisions.push(revision);
        return at(revision + 1);
      },
      () => {},
    );
  expect(queue.isAhead).toBe(true);
  await rest();
  expect(revisions).toEqual([1, 2, 3]);
  expect([queue.busy, shown()]).toEqual([false, 'at 4']);
});

test('a change that is refused is told, and the server’s state is shown, for the next to be made on', async () => {
  const { queue, server, shown } = await openWindow();
  const told: unknown[] = [];
  const revisions: number[] = [];
  server.stored = at(5, 'of the other window');
  queue.add(
    async () => {
      throw new Error('stale');
    },
    (error) => told.push(error),
  );
  queue.add(
    async (revision) => {
      revisions.push(revision);
      return at(revision + 1);
    },
    (error) => told.push(error),
  );
  await rest();
  expect(told).toEqual([new Error('stale')]);
  expect(revisions).toEqual([5]);
  expect(shown()).toBe('at 6');
});
