import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { repairLines } from '../../core/deliver/repair.ts';
import { remux } from '../deliver/remux.ts';
import { readSound, testFolder } from '../testing.ts';
import { repairRecording } from './repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(() => folder.remove());

const SECONDS = 24;
/** A tone that stops, with its clock going on, from second 4 to second 8: as a recording that was paused. */
const PAUSED = ['-af', "aselect='not(between(t,4,8))'"];

/** What FFmpeg records, with bytes in the middle of it put to nought: from a share of it on, for another share. */
function recorded(
  name: string,
  how: string[],
  hole: { from: number; share: number } | null = null,
): Buffer<ArrayBufferLike> {
  const sound = ['-f', 'lavfi', '-i', `sine=frequency=440:sample_rate=48000:duration=${SECONDS}`];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...sound, ...PAUSED, ...how, file(name)]);
  const bytes = readFileSync(file(name));
  if (hole) {
    const from = Math.floor(hole.from * bytes.length);
    bytes.fill(0, from, from + Math.floor(hole.share * bytes.length));
    writeFileSync(file(name), bytes);
  }
  return bytes;
}

/** Codecs and ways of writing: `-live` writes clusters that do not say how long they are. */
const MATROSKA = [
  ['opus.mkv', ['-c:a', 'libopus']],
  ['pcm.mkv', ['-c:a', 'pcm_s16le']],
  ['aac.mkv', ['-c:a', 'aac']],
  ['opus.webm', ['-c:a', 'libopus']],
  ['live.mkv', ['-c:a', 'libopus', '-f', 'matroska', '-live', '1']],
] as const;

describe.each(MATROSKA)('%s', (name, how) => {
  test('that was paused is read whole, with silence there', async () => {
    recorded(name, [...how]);
    const sound = await readSound(file(name));
    expect(sound.length / 48_000).toBeCloseTo(SECONDS, 0);
    expect(sound.subarray(5 * 48_000, 7 * 48_000).every((value) => value === 0)).toBe(true);
    expect((await remux(file(name), file(`copy-${name}.mkv`))).tracks).toHaveLength(1);
  });

  // A large hole takes whole clusters away; a small one lies within one of them.
  test.each([
    { from: 0.5, share: 0.2 },
    { from: 0.55, share: 0.04 },
  ])(
    'that lost its bytes from $from on for $share is told as damaged, and repaired over the hole',
    async (hole) => {
      recorded(name, [...how], hole);
      await expect(readSound(file(name))).rejects.toThrow(/cannot be decoded beyond 1\d\.\d s/);
      await expect(remux(file(name), file(`copy-${name}.mkv`))).rejects.toThrow(/damaged near 1\d\.\d s/);
      const { tracks } = await repairRecording(file(name), file(`fixed-${name}.mkv`));
      expect(tracks[0].lost).toHaveLength(1);
      const [{ fromS, toS }] = tracks[0].lost;
      expect(fromS).toBeGreaterThan(11);
      expect(toS - fromS).toBeGreaterThan(0.5);
      expect(tracks[0].savedS).toBeCloseTo(SECONDS, 0);
      expect(repairLines(tracks)[0]).toMatch(
        /nothing is left from 0:1\d to 0:\d\d|less than a second is lost near/,
      );
      const saved = await readSound(file(`fixed-${name}.mkv`));
      const within = saved.subarray(Math.ceil((fromS + 0.1) * 48_000), Math.floor((toS - 0.1) * 48_000));
      expect(within.every((value) => value === 0)).toBe(true);
      expect(saved.subarray(22 * 48_000, 23 * 48_000).some((value) => Math.abs(value) > 0.05)).toBe(true);
    },
  );
});

test('packets of zeros in MP4 are not taken for sound, nor copied', async () => {
  recorded('opus.mp4', ['-c:a', 'libopus'], { from: 0.5, share: 0.2 });
  await expect(readSound(file('opus.mp4'))).rejects.toThrow(/cannot be decoded beyond 1\d\.\d s/);
  await expect(remux(file('opus.mp4'), file('zeros.mkv'))).rejects.toThrow(/damaged near 1\d\.\d s/);
});

test('Ogg that lost its middle is told as damaged, and repair says what is lost', async () => {
  recorded('opus.ogg', ['-c:a', 'libopus']);
  expect((await remux(file('opus.ogg'), file('whole.mkv'))).tracks).toHaveLength(1);
  recorded('opus.ogg', ['-c:a', 'libopus'], { from: 0.5, share: 0.2 });
  await expect(readSound(file('opus.ogg'))).rejects.toThrow(/cannot be decoded beyond 1\d\.\d s/);
  await expect(remux(file('opus.ogg'), file('ogg.mkv'))).rejects.toThrow(/damaged near 1\d\.\d s/);
  const { tracks } = await repairRecording(file('opus.ogg'), file('ogg.mkv'));
  expect(repairLines(tracks)[0]).toMatch(
    /0:1\d saved, 0:\d\d lost of what it was to have.*the rest cannot be read$/,
  );
});

test('raw AAC that lost its middle is told as damaged, and whole or cut AAC is not', async () => {
  const bytes = recorded('raw.aac', ['-c:a', 'aac']);
  expect((await readSound(file('raw.aac'))).length).toBeGreaterThan(19 * 48_000);
  writeFileSync(file('cut.aac'), bytes.subarray(0, bytes.length / 2));
  for (const name of ['raw', 'cut'])
    expect((await remux(file(`${name}.aac`), file(`${name}-aac.mkv`))).tracks).toHaveLength(1);
  recorded('raw.aac', ['-c:a', 'aac'], { from: 0.5, share: 0.2 });
  await expect(remux(file('raw.aac'), file('lost.mkv'))).rejects.toThrow(/damaged near \d+\.\d s/);
  const { tracks } = await repairRecording(file('raw.aac'), file('lost.mkv'));
  expect(repairLines(tracks)[0]).toMatch(/the rest cannot be read$/);
});
