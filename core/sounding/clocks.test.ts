import { expect, test } from '@jest/globals';
import { type CodedSource, readSounding } from './read.ts';
import { type Played, recorded, THREE } from './testing.ts';

test('tells levels and clocks where sources run on clocks of their own', async () => {
  const played: Played[] = [
    { source: 0, track: 0, gainDb: -3, delayFrames: 0, how: 'both sides' },
    { source: 1, track: 0, gainDb: -6, delayFrames: 0, driftPpm: 60, how: 'both sides' },
    { source: 1, track: 1, gainDb: -40, delayFrames: 480, driftPpm: 60, how: 'both sides' },
    { source: 1, track: 2, gainDb: 0, delayFrames: 0, driftPpm: 60, how: 'both sides' },
    { source: 2, track: 1, gainDb: -10, delayFrames: 0, driftPpm: -3, how: 'swapped' },
  ];
  const { cells, heard } = await readSounding(recorded(THREE, played, [9000, 40_001, 70_003], 3, 33), THREE);
  expect(cells.map(({ source, track, channels, copies }) => [source, track, channels, copies])).toEqual([
    ['voice', 0, 'both sides', 1],
    ['game', 0, 'both sides', 1],
    ['game', 1, 'both sides', 1],
    ['game', 2, 'both sides', 1],
    ['records', 1, 'swapped', 1],
  ]);
  [-3, -6, -40, 0, -10].forEach((gainDb, at) => {
    expect(Math.abs(cells[at].gainDb - gainDb)).toBeLessThan(0.5);
  });
  expect(Math.abs(cells[2].delayMs - 10)).toBeLessThan(0.1);
  expect(heard[0].driftPpm).toBe(0);
  expect(Math.abs(heard[1].driftPpm - 60)).toBeLessThan(0.3);
  expect(Math.abs(heard[2].driftPpm + 3)).toBeLessThan(0.3);
}, 120_000);

test('tells the clocks of quiet sources under a loud one of another clock, and takes no side lobe for a clock', async () => {
  const played: Played[] = [
    { source: 0, track: 0, gainDb: -34, delayFrames: 0, driftPpm: 60, how: 'both sides' },
    { source: 1, track: 0, gainDb: -3, delayFrames: 0, driftPpm: -20, how: 'both sides' },
    { source: 2, track: 0, gainDb: -40, delayFrames: 96, driftPpm: 60, how: 'both sides' },
  ];
  const { cells, heard, unheard } = await readSounding(
    recorded(THREE, played, [150_000, 3, 310_001], 1, 38),
    [...THREE, { id: 'alerts', sides: 'stereo' }],
  );
  expect(unheard).toEqual(['alerts']);
  expect(cells.map(({ source, copies, channels }) => [source, copies, channels])).toEqual([
    ['voice', 1, 'both sides'],
    ['game', 1, 'both sides'],
    ['records', 1, 'both sides'],
  ]);
  [-34, -3, -40].forEach((gainDb, at) => {
    expect(Math.abs(cells[at].gainDb - gainDb)).toBeLessThan(0.5);
  });
  [60, -20, 60].forEach((ppm, at) => {
    expect(Math.abs(heard[at].driftPpm - ppm)).toBeLessThan(0.5);
  });
}, 120_000);

test('a quiet source keeps the clock that was read of it while louder ones are read again', async () => {
  const sources: CodedSource[] = [
    { id: 'boat', sides: 'stereo' },
    { id: 'lock', sides: 'stereo' },
    { id: 'bells', sides: 'stereo' },
    { id: 'voice', sides: 'mono' },
    { id: 'records', sides: 'stereo' },
  ];
  const way = (source: number, gainDb: number, driftPpm = 0): Played => ({
    ...{ source, track: 0, gainDb, driftPpm, delayFrames: 0, how: 'both sides' },
  });
  const ppm = -30;
  const played = [way(0, -2.8), way(1, -12.8), way(2, -16.4), way(3, -24, ppm), way(4, -37.2, ppm)];
  const starts = [4000, 190_000, 77_777, 250_001, 120_000];
  const { cells, heard } = await readSounding(recorded(sources, played, starts, 1, 37), sources);
  expect(cells.map(({ source, gainDb }) => [source, Math.round(gainDb)])).toEqual(
    played.map(({ source, gainDb }) => [sources[source].id, Math.round(gainDb)]),
  );
  for (const { driftPpm } of heard.slice(3)) expect(Math.abs(driftPpm - ppm)).toBeLessThan(0.5);
}, 60_000);
