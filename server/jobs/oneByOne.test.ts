import { setTimeout as wait } from 'node:timers/promises';
import { describe, expect, test } from '@jest/globals';
import { CLOSING, OneByOne } from './oneByOne.ts';

/** A line of names; each is worked on until it is told to end. */
function line(names: string[], isNoted = true) {
  const waiting = names.map((id) => ({ id }));
  const ends: [id: string, reason: unknown][] = [];
  const one = new OneByOne(
    () => waiting[0],
    async ({ id }, signal) => {
      if (isNoted) waiting.shift();
      if (!signal.aborted && isNoted)
        await new Promise((resolve) => signal.addEventListener('abort', resolve));
      ends.push([id, signal.reason]);
    },
  );
  return { one, ends, waiting };
}

describe('one thing after the other', () => {
  test('goes on with the next when one has ended, and only what is worked on is stopped', async () => {
    const { one, ends } = line(['first', 'second']);
    one.next();
    one.next();
    await one.stop('second');
    expect(ends).toEqual([]);
    await one.stop('first');
    expect(ends.map(([id]) => id)).toEqual(['first']);
    await one.stop('second');
    expect(ends.map(([id]) => id)).toEqual(['first', 'second']);
  });

  test('ends with the server, and begins nothing after', async () => {
    const { one, ends, waiting } = line(['first', 'second']);
    one.next();
    await one.close();
    one.next();
    expect(ends).toEqual([['first', CLOSING]]);
    expect(waiting).toEqual([{ id: 'second' }]);
  });

  test('what cannot be noted down is not tried for ever', async () => {
    const { one, ends } = line(['first'], false);
    one.next();
    await wait(20);
    expect(ends).toHaveLength(1);
  });
});
