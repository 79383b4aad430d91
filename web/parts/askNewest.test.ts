import { describe, expect, test } from '@jest/globals';
import { type Asked, AskNewest } from './askNewest.ts';

class StandIn implements Asked {
  onmessage: Asked['onmessage'] = null;
  onerror: Asked['onerror'] = null;
  asked: string[] = [];
  isEnded = false;
  postMessage(question: string) {
    this.asked.push(question);
  }
  terminate() {
    this.isEnded = true;
  }
  answer(data: string) {
    this.onmessage?.call(this as unknown as Worker, { data } as MessageEvent);
  }
  fail() {
    this.onerror?.call(this as unknown as Worker, {} as ErrorEvent);
  }
}

function setUp() {
  const made: StandIn[] = [];
  const told: string[] = [];
  const asking = new AskNewest<string, string>(
    () => {
      const one = new StandIn();
      made.push(one);
      return one;
    },
    (question, answer) => told.push(`${question}: ${answer}`),
    (question) => told.push(`${question} failed`),
  );
  return { made, told, asking };
}

describe('asking a worker', () => {
  test('only the newest question waits while it is busy', () => {
    const { made, told, asking } = setUp();
    for (const one of ['a', 'b', 'c']) asking.ask(one);
    expect(made[0].asked).toEqual(['a']);
    made[0].answer('1');
    expect(made[0].asked).toEqual(['a', 'c']);
    made[0].answer('3');
    expect(told).toEqual(['a: 1', 'c: 3']);
    asking.ask('d');
    expect(made[0].asked).toEqual(['a', 'c', 'd']);
  });

  test('a worker that fails is made anew, its question is told, and the next is asked', () => {
    const { made, told, asking } = setUp();
    asking.ask('a');
    asking.ask('b');
    made[0].fail();
    expect(told).toEqual(['a failed']);
    expect(made[0].isEnded).toBe(true);
    expect(made[1].asked).toEqual(['b']);
    made[1].answer('2');
    expect(told).toEqual(['a failed', 'b: 2']);
    asking.end();
    expect(made[1].isEnded).toBe(true);
  });
});
