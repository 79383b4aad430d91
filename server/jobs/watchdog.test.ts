import { describe, expect, test } from '@jest/globals';
import { watchProgress } from './watchdog.ts';

const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

describe('a watchdog', () => {
  test('waits for the beginning, and barks once after the last progress', async () => {
    let stalls = 0;
    const dog = watchProgress(0.2, () => {
      stalls += 1;
    });
    await wait(400);
    expect(stalls).toBe(0);
    dog.progress();
    for (let i = 0; i < 8; i++) {
      await wait(60);
      dog.progress();
    }
    expect(stalls).toBe(0);
    await wait(600);
    expect(stalls).toBe(1);
    dog.end();
  });

  test('counts its own looks, so that time in which the process did not run is one of them', async () => {
    let stalls = 0;
    const dog = watchProgress(0.4, () => {
      stalls += 1;
    });
    dog.progress();
    const until = Date.now() + 700;
    while (Date.now() < until);
    await wait(50);
    expect(stalls).toBe(0);
    dog.end();
  });

  test('gives what was told to stop a limit that progress does not lengthen', async () => {
    let late = 0;
    const dog = watchProgress(10, () => {});
    dog.progress();
    dog.limit(0.2, () => {
      late += 1;
    });
    for (let i = 0; i < 10; i++) {
      await wait(50);
      dog.progress();
    }
    expect(late).toBe(1);
    dog.end();
  });
});
