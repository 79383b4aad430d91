import { expect, test } from '@jest/globals';
import { opusFrames, opusPreSkip, withoutPreSkip } from './opus.ts';

/** The first byte of a packet: its kind, one channel, and how many pieces it says that it has. */
const packet = (kind: number, code: number, count = 0) => Uint8Array.of((kind << 3) | code, count);

test.each([
  ['speech, 60 ms', packet(3, 0), 2880],
  ['speech, 10 ms twice', packet(8, 1), 960],
  ['mixed, 20 ms', packet(15, 0), 960],
  ['music, 2.5 ms', packet(16, 0), 120],
  ['music, 20 ms, six times, padded', packet(31, 3, 0b11_000110), 5760],
  ['nothing', new Uint8Array(0), 0],
])('%s', (_, data, frames) => {
  expect(opusFrames(data)).toBe(frames);
});

test('a head that asks for nothing to be left out keeps all else', () => {
  const head = Uint8Array.from({ length: 19 }, (_, at) => at + 1);
  expect(opusPreSkip(head)).toBe(11 + 12 * 256);
  const whole = withoutPreSkip(head);
  expect(opusPreSkip(whole)).toBe(0);
  expect(head.filter((byte, at) => whole[at] !== byte)).toHaveLength(2);
  expect(opusPreSkip(null)).toBe(0);
});
