import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { seededRandom } from '../audio/random.ts';
import { type CodedSource, readSounding } from './read.ts';
import { type Played, RATE, recorded, THREE } from './testing.ts';

test('takes no side lobe of louder codes for a copy of a quiet one', async () => {
  // Each with its sides, when it was started (frames), how loud it is (dB) and how it lies.
  const rows: [id: string, sides: CodedSource['sides'], at: number, gainDb: number, how?: Played['how']][] = [
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

test('two copies of a quiet code are read as loud as they are, although they are put back and read again', async () => {
  const played: Played[] = [
    { source: 0, track: 0, gainDb: -12.4, delayFrames: 0, how: 'both sides' },
    { source: 1, track: 0, gainDb: -51.5, delayFrames: 0, how: 'swapped' },
    { source: 1, track: 0, gainDb: -54.4, delayFrames: 229, how: 'swapped' },
  ];
  const { cells } = await readSounding(recorded(THREE, played, [640_000, 560_001, 0], 1, 40), THREE);
  expect(cells.map(({ source, copies, channels }) => [source, copies, channels])).toEqual([
    ['voice', 1, 'both sides'],
    ['game', 2, 'swapped'],
  ]);
  expect(Math.abs(cells[1].gainDb - 10 * Math.log10(10 ** -5.15 + 10 ** -5.44))).toBeLessThan(0.3);
});

test('what loud codes have below their band hides no quiet code', async () => {
  // Sweeps that begin low have much of it.
  const sources = ['r26s3', 'r26s6', 'r26s7', 'r26s9'].map(
    (id): CodedSource => ({ id, sides: id === 'r26s7' ? 'mono' : 'stereo' }),
  );
  const way = (source: number, gainDb: number, how: Played['how']): Played => ({
    ...{ source, track: 0, gainDb, how, delayFrames: 0 },
  });
  const played = [
    way(0, -8.7, 'both sides'),
    way(1, -54.2, 'folded to mono'),
    way(2, -4, 'both sides'),
    way(3, -4.1, 'both sides'),
  ];
  const starts = [363_202, 630_922, 47_995, 173_263];
  const { cells } = await readSounding(recorded(sources, played, starts, 1, 37), sources);
  expect(cells.map(({ source, channels }) => [source, channels])).toEqual(
    played.map(({ source, how }) => [sources[source].id, how]),
  );
  expect(Math.abs(cells[1].gainDb + 54.2)).toBeLessThan(0.5);
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
