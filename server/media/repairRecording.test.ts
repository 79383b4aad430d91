import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, jest, test } from '@jest/globals';
import { seededRandom } from '../../core/audio/random.ts';
import { noise } from '../../core/testing/tones.ts';
import { testFolder, writeSound } from '../testing.ts';
import { inspectMedia } from './inspectMedia.ts';
import { MediaError } from './mediaError.ts';
import { type Repaired, repairRecording } from './repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
const SECONDS = 8;
let whole: Buffer;

beforeAll(async () => {
  await writeSound(file('whole.mkv'), noise(3, 48_000 * SECONDS), { codec: 'aac' });
  whole = readFileSync(file('whole.mkv'));
});
afterAll(() => folder.remove());

async function repaired(name: string, bytes: Buffer) {
  writeFileSync(file(name), bytes);
  const out = `fixed-${name}`;
  const result = await repairRecording(file(name), file(out));
  return { result, media: await inspectMedia(file(out)) };
}

describe('a recording whose program died', () => {
  test.each([0.25, 0.5, 0.9])('cut after %s of it is saved up to its last whole packet', async (share) => {
    const { result, media } = await repaired(
      `cut-${share}.mkv`,
      whole.subarray(0, Math.floor(share * whole.length)),
    );
    const [track] = result.tracks;
    expect(track.kind).toBe('audio');
    expect(track.savedS).toBeGreaterThan(SECONDS * share - 1.5);
    expect(track.savedS).toBeLessThan(SECONDS * share + 0.5);
    expect(media.tracks[0].durationS).toBeCloseTo(track.savedS, 0);
  });

  test('with a tail of zeros is saved whole, and what was there stays as it was', async () => {
    const bytes = Buffer.concat([whole, Buffer.alloc(300_000)]);
    const { result, media } = await repaired('tail.mkv', bytes);
    expect(result.tracks[0].savedS).toBeCloseTo(SECONDS, 0);
    expect(media.tracks[0].durationS).toBeCloseTo(SECONDS, 0);
    expect(readFileSync(file('tail.mkv')).equals(bytes)).toBe(true);
  });

  test('is copied packet by packet where nothing is wrong with it', async () => {
    const { result, media } = await repaired('sound.mkv', whole);
    const before = await inspectMedia(file('whole.mkv'));
    expect(media.tracks[0].integratedLufs).toBeCloseTo(before.tracks[0].integratedLufs ?? 0, 3);
    expect(result.tracks[0].brokeOff).toBeNull();
    expect(result.left).toEqual([]);
  });

  test('whose picture is described wrongly is told in our words alone', async () => {
    const picture = ['-f', 'lavfi', '-i', 'testsrc=size=160x90:duration=1', '-c:v', 'libx264'];
    execFileSync('ffmpeg', ['-v', 'error', '-y', ...picture, file('picture.mkv')]);
    const bytes = readFileSync(file('picture.mkv'));
    // Behind the head of what describes H.264 to decoders: version, profile, level.
    const at = bytes.indexOf(Buffer.of(1, 0xf4, 0));
    expect(at).toBeGreaterThan(0);
    bytes.fill(0, at + 12, at + 30);
    writeFileSync(file('wrong.mkv'), bytes);
    const written = [jest.spyOn(console, 'error'), jest.spyOn(console, 'warn')];
    await repairRecording(file('wrong.mkv'), file('wrong-fixed.mkv'));
    for (const spy of written) expect(spy).not.toHaveBeenCalled();
    jest.restoreAllMocks();
  });

  test('of which nothing is left is said so, and no half file stays', async () => {
    for (const bytes of [Buffer.alloc(5000), whole.subarray(0, 60), Buffer.from('no recording at all')]) {
      writeFileSync(file('nothing.mkv'), bytes);
      const out = file('nothing-fixed.mkv');
      await expect(repairRecording(file('nothing.mkv'), out)).rejects.toThrow(
        /^Nothing of nothing\.mkv can be read/,
      );
      expect(existsSync(out) || existsSync(`${out}.part`)).toBe(false);
    }
  });

  test('is never written over itself, nor under a name that says nothing of how', async () => {
    await expect(repairRecording(file('whole.mkv'), file('whole.mkv'))).rejects.toThrow('over itself');
    await expect(repairRecording(file('whole.mkv'), file('whole.txt'))).rejects.toThrow('must end in .mkv');
  });

  test('with junk in it ends in words or in what could be saved', async () => {
    const random = seededRandom(8);
    for (let round = 0; round < 25; round++) {
      const bytes = Buffer.from(whole);
      const at = Math.floor(random() * bytes.length);
      const length = Math.floor(random() * 4000);
      for (let i = at; i < Math.min(bytes.length, at + length); i++) bytes[i] = Math.floor(random() * 256);
      writeFileSync(file('junk.mkv'), bytes);
      const end = await repairRecording(file('junk.mkv'), file('fixed-junk.mkv')).catch(
        (error: unknown) => error,
      );
      if (end instanceof Error) expect(end).toBeInstanceOf(MediaError);
      else expect((end as Repaired).tracks[0].packets).toBeGreaterThan(0);
    }
  }, 60_000);
});
