import { describe, expect, test } from '@jest/globals';
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

describe('a microphone with a clock of its own that hears the loudspeakers', () => {
  const way = (source: number, track: number, gainDb: number, driftPpm = 0, delayFrames = 0): Played => ({
    ...{ source, track, gainDb, driftPpm, delayFrames },
    how: 'both sides',
  });
  const read = async (played: Played[]) => {
    const { cells } = await readSounding(recorded(THREE, played, [9000, 240_001, 70_003], 3, 36), THREE);
    return cells.map(({ source, track, copies, gainDb }) => [source, track, copies, Math.round(gainDb)]);
  };
  const game = [way(1, 1, -6), way(2, 1, -10)];

  test.each([5, -60])('is read beside what comes without the air (%d ppm)', async (ppm) => {
    expect(await read([way(0, 0, -6, ppm), way(1, 0, -35, ppm, 480), ...game])).toEqual([
      ['voice', 0, 1, -6],
      ['game', 0, 1, -35],
      ['game', 1, 1, -6],
      ['records', 1, 1, -10],
    ]);
    // The loudspeakers alone, which is clearer there than what comes without the air among others.
    expect(await read([way(1, 0, -35, ppm, 480), ...game])).toEqual([
      ['game', 0, 1, -35],
      ['game', 1, 1, -6],
      ['records', 1, 1, -10],
    ]);
  });

  test('is told apart in a mix that both are in, with how much later it comes', async () => {
    const ppm = 40;
    const mix = [way(0, 0, -6, ppm), way(0, 2, -6, ppm), way(1, 2, -6), way(1, 2, -30, ppm, 480)];
    const { cells, heard } = await readSounding(recorded(THREE, mix, [9000, 240_001, 0], 3, 36), THREE);
    expect(cells.map(({ source, track, copies }) => [source, track, copies])).toEqual([
      ['voice', 0, 1],
      ['voice', 2, 1],
      ['game', 2, 2],
    ]);
    expect(Math.abs(cells[2].gainDb + 6)).toBeLessThan(0.2);
    expect(cells[2].delayMs).toBeCloseTo(0, 1);
    expect(heard.map(({ driftPpm }) => Math.round(driftPpm))).toEqual([ppm, 0]);
    const alone = [way(1, 2, -6), way(1, 1, -30, ppm, 480), way(0, 1, -6, ppm)];
    const { cells: far } = await readSounding(recorded(THREE, alone, [9000, 240_001, 0], 3, 36), THREE);
    const late = far.find(({ source, track }) => source === 'game' && track === 1)?.delayMs ?? 0;
    expect(Math.abs(late - 10)).toBeLessThan(0.1);
  });
});
