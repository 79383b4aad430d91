import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { localRunner } from '../jobs/runner.ts';
import { MediaError } from '../media/mediaError.ts';
import { testFolder } from '../testing.ts';
import { extractAll } from './extractAll.ts';
import { remux } from './remux.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);
const SECONDS = 6;

/** A picture with B-frames and three tracks, one of them of another rate, as some other program records them. */
beforeAll(() => {
  const sound = (source: string) => ['-f', 'lavfi', '-i', `${source}:duration=${SECONDS}`];
  const tracks = ['Mix', 'Voice <b>', 'Game'].flatMap((title, at) => [
    `-metadata:s:a:${at}`,
    `title=${title}`,
  ]);
  ffmpeg([
    ...sound('testsrc=size=160x90:rate=30'),
    ...sound('anoisesrc=seed=1:amplitude=0.2:sample_rate=48000'),
    ...sound('sine=frequency=440:sample_rate=44100'),
    ...[
      '-map',
      '0:v',
      '-map',
      '1:a',
      '-map',
      '2:a',
      '-map',
      '1:a',
      '-c:v',
      'libx264',
      '-bf',
      '3',
      '-c:a',
      'aac',
    ],
    ...tracks,
    ...['-disposition:a:0', '0', '-disposition:a:1', 'default', '-disposition:a:2', '0', file('in.mkv')],
  ]);
  ffmpeg([
    '-i',
    file('in.mkv'),
    '-map',
    '0',
    '-c',
    'copy',
    '-metadata:s:v:0',
    'rotate=90',
    file('turned.mp4'),
  ]);
});

function ffmpeg(args: string[]): string {
  return execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
}
function hashesOf(name: string): string[] {
  return ffmpeg(['-i', file(name), '-map', '0', '-c', 'copy', '-f', 'streamhash', '-hash', 'md5', '-'])
    .trim()
    .split('\n');
}
function probed(name: string, what: string): string {
  const args = ['-v', 'warning', '-show_entries', what, '-of', 'compact', file(name)];
  return execFileSync('ffprobe', args, { encoding: 'utf8' });
}

describe('another container', () => {
  test.each(['mp4', 'mov', 'mkv'])('%s holds every packet as it was', async (kind) => {
    await remux(file('in.mkv'), file(`out.${kind}`));
    expect(hashesOf(`out.${kind}`)).toEqual(hashesOf('in.mkv'));
    expect(existsSync(file(`out.${kind}.part`))).toBe(false);
  });

  test('keeps names and marks of tracks, and how the picture is turned', async () => {
    await remux(file('in.mkv'), file('named.mp4'));
    const tags = probed('named.mp4', 'stream=index:stream_tags=handler_name:stream_disposition=default');
    expect(tags).toMatch(/index=1\|disposition:default=0\|tag:handler_name=Mix/);
    expect(tags).toMatch(/index=2\|disposition:default=1\|tag:handler_name=Voice <b>/);
    await remux(file('named.mp4'), file('back.mkv'));
    expect(probed('back.mkv', 'stream_tags=title')).toMatch(/Mix[\s\S]*Voice <b>[\s\S]*Game/);
    await remux(file('turned.mp4'), file('turned.mov'));
    expect(probed('turned.mov', 'stream_side_data=rotation')).toContain('90');
  });

  test('has the index of an MP4 in front', async () => {
    await remux(file('in.mkv'), file('front.mp4'));
    const bytes = readFileSync(file('front.mp4'));
    expect(bytes.indexOf('moov')).toBeLessThan(bytes.indexOf('mdat'));
  });

  test('holds a picture that is quick after a slow beginning', async () => {
    // Six hundred frames at five a second, then a thousand at a hundred: far more than the beginning lets expect.
    const pace = "setpts='if(lt(N,600),N/5,120+(N-600)/100)/TB'";
    const source = ['-f', 'lavfi', '-i', 'testsrc=size=64x36:rate=25:duration=120', '-vf', pace];
    ffmpeg([
      ...source,
      '-fps_mode',
      'passthrough',
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      file('paces.mkv'),
    ]);
    await remux(file('paces.mkv'), file('paces.mp4'));
    expect(hashesOf('paces.mp4')).toEqual(hashesOf('paces.mkv'));
  });

  test('is refused in words where it does not fit, and leaves nothing', async () => {
    ffmpeg(['-i', file('in.mkv'), '-map', '0:a:0', '-c:a', 'pcm_s24le', file('plain.wav')]);
    await expect(remux(file('plain.wav'), file('plain.mp4'))).rejects.toThrow('.mp4 cannot hold pcm-s24');
    await expect(remux(file('in.mkv'), file('in.mkv'))).rejects.toThrow('written over itself');
    writeFileSync(file('text.mkv'), 'no recording');
    await expect(remux(file('text.mkv'), file('text.mp4'))).rejects.toThrow(MediaError);
    expect(readdirSync(folder.path).filter((name) => /part$|^text.mp4|^plain.mp4/.test(name))).toEqual([]);
  });
});

describe('tracks in files of their own', () => {
  const MARKS = [
    { atS: 1.5, name: 'Goal — über' },
    { atS: 4, name: 'End' },
  ];

  test('WAV and FLAC hold the same sound, in one length, and WAV says its marks', async () => {
    const wavs = await extractAll(localRunner(), file('in.mkv'), file('wav'), { marks: MARKS });
    const flacs = await extractAll(localRunner(), file('in.mkv'), file('flac'), { format: 'flac' });
    expect(wavs.map((one) => one.file)).toEqual(['01 Mix.wav', '02 Voice -b-.wav', '03 Game.wav']);
    expect(new Set([...wavs, ...flacs].map(({ lengthS }) => lengthS)).size).toBe(1);
    const sound = (path: string) => ffmpeg(['-i', file(path), '-c:a', 'pcm_s24le', '-f', 'md5', '-']);
    for (const [at, wav] of wavs.entries())
      expect(sound(`wav/${wav.file}`)).toBe(sound(`flac/${flacs[at].file}`));
    expect(probed(`flac/${flacs[0].file}`, 'stream=bits_per_raw_sample')).toContain('=24');
    const said = probed(`wav/${wavs[0].file}`, 'format_tags=time_reference:chapter=start_time:chapter_tags');
    expect(said).toContain('time_reference=0');
    expect(said).toMatch(
      /start_time=1\.500000\|tag:title=Goal — über[\s\S]*start_time=4\.000000\|tag:title=End/,
    );
  });

  test('what is there already is not written over', async () => {
    await extractAll(localRunner(), file('in.mkv'), file('once'), { tracks: [2] });
    await expect(extractAll(localRunner(), file('in.mkv'), file('once'))).rejects.toThrow(
      '03 Game.wav is there already',
    );
    expect(readdirSync(file('once'))).toEqual(['03 Game.wav']);
    await expect(extractAll(localRunner(), file('in.mkv'), file('none'), { tracks: [7] })).rejects.toThrow(
      'no audio track 8',
    );
  });
});
