import { describe, expect, test } from '@jest/globals';
import { powerOf } from '../measure/loudness.ts';
import { momentsOf, type SourceCourse, soundingBlocks } from './moments.ts';

/** Powers of 100 ms each, from pairs of a loudness (LUFS) and how long it lasts (blocks). */
const course = (...parts: [lufs: number, blocks: number][]) =>
  Float64Array.from(parts.flatMap(([lufs, blocks]) => Array(blocks).fill(powerOf(lufs))));
const share = (sounding: Uint8Array) => sounding.reduce((sum, one) => sum + one, 0) / sounding.length;

describe('when something sounds', () => {
  test('above −50 LUFS, with breaths bridged', () => {
    expect(share(soundingBlocks(course([-52, 100])))).toBe(0);
    expect(share(soundingBlocks(course([-48, 100])))).toBe(1);
    expect(share(soundingBlocks(course([-20, 40], [-90, 6], [-20, 40])))).toBe(1);
    expect(share(soundingBlocks(course([-20, 40], [-90, 40], [-20, 40])))).toBeLessThan(0.8);
  });

  test('a hum in the pauses of a voice is not the voice, however loud it is by itself', () => {
    const sounding = soundingBlocks(course([-44, 50], [-19, 50], [-44, 50], [-19, 50], [-44, 50]));
    expect(share(sounding)).toBeGreaterThan(0.38);
    expect(share(sounding)).toBeLessThan(0.46);
    expect([sounding[20], sounding[75], sounding[120], sounding[175]]).toEqual([0, 1, 0, 1]);
  });

  test('it does not matter how loud everything is', () => {
    const parts: [number, number][] = [
      [-18, 50],
      [-30, 30],
      [-60, 40],
      [-22, 50],
    ];
    const louder = parts.map(([lufs, blocks]): [number, number] => [lufs + 9, blocks]);
    expect(soundingBlocks(course(...louder))).toEqual(soundingBlocks(course(...parts)));
  });
});

describe('moments', () => {
  const source = (name: string, kind: SourceCourse['source']['kind'], powers: Float64Array) => ({
    source: { id: name.toLowerCase(), name, kind },
    powers,
  });

  test('an alert is named with who it comes over', () => {
    const moments = momentsOf([
      source('Narrator', 'microphone', course([-90, 100], [-20, 100], [-90, 100])),
      source('Bellbuoy', 'alerts', course([-90, 140], [-20, 20], [-90, 100], [-20, 20])),
    ]);
    expect(moments.map(({ text }) => text)).toEqual(['Bellbuoy over Narrator', 'Bellbuoy sounds']);
    expect(moments[0].fromS).toBeCloseTo(13.7, 0);
  });

  test('voices on top of each other, the most at once', () => {
    const moments = momentsOf([
      source('Narrator', 'microphone', course([-20, 100], [-90, 200])),
      source('Bosun', 'voice chat', course([-90, 60], [-20, 200], [-90, 40])),
      source('Wick', 'voice chat', course([-90, 280], [-20, 20])),
    ]);
    expect(moments.map(({ text }) => text)).toEqual(['Narrator and Bosun talk at once']);
    expect(moments[0].fromS).toBeGreaterThan(5);
    expect(moments[0].untilS).toBeLessThan(11);
  });
});
