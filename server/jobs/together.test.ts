import { describe, expect, test } from '@jest/globals';
import { allOrNone, someAtATime } from './together.ts';

/** Ends when it is cancelled, as tasks do. */
const untilCancelled = (signal: AbortSignal) =>
  new Promise<string>((_, reject) =>
    signal.addEventListener('abort', () => reject(new Error('cancelled')), { once: true }),
  );
const failing = async () => {
  throw new Error('the file is damaged');
};

describe('tasks side by side', () => {
  test('say why the first of them failed, not that the others were cancelled for it', async () => {
    await expect(allOrNone([untilCancelled, failing])).rejects.toThrow('damaged');
    await expect(someAtATime([untilCancelled, failing, failing], undefined)).rejects.toThrow('damaged');
  });

  test('some at a time: all are done, and their results come in order', async () => {
    let running = 0;
    let most = 0;
    const shares: number[] = [];
    const tasks = Array.from({ length: 11 }, (_, index) => async () => {
      running += 1;
      most = Math.max(most, running);
      await new Promise((resolve) => setTimeout(resolve, 11 - index));
      running -= 1;
      return index;
    });
    const results = await someAtATime(tasks, undefined, (share) => shares.push(share));
    expect(results).toEqual(Array.from({ length: 11 }, (_, index) => index));
    expect(most).toBeLessThanOrEqual(4);
    expect(shares.at(-1)).toBe(1);
  });
});
