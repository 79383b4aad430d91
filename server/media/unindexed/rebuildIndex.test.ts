import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../../testing.ts';
import { repairRecording } from '../repairRecording.ts';
import { ALIKE, cut, H264, type Kind, mediaIn, packetsOf, record } from './testing.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const B_FRAMES = [...H264, '-bf', '3', '-b_strategy', '0'];
const HEVC = ['-c:v', 'libx265', '-preset', 'ultrafast', '-x265-params', 'log-level=0:keyint=40:bframes=3'];
/** Of the last pictures, some are shown before others that are lost: where those belong is not known. */
const LAST = 5;

const KINDS: Kind[] = [
  { name: 'avc.mp4', options: H264 },
  { name: 'b-frames.mp4', options: B_FRAMES },
  { name: 'b-frames.mov', options: B_FRAMES, rate: '60000/1001' },
  { name: 'slices.mp4', options: [...H264, '-slices', '4', '-x264-params', 'aud=1'] },
  { name: 'hevc.mp4', options: [...HEVC, '-tag:v', 'hvc1', '-c:a', 'aac'] },
  {
    name: 'two-rates.mp4',
    options: H264,
    sounds: [
      [44_100, 2],
      [48_000, 2],
      [48_000, 2],
    ],
  },
  { name: 'front.mp4', options: [...H264, '-movflags', '+faststart'], sounds: [[48_000, 6]] },
];

describe.each(KINDS)('a recording without its index, by a whole one: $name', (kind) => {
  const { name } = kind;

  test('all packets are found up to the last whole one, with their times', async () => {
    record(file(`whole-${name}`), kind, 5, 1);
    record(file(`evening-${name}`), kind, 10, 2);
    cut(file(`evening-${name}`), file(name), 0.7, 5000);
    const repaired = await repairRecording(file(name), file(`new-${name}`), () => {}, file(`whole-${name}`));

    const wanted = packetsOf(file(`evening-${name}`));
    const found = packetsOf(file(`new-${name}`));
    expect(found).toHaveLength(wanted.length);
    found.forEach((packets, track) => {
      // What lies behind 0.7 of the bytes is lost; that is not 0.7 of each track.
      expect(packets.length).toBeGreaterThan(0.6 * wanted[track].length);
      expect(packets.length).toBeLessThan(0.8 * wanted[track].length);
      expect(packets.map(({ data_hash }) => data_hash)).toEqual(
        wanted[track].slice(0, packets.length).map(({ data_hash }) => data_hash),
      );
      const isPicture = track === 0;
      const sure = packets.slice(0, isPicture ? -LAST : undefined);
      sure.forEach(({ pts_time, flags }, at) => {
        expect(Math.abs(Number(pts_time) - Number(wanted[track][at].pts_time))).toBeLessThan(0.0005);
        if (isPicture) expect(flags[0]).toBe(wanted[track][at].flags[0]);
      });
    });
    expect(repaired.tracks.map(({ brokeOff, lost }) => [brokeOff, lost])).toEqual(
      wanted.map(() => [null, []]),
    );
    expect(repaired.left).toEqual([
      expect.stringMatching(/^the last \d+ kB, because they hold no whole packet/),
    ]);
  });
});

describe('what cannot serve is refused', () => {
  const [kind] = KINDS;
  const by = (whole: string, damaged = kind.name) =>
    repairRecording(file(damaged), file('never.mp4'), () => {}, file(whole));

  test('the file itself, a file of another kind, one in fragments, no file', async () => {
    await expect(by(kind.name)).rejects.toThrow('cannot help to repair itself');
    record(file('other.mkv'), kind, 2, 3);
    await expect(by('other.mkv')).rejects.toThrow('no MP4 or MOV with an index');
    record(file('fragments.mp4'), { ...kind, options: [...H264, '-movflags', '+frag_keyframe'] }, 2, 3);
    await expect(by('fragments.mp4')).rejects.toThrow('is written in fragments');
    await expect(by('nowhere.mp4')).rejects.toThrow('There is no file nowhere.mp4');
  });

  test('the whole recording is not written over', async () => {
    const whole = file(`whole-${kind.name}`);
    const before = readFileSync(whole);
    await expect(repairRecording(file(kind.name), whole, () => {}, whole)).rejects.toThrow();
    expect(readFileSync(whole).equals(before)).toBe(true);
  });

  test('sound whose packets do not say where they end', async () => {
    record(file('opus.mp4'), { ...kind, options: [...H264.slice(0, -1), 'libopus'] }, 2, 3);
    await expect(by('opus.mp4')).rejects.toThrow('Track 2 of opus.mp4 holds “opus”');
  });

  test.each([
    ['more tracks', { ...kind, sounds: [...ALIKE, [48_000, 2]] }],
    [
      'fewer tracks',
      {
        ...kind,
        sounds: [
          [48_000, 2],
          [48_000, 1],
        ],
      },
    ],
    ['twice as many pictures', { ...kind, rate: '60' }],
  ] as [string, Kind][])(
    'a recording with %s',
    async (_, other) => {
      record(file('settings.mp4'), other, 6, 4);
      await expect(by('settings.mp4')).rejects.toThrow(/drift \d+\.\d s apart|in other portions/);
    },
    30_000,
  );

  test('one that is damaged itself', async () => {
    const bytes = readFileSync(file(`whole-${kind.name}`));
    const { at, end } = mediaIn(bytes);
    const middle = Math.floor((at + end) / 2);
    bytes.fill(0x55, middle, middle + 3000);
    writeFileSync(file('holed.mp4'), bytes);
    await expect(by('holed.mp4')).rejects.toThrow(/without its own index, only \d+ of its \d+ packets/);
  });
});

test('what is damaged in the middle is saved up to there', async () => {
  const [{ name }] = KINDS;
  const bytes = readFileSync(file(name));
  const { at } = mediaIn(readFileSync(file(`evening-${name}`)));
  const hole = at + Math.floor((bytes.length - at) / 2);
  bytes.fill(0, hole, hole + 100_000);
  writeFileSync(file('hole.mp4'), bytes);
  const { tracks, left } = await repairRecording(
    file('hole.mp4'),
    file('saved.mkv'),
    () => {},
    file(`whole-${name}`),
  );
  expect(tracks).toHaveLength(4);
  for (const { savedS } of tracks) expect(savedS).toBeGreaterThan(2);
  for (const { savedS } of tracks) expect(savedS).toBeLessThan(5);
  expect(left).toHaveLength(1);
});
