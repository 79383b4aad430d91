import { describe, expect, test } from '@jest/globals';
import {
  formatBytes,
  formatClock,
  formatDb,
  formatLevel,
  formatTime,
  parseFigure,
  parseTime,
} from './format.ts';

describe('figures', () => {
  test.each<[number, string]>([
    [-12, '−12.0'],
    [3.04, '+3.0'],
    [0, '0.0'],
    [-0.04, '0.0'],
  ])('a gain of %f is said as %s', (gainDb, text) => {
    expect(formatDb(gainDb)).toBe(text);
  });

  test('silence is a dash, not −Infinity', () => {
    expect(formatLevel(null, 'LUFS')).toBe('–');
    expect(formatLevel(-23.04, 'LUFS')).toBe('−23.0 LUFS');
  });

  test.each<[string, number | null]>([
    ['-6', -6],
    ['−6,5', -6.5],
    [' 3 ', 3],
    ['', null],
    ['loud', null],
    ['-', null],
  ])('what is typed as “%s” is read as %s', (text, gainDb) => {
    expect(parseFigure(text)).toBe(gainDb);
  });

  test('times and sizes', () => {
    expect([formatClock(0), formatClock(65.4), formatClock(600)]).toEqual(['0:00', '1:05', '10:00']);
    expect([formatBytes(10), formatBytes(155_756_150)]).toEqual(['1 kB', '155.8 MB']);
  });
});

describe('times', () => {
  test.each([
    ['65', 65],
    ['1:05', 65],
    ['2:01:05.5', 7265.5],
    ['0:00,25', 0.25],
    ['', null],
    ['1:', null],
    ['-3', null],
    ['1:2:3:4', null],
    ['noon', null],
  ])('%j is read as %j', (text, seconds) => {
    expect(parseTime(text)).toBe(seconds);
  });

  test.each([0, 65, 65.25, 3599.99, 7265.5])('%d s is read back as it is written', (seconds) => {
    expect(parseTime(formatTime(seconds))).toBeCloseTo(seconds, 6);
  });
});
