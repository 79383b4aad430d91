import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../../testing.ts';
import { repairRecording } from '../repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

interface Kind {
  name: string;
  /** Pictures a second. */
  rate?: string;
  options: string[];
  /** Tracks of sound: their rates (Hz) and channels. */
  sounds?: [rateHz: number, channels: number][];
}

const H264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '50', '-c:a', 'aac'];
const B_FRAMES = [...H264, '-bf', '3', '-b_strategy', '0'];
const HEVC = ['-c:v', 'libx265', '-preset', 'ultrafast', '-x265-params', 'log-level=0:keyint=40:bframes=3'];
const ALIKE: [rateHz: number, channels: number][] = [
  [48_000, 2],
  [48_000, 2],
  [48_000, 1],
];

/** Writes a recording with ffmpeg; its sounds and pictures differ by a seed. */
function record(path: string, { rate = '30', options, sounds = ALIKE }: Kind, lengthS: number, seed: number) {
  const picture = `testsrc2=size=160x90:rate=${rate}:duration=${lengthS},noise=alls=${20 + seed}:allf=t`;
  const sound = sounds.map(([rateHz, channels], at) => {
    const noise = `anoisesrc=d=${lengthS}:r=${rateHz}:seed=${10 * seed + at}:a=0.3`;
    return `${noise},tremolo=f=${at + 2},aformat=channel_layouts=${channels}c`;
  });
  const inputs = [picture, ...sound].flatMap((source) => ['-f', 'lavfi', '-i', source]);
  const maps = [picture, ...sound].flatMap((_, at) => ['-map', String(at)]);
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...inputs, ...maps, ...options, path]);
}

/** Where the media of a file begin, with their head, and end. */
function mediaIn(bytes: Buffer): { at: number; end: number } {
  for (let at = 0; at < bytes.length; ) {
    const length = bytes.readUInt32BE(at);
    if (bytes.toString('latin1', at + 4, at + 8) === 'mdat') return { at, end: at + length };
    at += length;
  }
  throw new Error('no media');
}

/** Cuts a file within its media, as one is left whose program died. */
function cut(from: string, to: string, share: number, zeros = 0): void {
  const bytes = readFileSync(from);
  const { at, end } = mediaIn(bytes);
  const left = Buffer.from(bytes.subarray(0, at + Math.floor((end - at) * share)));
  left.writeUInt32BE(0, at);
  writeFileSync(to, Buffer.concat([left, Buffer.alloc(zeros)]));
}

interface Packet {
  pts_time: string;
  data_hash: string;
  flags: string;
}

/** The packets of each track of a file, as ffprobe reads them. */
function packetsOf(path: string): Packet[][] {
  const wanted = ['-show_entries', 'packet=stream_index,pts_time,flags,data_hash', '-show_data_hash', 'md5'];
  const out = execFileSync('ffprobe', ['-v', 'error', ...wanted, '-of', 'json', path], {
    maxBuffer: 1 << 28,
  });
  const tracks: Packet[][] = [];
  for (const packet of JSON.parse(out.toString()).packets) {
    tracks[packet.stream_index] ??= [];
    tracks[packet.stream_index].push(packet);
  }
  return tracks;
}

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
    expect(repaired.left).toEqual([expect.stringMatching(/^the last \d+ kB, because no whole packet/)]);
  });
});

describe('what cannot serve is refused', () => {
  const [kind] = KINDS;
  const by = (whole: string, damaged = kind.name) =>
    repairRecording(file(damaged), file('never.mp4'), () => {}, file(whole));

  test('the file itself, a file of another kind, one in fragments, no file', async () => {
    await expect(by(kind.name)).rejects.toThrow('cannot go by itself');
    record(file('other.mkv'), kind, 2, 3);
    await expect(by('other.mkv')).rejects.toThrow('no MP4 or MOV with an index');
    record(file('fragments.mp4'), { ...kind, options: [...H264, '-movflags', '+frag_keyframe'] }, 2, 3);
    await expect(by('fragments.mp4')).rejects.toThrow('is in fragments');
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
      await expect(by('settings.mp4')).rejects.toThrow(/run apart, by \d|Nothing in avc.mp4 is as in/);
    },
    30_000,
  );

  test('one that is damaged itself', async () => {
    const bytes = readFileSync(file(`whole-${kind.name}`));
    const { at, end } = mediaIn(bytes);
    const middle = Math.floor((at + end) / 2);
    bytes.fill(0x55, middle, middle + 3000);
    writeFileSync(file('holed.mp4'), bytes);
    await expect(by('holed.mp4')).rejects.toThrow(/tried on itself, only \d+ of its \d+ packets/);
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
