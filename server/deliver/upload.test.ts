import { execFileSync, spawnSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { findPresence } from '../media/findPresence.ts';
import { testFolder } from '../testing.ts';
import { writeUpload } from './writeUpload.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);
const SECONDS = 13;

/** A picture, a mix with the music 20 dB down in it, a voice with sharp peaks, and the music alone. */
beforeAll(() => {
  const song = '0.4*sin(2*PI*t*(220+110*floor(mod(t*1.7,5))))*exp(-3*mod(t*1.7,1))';
  const length = `duration=${SECONDS}:sample_rate=48000`;
  const parts = [
    `testsrc=size=160x90:rate=30:duration=${SECONDS}[v]`,
    `anoisesrc=seed=1:amplitude=0.2:${length},asplit=2[m][n]`,
    `aevalsrc='${song}|${song}':${length}[tune]`,
    `anoisesrc=seed=2:amplitude=0.05:${length},aformat=channel_layouts=stereo[hiss]`,
    '[tune][hiss]amix=inputs=2:normalize=0,asplit=2[music][r]',
    '[r]volume=0.1[leak]',
    '[m]aformat=channel_layouts=stereo[wide]',
    '[wide][leak]amix=inputs=2:normalize=0[mix]',
    "[n]volume='0.35+0.65*lt(mod(t,0.5),0.05)':eval=frame[voice]",
  ];
  const maps = ['v', 'mix', 'voice', 'music'].flatMap((name) => ['-map', `[${name}]`]);
  const titles = ['Stream', 'Mic', 'Music'].flatMap((title, at) => [`-metadata:s:a:${at}`, `title=${title}`]);
  const coded = ['-c:v', 'libx264', '-bf', '2', '-g', '60', '-c:a', 'pcm_s24le'];
  ffmpeg(['-filter_complex', parts.join(';'), ...maps, ...titles, ...coded, file('evening.mkv')]);
});

function ffmpeg(args: string[]): string {
  return execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
}
/** What another program measures of a file: its loudness (LUFS) and true peak (dBTP). */
function measured(name: string): { lufs: number; peak: number } {
  const args = ['-i', file(name), '-map', '0:a', '-af', 'ebur128=peak=true', '-f', 'null', '-'];
  const said = spawnSync('ffmpeg', args, { encoding: 'utf8' }).stderr.split('Summary:')[1];
  return { lufs: Number(/I:\s+(\S+)/.exec(said)?.[1]), peak: Number(/Peak:\s+(\S+)/.exec(said)?.[1]) };
}
const picture = (name: string) => ffmpeg(['-i', file(name), '-map', '0:v', '-c', 'copy', '-f', 'md5', '-']);
const TO_NET = { targetLufs: -14, ceilingDbtp: -1 };

describe('the video for an upload', () => {
  test.each(['mp4', 'mkv'])(
    '%s: the picture as it is, the sound as loud as it is to be, and in its place',
    async (kind) => {
      const name = `up.${kind}`;
      const request = { path: file('evening.mkv'), outPath: file(name), tracks: [{ track: 0, gainDb: 0 }] };
      const made = await writeUpload({ ...request, ...TO_NET });
      expect(made).toMatchObject({ fromS: 0, hasPicture: true, isLimited: false });
      expect(picture(name)).toBe(picture('evening.mkv'));
      expect(Math.abs(measured(name).lufs + 14)).toBeLessThanOrEqual(0.2);
      ffmpeg(['-i', file('evening.mkv'), '-map', '0:a:0', file('mix.wav')]);
      const place = {
        referencePath: file('mix.wav'),
        trackPath: file(name),
        trackIndex: 0,
        wholeFile: false,
      };
      expect(Math.abs((await findPresence(place)).offsetMs ?? 99)).toBeLessThan(1);
    },
  );

  test('sharp peaks are held under the ceiling, also once it is coded', async () => {
    const request = {
      path: file('evening.mkv'),
      outPath: file('sharp.mp4'),
      tracks: [{ track: 1, gainDb: 0 }],
    };
    const made = await writeUpload({ ...request, ...TO_NET, targetLufs: -11 });
    expect(made.isLimited).toBe(true);
    const { lufs, peak } = measured('sharp.mp4');
    expect(Math.abs(lufs + 11)).toBeLessThanOrEqual(0.2);
    expect(peak).toBeLessThanOrEqual(-0.9);
  });

  test('a stretch begins at a key frame, tracks are mixed, and the sound fades', async () => {
    const tracks = [0, 1].map((track) => ({ track, gainDb: track === 1 ? -6 : 0 }));
    const made = await writeUpload({
      ...{ path: file('evening.mkv'), outPath: file('clip.mp4'), tracks, fromS: 5, untilS: 12, fadeS: 1 },
      ...TO_NET,
    });
    expect(made.fromS).toBeCloseTo(4, 1);
    expect(made.lengthS).toBeCloseTo(8, 1);
    const loudness = (from: number) => {
      const args = ['-ss', String(from), '-t', '0.3', '-i', file('clip.mp4'), '-map', '0:a'];
      const said = spawnSync('ffmpeg', [...args, '-af', 'volumedetect', '-f', 'null', '-'], {
        encoding: 'utf8',
      });
      return Number(/mean_volume: (\S+)/.exec(said.stderr)?.[1]);
    };
    expect(loudness(0)).toBeLessThan(loudness(4) - 6);
    expect(loudness(7.6)).toBeLessThan(loudness(4) - 6);
  });

  test('an empty stretch, and silence, are refused in words', async () => {
    const request = {
      path: file('evening.mkv'),
      outPath: file('none.mp4'),
      tracks: [{ track: 0, gainDb: 0 }],
      ...TO_NET,
    };
    await expect(writeUpload({ ...request, fromS: 20, untilS: 30 })).rejects.toThrow('is empty');
    await expect(writeUpload({ ...request, tracks: [{ track: 0, gainDb: -200 }] })).rejects.toThrow(
      'Nothing sounds',
    );
    expect(readdirSync(folder.path).filter((name) => name.includes('none'))).toEqual([]);
  });
});
