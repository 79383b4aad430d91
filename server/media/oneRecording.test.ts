import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { inspectMedia } from './inspectMedia.ts';
import { refuseSeveral, secondRecordingAt } from './oneRecording.ts';
import { repairRecording } from './repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

/** Files as Debian's ffmpeg writes them: of one track, and of a picture and two tracks. */
const KINDS: Record<string, string[]> = {
  'sound.wav': ['-map', '1'],
  'sound.rf64.wav': ['-map', '1', '-rf64', 'always'],
  'sound.ogg': ['-map', '1'],
  'sound.opus': ['-map', '1'],
  'sound.mp4': ['-map', '1', '-movflags', '+faststart'],
  'evening.mkv': ['-map', '0', '-map', '1', '-map', '2'],
  'evening.mov': ['-map', '0', '-map', '1', '-map', '2'],
  'evening.ogg': ['-map', '1', '-map', '2'],
};
const kinds = Object.keys(KINDS);

beforeAll(() => {
  const inputs = ['testsrc2=d=3:s=64x48', 'sine=440:d=3', 'sine=880:d=3'];
  const from = inputs.flatMap((input) => ['-f', 'lavfi', '-i', input]);
  for (const [name, options] of Object.entries(KINDS))
    spawnSync('ffmpeg', ['-v', 'error', '-y', ...from, ...options, file(name)]);
});

/** Writes files one after the other. */
function joined(name: string, parts: Buffer[]): string {
  writeFileSync(file(name), Buffer.concat(parts));
  return file(name);
}

describe.each(kinds)('%s', (name) => {
  test('by itself, cut short or with zeros after it, is one recording', async () => {
    const whole = readFileSync(file(name));
    for (const one of [
      whole,
      whole.subarray(0, whole.length / 2),
      Buffer.concat([whole, Buffer.alloc(9_000)]),
    ])
      expect(await secondRecordingAt(joined(`one-${name}`, [one]))).toBeNull();
  });

  test('with another after it is refused, and repair writes the first and says so', async () => {
    const whole = readFileSync(file(name));
    const path = joined(`two-${name}`, [whole, whole]);
    expect(await secondRecordingAt(path)).toBe(whole.length);
    await expect(AudioFile.open(path, { allowCut: true })).rejects.toThrow('one after the other');
    await expect(refuseSeveral(path)).rejects.toThrow('Repair it to get the first');
    const { tracks, left } = await repairRecording(path, file(`first-${name}.mkv`));
    expect(left).toEqual(['everything after the first recording, where another one begins']);
    for (const { savedS } of tracks) expect(Math.abs(savedS - 3)).toBeLessThan(0.2);
    const { tracks: alone } = await inspectMedia(file(name));
    const { tracks: saved } = await inspectMedia(file(`first-${name}.mkv`));
    expect(saved.map(({ codec }) => codec)).toEqual(alone.map(({ codec }) => codec));
  });
});

test('a file of nothing but small parts is given up on', async () => {
  const box = (type: string) => Buffer.from(`\0\0\0\x08${type}`, 'latin1');
  const small = new Array<Buffer>(20_000).fill(box('free'));
  const boxes = Buffer.concat([box('ftyp'), ...small, readFileSync(file('sound.mp4'))]);
  expect(await secondRecordingAt(joined('boxes.mp4', [boxes]))).toBeNull();
});

test('a file that changes is looked at again; junk and short files are nobody’s second recording', async () => {
  const whole = readFileSync(file('sound.wav'));
  const path = joined('grows.wav', [whole]);
  expect(await secondRecordingAt(path)).toBeNull();
  joined('grows.wav', [whole, whole]);
  expect(await secondRecordingAt(path)).toBe(whole.length);
  for (const junk of ['OggS', 'RIFF', '....ftyp', '\x1a\x45\xdf\xa3'])
    for (const length of [4, 20, 4_000])
      expect(await secondRecordingAt(joined('junk', [Buffer.alloc(length, junk, 'latin1')]))).toBeNull();
});
