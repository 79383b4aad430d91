import { expect, test } from '@jest/globals';
import { fileName } from './fileName.ts';

test.each([
  ['Regatta evening', 'Regatta evening'],
  ['Lock & Paddle, the evening / live?', 'Lock & Paddle, the evening - live'],
  ['con', 'con-'],
  ['NUL', 'NUL-'],
  ['a name.', 'a name'],
  ['  . . ', 'northfen'],
  ['line\nbreak <b>', 'line-break -b'],
  ['Überfahrt 夜', 'Überfahrt 夜'],
])('%j is called %j on disk', (name, expected) => {
  expect(fileName(name)).toBe(expected);
});

test('a name is not too long, and has no device’s name', () => {
  expect(fileName('x'.repeat(300)).length).toBeLessThanOrEqual(80);
  for (const name of ['aux', 'PRN', 'com1', 'Lpt9'])
    expect(fileName(name).toLowerCase()).not.toBe(name.toLowerCase());
});
