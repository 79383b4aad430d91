import { describe, expect, test } from '@jest/globals';
import { fromDb } from '../audio/decibel.ts';
import { seededRandom } from '../audio/random.ts';
import { codedSound, codeOf, PERIOD_FRAMES } from './code.ts';
import { readSounding } from './read.ts';
import { type Played, RATE, recorded, THREE } from './testing.ts';

describe('the codes', () => {
  test('are alike in one point with themselves, and nearly nowhere with others', () => {
    const likeness = (a: Float32Array, b: Float32Array, lag: number) => {
      let sum = 0;
      for (let i = 0; i < PERIOD_FRAMES; i++) sum += a[i] * b[(i + lag) % PERIOD_FRAMES];
      return sum;
    };
    const [a, b] = [codeOf('a'), codeOf('b')];
    const whole = likeness(a, a, 0);
    for (const lag of [96, 480, 1200, 12_000, 31_337, 90_000]) {
      expect(Math.abs(likeness(a, a, lag)) / whole).toBeLessThan(0.15);
      expect(Math.abs(likeness(a, b, lag)) / whole).toBeLessThan(0.15);
    }
    expect(codeOf('a')).toEqual(a);
    expect(a.every((value) => Math.abs(value) <= 1 / 16)).toBe(true);
  });
});

describe('reading a recording of codes', () => {
  test('tells that a side is inverted, and how loud it is all the same', async () => {
    const played: Played[] = [
      { source: 0, track: 0, gainDb: -3, delayFrames: 0, how: 'right inverted' },
      { source: 1, track: 0, gainDb: -12, delayFrames: 100, how: 'right inverted' },
      { source: 2, track: 0, gainDb: -20, delayFrames: 480, how: 'both sides' },
      { source: 2, track: 1, gainDb: -6, delayFrames: 0, how: 'difference' },
    ];
    const { cells } = await readSounding(recorded(THREE, played, [100_000, 7, 260_001], 2, 36), THREE);
    expect(
      cells.map(({ source, track, channels, copies, polarity, gainDb }) => [
        source,
        track,
        channels,
        copies,
        polarity,
        Math.round(gainDb * 2) / 2,
      ]),
    ).toEqual([
      ['voice', 0, 'one side inverted', 1, 1, -3],
      ['game', 0, 'one side inverted', 1, 1, -12],
      ['records', 0, 'both sides', 1, 1, -20],
      ['records', 1, 'one side inverted', 1, 1, -6],
    ]);
  });

  test('tells that a side is inverted also where both were folded into one channel', async () => {
    const played: Played[] = [{ source: 1, track: 0, gainDb: -6, delayFrames: 0, how: 'difference' }];
    const [{ channels }] = recorded(THREE, played, [0, 5000, 0], 1, 34);
    const { cells } = await readSounding([{ channels: [channels[0]], isLossy: false }], THREE);
    expect(cells.map((cell) => [cell.source, cell.channels, Math.round(cell.gainDb)])).toEqual([
      ['game', 'one side inverted', -6],
    ]);
  });

  test('tells gain, delay and sides of each, down to −60 dB, whenever each was started', async () => {
    const played: Played[] = [
      { source: 0, track: 0, gainDb: 0, delayFrames: 0, how: 'both sides' },
      { source: 1, track: 0, gainDb: -60, delayFrames: 0, how: 'both sides' },
      { source: 1, track: 1, gainDb: -6, delayFrames: 96, how: 'swapped' },
      { source: 2, track: 0, gainDb: -20, delayFrames: 480, how: 'folded to mono' },
      { source: 2, track: 1, gainDb: -33, delayFrames: 0, how: 'left only' },
    ];
    const { cells, heard, unheard } = await readSounding(
      recorded(THREE, played, [100_000, 7, 260_001], 3, 36),
      [...THREE, { id: 'alerts', sides: 'stereo' }],
    );
    expect(unheard).toEqual(['alerts']);
    expect(cells.map(({ source, track, channels, copies }) => [source, track, channels, copies])).toEqual([
      ['voice', 0, 'both sides', 1],
      ['game', 0, 'both sides', 1],
      ['game', 1, 'swapped', 1],
      ['records', 0, 'folded to mono', 1],
      ['records', 1, 'left only', 1],
    ]);
    expect(cells.map(({ gainDb }) => Math.round(gainDb * 2) / 2)).toEqual([0, -60, -6, -20, -33]);
    const delays = cells.map(({ delayMs }) => delayMs);
    [0, 0, 2, 10, 0].forEach((ms, at) => {
      expect(Math.abs(delays[at] - ms)).toBeLessThan(0.05);
    });
    expect(heard.find(({ source }) => source === 'records')?.fromS).toBeCloseTo(260_001 / RATE, 1);
  });

  test('tells polarity, and two copies 3 ms apart', async () => {
    const copies = recorded(
      THREE,
      [
        { source: 1, track: 0, gainDb: -3, delayFrames: 0, how: 'both sides' },
        { source: 1, track: 0, gainDb: -9, delayFrames: 144, how: 'both sides' },
        { source: 2, track: 1, gainDb: -3, delayFrames: 0, how: 'both sides' },
      ],
      [0, 5000, 40_000],
      2,
      33,
    );
    for (const plane of copies[1].channels) for (let i = 0; i < plane.length; i++) plane[i] = -plane[i];
    const { cells } = await readSounding(copies, THREE);
    expect(cells.map(({ source, copies, polarity }) => [source, copies, polarity])).toEqual([
      ['game', 2, 1],
      ['records', 1, -1],
    ]);
    expect(cells[0].gainDb).toBeCloseTo(10 * Math.log10(10 ** -0.3 + 10 ** -0.9), 0);
  });

  test.each([
    [48, 0],
    [48, -0.5],
    [144, 0],
    [150, -0.5],
    [600, 0],
  ])('two copies %d frames apart and %d dB quieter are two, however alike they are', async (frames, db) => {
    const both = (source: number, gainDb: number, delayFrames: number): Played => ({
      ...{ source, track: 0, gainDb, delayFrames },
      how: 'both sides',
    });
    const played = [both(1, -6, 100), both(1, -6 + db, 100 + frames), both(2, -12, 0)];
    const { cells } = await readSounding(recorded(THREE, played, [0, 5000, 40_000], 1, 34), THREE);
    expect(cells.map(({ source, copies, channels }) => [source, copies, channels])).toEqual([
      ['game', 2, 'both sides'],
      ['records', 1, 'both sides'],
    ]);
    const together = 10 * Math.log10(fromDb(-6) ** 2 + fromDb(-6 + db) ** 2);
    expect(Math.abs(cells[0].gainDb - together)).toBeLessThan(0.3);
    expect(Math.abs(cells[1].gainDb + 12)).toBeLessThan(0.3);
  });

  test('a source that was stopped, played again, or turned down meanwhile is read as one, and hides nothing', async () => {
    const [left, right] = codedSound('game', 'stereo');
    const both = (source: number, gainDb: number): Played => ({
      ...{ source, track: 0, gainDb, delayFrames: 0 },
      how: 'both sides',
    });
    const add = (planes: Float32Array[], at: number, level: (frame: number) => number) => {
      for (const [side, plane] of planes.entries())
        for (let i = 0; i < left.length && at + i < plane.length; i++)
          plane[at + i] += level(i) * [left, right][side][i];
    };
    const firstFor = (seconds: number) => (frame: number) => (frame < seconds * RATE ? fromDb(-6) : 0);
    const read = async (levels: [at: number, level: (frame: number) => number][]) => {
      const [one] = recorded(THREE, [both(2, -14)], [0, 5000, 70_000], 1, 75);
      for (const [at, level] of levels) add(one.channels, at * RATE, level);
      const { cells } = await readSounding([one], THREE);
      expect(cells.map(({ source, copies, polarity }) => [source, copies, polarity])).toEqual([
        ['game', 1, 1],
        ['records', 1, 1],
      ]);
      expect(Math.abs(cells[1].gainDb + 14)).toBeLessThan(0.3);
      return cells[0].gainDb;
    };
    const again = [2, firstFor(30)] as const;
    expect(await read([[...again], [42.016, firstFor(30)]])).toBeCloseTo(-6, 1);
    expect(await read([[2, firstFor(10)]])).toBeCloseTo(-6, 1);
    const fading = await read([[2, (frame) => fromDb((-12 * frame) / left.length)]]);
    expect(fading).toBeLessThan(0);
    expect(fading).toBeGreaterThan(-12);
  }, 60_000);

  test('what a room sends back to a microphone is no copy; a second way is, and other sounds are read as they are', async () => {
    const random = seededRandom(3);
    const way = (gainDb: number, delayFrames: number): Played => ({
      ...{ source: 0, track: 0, gainDb, delayFrames },
      how: 'both sides',
    });
    // A desk after 0.8 ms, and 300 reflections within a quarter of a second.
    const room = (gainDb: number, late: number): Played[] => [
      way(gainDb, late),
      way(gainDb - 5, late + 38),
      ...Array.from({ length: 300 }, () => {
        const after = 150 + Math.floor(12_000 * random());
        return way(gainDb - 28 - after / 1500 - 6 * random(), late + after);
      }),
    ];
    const game: Played = { source: 1, track: 0, gainDb: -20, delayFrames: 0, how: 'both sides' };
    for (const [ways, copies] of [
      [room(-8, 0), 1],
      [[...room(-8, 0), ...room(-12, 1440)], 2],
    ] as const) {
      const { cells } = await readSounding(recorded(THREE, [...ways, game], [0, 5000, 0], 1, 33), THREE);
      expect(cells.map(({ source, copies }) => [source, copies])).toEqual([
        ['voice', copies],
        ['game', 1],
      ]);
      expect(Math.abs(cells[1].gainDb + 20)).toBeLessThan(0.5);
    }
  }, 60_000);

  test('reads nothing where nothing was played: in silence, noise, and a recording that is too short', async () => {
    const random = seededRandom(4);
    const noise = Array.from({ length: 2 }, () =>
      Float32Array.from({ length: 20 * RATE }, () => (random() - 0.5) / 4),
    );
    const silence = [new Float32Array(20 * RATE)];
    const short = [codedSound('game', 'stereo')[0].slice(0, RATE)];
    const { cells } = await readSounding(
      [noise, silence, short].map((channels) => ({ channels, isLossy: false })),
      THREE,
    );
    expect(cells).toEqual([]);
  });
});
