import { describe, expect, test } from '@jest/globals';
import { formatBytes, formatClock, formatDb, formatLevel, parseFigure } from './format.ts';

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
