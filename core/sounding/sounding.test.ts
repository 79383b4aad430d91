import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { fromDb } from '../audio/decibel.ts';
import { seededRandom } from '../audio/random.ts';
import { codedSound, codeOf, PERIOD_FRAMES } from './code.ts';
import { type CodedSource, readSounding } from './read.ts';

const { cos, floor, PI, sin } = Math;

const RATE = 48_000;

/** How one source is played onto one track. */
interface Played {
  source: number;
  track: number;
  gainDb: number;
  delayFrames: number;
  /** By how much its clock runs fast (ppm). */
  driftPpm?: number;
  how: 'both sides' | 'swapped' | 'folded to mono' | 'left only' | 'right inverted' | 'difference';
}

/** Adds up what is played, as a recorder would, and rounds to 16 bits. */
function recorded(
  sources: CodedSource[],
  played: Played[],
  starts: number[],
  tracks: number,
  seconds: number,
) {
  const planes = Array.from({ length: tracks }, () => [0, 1].map(() => new Float32Array(seconds * RATE)));
  // A room plays one sound some hundred times.
  const sounds = new Map<string, Float32Array[]>();
  for (const { source, track, gainDb, delayFrames, driftPpm = 0, how } of played) {
    const key = `${source} ${driftPpm}`;
    const { id, sides } = sources[source];
    const sound = sounds.get(key) ?? codedSound(id, sides).map((side) => byClock(side, driftPpm));
    sounds.set(key, sound);
    const [left, right = left] = sound;
    const [toLeft, toRight] = planes[track];
    const gain = fromDb(gainDb);
    const at = starts[source] + delayFrames;
    for (let i = 0; i < left.length && at + i < toLeft.length; i++) {
      const middle = (left[i] + right[i]) / 2;
      const pair =
        how === 'folded to mono'
          ? [middle, middle]
          : how === 'swapped'
            ? [right[i], left[i]]
            : how === 'difference'
              ? [(left[i] - right[i]) / 2, (left[i] - right[i]) / 2]
              : [left[i], how === 'left only' ? 0 : how === 'right inverted' ? -right[i] : right[i]];
      toLeft[at + i] += gain * pair[0];
      toRight[at + i] += gain * pair[1];
    }
  }
  const random = seededRandom(9);
  for (const sides of planes)
    for (const plane of sides)
      for (let i = 0; i < plane.length; i++)
        plane[i] = Math.round(plane[i] * 32_767 + random() - random()) / 32_767;
  return planes.map((channels) => ({ channels, isLossy: false }));
}

/** A sound as a clock plays it that runs fast by so many ppm, by a windowed sine cardinal. */
function byClock(sound: Float32Array, ppm: number): Float32Array {
  if (ppm === 0) return sound;
  const step = 1 + ppm * 1e-6;
  const made = new Float32Array(floor(sound.length / step));
  for (let frame = 0; frame < made.length; frame++) {
    const from = floor(frame * step);
    const within = frame * step - from;
    // The sine has the same size at every tap.
    const size = sin(PI * within) / PI;
    for (let tap = -11; tap <= 12; tap++) {
      const x = tap - within;
      const sinc = x === 0 ? 1 : ((tap % 2 === 0 ? -1 : 1) * size) / x;
      made[frame] += (sound[from + tap] ?? 0) * (0.5 + 0.5 * cos((PI * x) / 12.5)) * sinc;
    }
  }
  return made;
}

const THREE: CodedSource[] = [
  { id: 'voice', sides: 'mono' },
  { id: 'game', sides: 'stereo' },
  { id: 'records', sides: 'stereo' },
];

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

  test('tells levels and clocks where sources run on clocks of their own', async () => {
    const played: Played[] = [
      { source: 0, track: 0, gainDb: -3, delayFrames: 0, how: 'both sides' },
      { source: 1, track: 0, gainDb: -6, delayFrames: 0, driftPpm: 60, how: 'both sides' },
      { source: 1, track: 1, gainDb: -40, delayFrames: 480, driftPpm: 60, how: 'both sides' },
      { source: 1, track: 2, gainDb: 0, delayFrames: 0, driftPpm: 60, how: 'both sides' },
      { source: 2, track: 1, gainDb: -10, delayFrames: 0, driftPpm: -3, how: 'swapped' },
    ];
    const { cells, heard } = await readSounding(
      recorded(THREE, played, [9000, 40_001, 70_003], 3, 33),
      THREE,
    );
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

  test('takes no side lobe of louder codes for a copy of a quiet one', async () => {
    // Each with its sides, when it was started (frames), how loud it is (dB) and how it lies.
    const rows: [id: string, sides: CodedSource['sides'], at: number, gainDb: number, how?: Played['how']][] =
      [
        ['x5s0', 'stereo', 114_628, -56.19],
        ['x5s5', 'stereo', 224_428, -15.21],
        ['x5s9', 'stereo', 119_405, -42.52, 'folded to mono'],
        ['x5s10', 'mono', 216_270, -55.48],
        ['x5s11', 'stereo', 161_030, -47.9],
        ['x5s12', 'mono', 227_339, -40.08],
        ['x5s13', 'stereo', 14_008, -9.36, 'swapped'],
        ['x5s14', 'stereo', 107_415, -48.72],
        ['x5s15', 'mono', 193_545, -22.06],
      ];
    const sources = rows.map(([id, sides]): CodedSource => ({ id, sides }));
    const played = rows.map(
      ([, , , gainDb, how = 'both sides'], source): Played => ({
        ...{ source, track: 0, gainDb, delayFrames: 0, how },
      }),
    );
    const starts = rows.map(([, , at]) => at);
    const { cells } = await readSounding(recorded(sources, played, starts, 1, 39), sources);
    expect(cells.map(({ source, copies }) => [source, copies])).toEqual(rows.map(([id]) => [id, 1]));
    cells.forEach(({ gainDb }, at) => {
      expect(Math.abs(gainDb - rows[at][3])).toBeLessThan(0.5);
    });
  }, 60_000);

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

  test('reads in random rooms what was played, and nothing else', async () => {
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: 1, max: 1e6 }), async (seed) => {
        const random = seededRandom(seed);
        const sources = Array.from(
          { length: 8 },
          (_, i): CodedSource => ({
            id: `s${i}`,
            sides: i === 0 ? 'mono' : 'stereo',
          }),
        );
        const played = sources.flatMap((_, source) =>
          [0, 1].flatMap((track): Played[] =>
            random() < 0.4
              ? []
              : [
                  {
                    source,
                    track,
                    gainDb: -50 * random(),
                    delayFrames: Math.floor(random() * 9600),
                    how: 'both sides',
                  },
                ],
          ),
        );
        const starts = sources.map(() => Math.floor(random() * 8 * RATE));
        const { cells } = await readSounding(recorded(sources, played, starts, 2, 40), sources);
        expect(cells.map(({ source, track }) => `${source} ${track}`)).toEqual(
          played.map(({ source, track }) => `s${source} ${track}`),
        );
        cells.forEach(({ gainDb }, at) => {
          expect(Math.abs(gainDb - played[at].gainDb)).toBeLessThan(0.5);
        });
      }),
      { numRuns: 2, seed: 21 },
    );
  }, 120_000);
});
