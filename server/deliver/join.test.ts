import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { localRunner } from '../jobs/runner.ts';
import { findPresence } from '../media/findPresence.ts';
import { testFolder } from '../testing.ts';
import { joinRecordings } from './join.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);
const SECONDS = 80;
const VOICE = 'assets/voices/narrator.flac';
/** A recorder that was started so long before the picture, and whose clock is fast by 3 Hz in 48 000 (s, ppm). */
const BEFORE_S = 7.3;
const FAST_HZ = 3;

function ffmpeg(args: string[]): void {
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
}

/** A picture with a mix of voice and game; the voice alone from a recorder with another clock; something else. */
beforeAll(() => {
  const game = `anoisesrc=seed=8:color=pink:amplitude=0.3:duration=${SECONDS}:sample_rate=48000`;
  const picture = `testsrc=size=160x90:rate=30:duration=${SECONDS}`;
  const mix = '[0:a][1:a]amix=inputs=2:normalize=0:duration=shortest,aformat=channel_layouts=stereo[mix]';
  ffmpeg([
    ...['-ss', String(BEFORE_S), '-i', VOICE, '-f', 'lavfi', '-i', game, '-f', 'lavfi', '-i', picture],
    ...['-filter_complex', mix, '-map', '2:v', '-map', '[mix]', '-metadata:s:a:0', 'title=Mix'],
    ...[
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      '-c:a',
      'aac',
      '-b:a',
      '160k',
      '-shortest',
      file('picture.mkv'),
    ],
  ]);
  const clock = `aresample=${48_000 + FAST_HZ},asetrate=48000`;
  ffmpeg(['-i', VOICE, '-af', clock, '-c:a', 'pcm_s24le', file('recorder.wav')]);
  ffmpeg(['-f', 'lavfi', '-i', `anoisesrc=seed=99:duration=${SECONDS}:sample_rate=48000`, file('other.wav')]);
});

const request = (name: string) => ({
  path: file('picture.mkv'),
  track: 0,
  others: [{ path: file(name), name }],
  outPath: file('joined.mkv'),
});

describe('recordings of other devices are joined with a picture', () => {
  test('in their place from beginning to end, though their clocks run apart', async () => {
    const { joined, tracks } = await joinRecordings(localRunner(), request('recorder.wav'));
    expect(tracks).toEqual(['recorder']);
    expect(joined[0].driftPpm).toBeCloseTo((-1e6 * FAST_HZ) / 48_000, -1);
    expect(joined[0]).toMatchObject({ isSteady: true });
    expect(joined[0].offsetMs / 1000).toBeCloseTo(-BEFORE_S, 1);
    const show = ['-show_entries', 'stream=codec_name:stream_tags=title:stream_disposition=default'];
    const said = execFileSync('ffprobe', ['-v', 'error', ...show, '-of', 'csv=p=0', file('joined.mkv')]);
    expect(
      String(said)
        .trim()
        .split('\n')
        .map((line) => line.trim()),
    ).toEqual(['h264,0', 'aac,0,Mix', 'flac,0,recorder']);
    // Both tracks as another program reads them, near the beginning and near the end.
    for (const [track, name] of ['mix', 'aligned'].entries())
      ffmpeg(['-i', file('joined.mkv'), '-map', `0:a:${track}`, file(`${name}.wav`)]);
    for (const fromS of [2, SECONDS - 14]) {
      for (const name of ['mix', 'aligned'])
        ffmpeg([
          '-i',
          file(`${name}.wav`),
          '-af',
          `atrim=${fromS}:${fromS + 12},asetpts=N/SR/TB`,
          file(`${name} part.wav`),
        ]);
      const found = await findPresence({
        referencePath: file('aligned part.wav'),
        trackPath: file('mix part.wav'),
        trackIndex: 0,
        wholeFile: false,
      });
      expect(Math.abs(found.offsetMs ?? 99)).toBeLessThan(2);
    }
  });

  test('one that does not belong there is refused, and nothing is left', async () => {
    await expect(
      joinRecordings(localRunner(), { ...request('other.wav'), outPath: file('wrong.mkv') }),
    ).rejects.toThrow('other.wav is not heard in the sound of picture.mkv');
    expect(existsSync(file('wrong.mkv'))).toBe(false);
    expect(readdirSync(folder.path).filter((name) => name.endsWith('.part'))).toEqual([]);
  });
});
