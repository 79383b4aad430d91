import { execFileSync } from 'node:child_process';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { remux } from '../deliver/remux.ts';
import { testFolder } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { inspectMedia } from './inspectMedia.ts';
import { codecDelaysOf } from './matroskaHead.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const RATE = 48_000;
/** A click over a quiet tone, every half second, from 0.25 s on. */
const CLICKS = `aevalsrc='if(eq(mod(n,24000),12000),0.8,0.01*sin(n*0.05))':s=${RATE}:d=4`;

function ffmpeg(...args: string[]): void {
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
}

/** Where the first click lies in each track (frames), read from some time on. */
async function clicksIn(name: string, fromS = 0): Promise<number[]> {
  const sound = await AudioFile.open(file(name));
  try {
    const found: number[] = [];
    for (const track of sound.tracks) {
      let at = 0;
      let loudest = 0;
      let clickAt = Number.NaN;
      for await (const [left] of sound.planes(track.index, fromS)) {
        if (at > RATE / 2) break;
        left.forEach((value, n) => {
          if (Math.abs(value) <= loudest || at + n >= RATE / 2) return;
          loudest = Math.abs(value);
          clickAt = at + n;
        });
        at += left.length;
      }
      found.push(clickAt);
    }
    return found;
  } finally {
    sound.close();
  }
}

beforeAll(() => {
  const sound = ['-f', 'lavfi', '-i', CLICKS, '-ac', '2', '-b:a', '256k'];
  ffmpeg(...sound, '-map', '0', '-map', '0', '-c:a:0', 'aac', '-c:a:1', 'libopus', file('both.mp4'));
  ffmpeg(...sound, '-c:a', 'libopus', file('one.ogg'));
  ffmpeg(...sound, '-c:a', 'libopus', file('one.webm'));
  ffmpeg(...sound, '-map', '0', '-map', '0', '-c:a:0', 'flac', '-c:a:1', 'libopus', file('both.mkv'));
}, 60_000);

describe('Opus, whose decoder gives something before the sound', () => {
  test.each(['both.mp4', 'one.ogg', 'one.webm'])('%s: each track begins when it does', async (name) => {
    for (const at of await clicksIn(name)) expect(Math.abs(at - 12_000)).toBeLessThanOrEqual(1);
  });

  // To the millisecond of Matroska.
  test.each(['both.mp4', 'one.ogg', 'one.webm'])('%s: and from its middle on', async (name) => {
    for (const at of await clicksIn(name, 2.1))
      expect(Math.abs(at - (12_000 - 4800))).toBeLessThanOrEqual(48);
  });

  test('copies lie where the original does, to the rounding of Matroska, copied again and again', async () => {
    const original = await clicksIn('both.mkv');
    await remux(file('both.mkv'), file('1.mkv'));
    await remux(file('1.mkv'), file('2.mkv'));
    await remux(file('2.mkv'), file('3.mp4'));
    for (const copy of ['1.mkv', '2.mkv', '3.mp4']) {
      const clicks = await clicksIn(copy);
      // Half a millisecond: the whole file may begin a little later.
      expect(Math.abs(clicks[1] - clicks[0] - (original[1] - original[0]))).toBeLessThanOrEqual(25);
    }
    expect([...(await codecDelaysOf(file('2.mkv'))).values()]).toEqual([312 / RATE]);
  });

  test('other programs leave out of a copy what they leave out of the original', async () => {
    await remux(file('both.mp4'), file('of-mp4.mkv'));
    const args = ['-v', 'error', '-show_entries', 'stream=start_time', '-of', 'csv=p=0', file('of-mp4.mkv')];
    const [aac, opus] = execFileSync('ffprobe', args, { encoding: 'utf8' }).trim().split('\n').map(Number);
    // AAC holds 1024 frames before the sound that Matroska cannot name; so all else begins as much later.
    expect(opus + 312 / RATE - (aac + 1024 / RATE)).toBeCloseTo(0, 2.7);
  });
});

test('a file that is cut, no Matroska, or damaged there says nothing of delays', async () => {
  expect((await codecDelaysOf(file('both.mp4'))).size).toBe(0);
  const whole = await open(file('1.mkv'));
  const start = Buffer.alloc(600);
  await whole.read(start, 0, 600, 0);
  await whole.close();
  for (const length of [0, 3, 12, 60, 200, 300]) {
    const cut = await open(file('cut.mkv'), 'w');
    await cut.write(start.subarray(0, length));
    await cut.close();
    expect((await codecDelaysOf(file('cut.mkv'))).size).toBeLessThanOrEqual(1);
  }
});

test('a track in a codec that is not known here is told by its number and its name', async () => {
  const tone = ['-f', 'lavfi', '-i', 'sine=duration=2'];
  const codecs = ['-map', '0', '-map', '0', '-c:a:0', 'flac', '-c:a:1', 'wavpack'];
  ffmpeg(...tone, ...codecs, file('wavpack.mkv'));
  await expect(inspectMedia(file('wavpack.mkv'))).rejects.toThrow(
    'audio track 2 is coded as “wavpack”, which cannot be read here. Repair the recording to get a copy without that track',
  );
  ffmpeg(...tone, '-c:a', 'adpcm_ms', file('adpcm.mov'));
  await expect(inspectMedia(file('adpcm.mov'))).rejects.toThrow('audio track 1 is coded as “adpcm_ms”');
});
