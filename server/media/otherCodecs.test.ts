import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { joinedPortions } from '../../core/audio/planes.ts';
import { remux } from '../deliver/remux.ts';
import { writeJoined } from '../deliver/writeJoined.ts';
import { writeUpload } from '../deliver/writeUpload.ts';
import { testFolder } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { repairRecording } from './repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const PICTURE = ['-f', 'lavfi', '-i', 'testsrc=size=160x90:rate=25:duration=3'];
const SOUND = ['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000:duration=3'];
const NOISE = ['-f', 'lavfi', '-i', 'anoisesrc=seed=4:amplitude=0.3:sample_rate=48000:duration=3'];
const BOTH_SOUNDS = ['-map', '0:a', '-map', '1:a'];

function ffmpeg(args: string[]): string {
  return execFileSync('ffmpeg', ['-v', 'error', '-y', ...args], { encoding: 'utf8' });
}
function hashesOf(name: string): string {
  return ffmpeg(['-i', file(name), '-map', '0', '-c', 'copy', '-f', 'streamhash', '-hash', 'md5', '-']);
}
function codecsOf(name: string): string[] {
  const args = ['-v', 'error', '-show_entries', 'stream=codec_name', '-of', 'csv=p=0', file(name)];
  return execFileSync('ffprobe', args, { encoding: 'utf8' }).trim().split('\n');
}
async function readTrack(name: string, track: number): Promise<Float32Array> {
  const opened = await AudioFile.open(file(name));
  const portions: Float32Array[] = [];
  try {
    for await (const [plane] of opened.planes(track)) portions.push(plane);
    return joinedPortions(portions);
  } finally {
    opened.close();
  }
}
/** What another program decodes of a track. */
function decoded(name: string, track: number): Float32Array {
  ffmpeg(['-i', file(name), '-map', `0:a:${track}`, '-ac', '1', '-f', 'f32le', file('decoded')]);
  return new Float32Array(new Uint8Array(readFileSync(file('decoded'))).buffer);
}
/** How far two sounds are apart at most, where they lie best over each other: containers round by when a track begins. */
function leastOff(ours: Float32Array, theirs: Float32Array): number {
  const offAt = (shift: number, step: number) => {
    let most = 0;
    for (let i = 2400; i < theirs.length - 2400; i += step)
      most = Math.max(most, Math.abs(theirs[i] - ours[i + shift]));
    return most;
  };
  const shifts = Array.from({ length: 4001 }, (_, at) => at - 2000);
  const best = shifts.reduce((least, shift) => (offAt(shift, 501) < offAt(least, 501) ? shift : least), 0);
  return offAt(best, 1);
}
const upload = (path: string, outPath: string) =>
  writeUpload({ path, outPath, tracks: [{ track: 0, gainDb: 0 }], targetLufs: -14, ceilingDbtp: -1 });

describe('sound in codecs that the media library does not know', () => {
  test.each([
    ['alac', 'mov', ['alac']],
    ['alac', 'mp4', ['alac', '-sample_fmt:a:1', 's32p']],
    ['alac', 'mkv', ['alac']],
    ['mp3', 'mov', ['libmp3lame']],
    ['mp2', 'mkv', ['mp2']],
    ['dts', 'mkv', ['dca', '-strict', '-2']],
    ['mlp', 'mkv', ['mlp', '-strict', '-2']],
    ['pcm_mulaw', 'mkv', ['pcm_mulaw']],
    ['adpcm_ms', 'mkv', ['adpcm_ms']],
  ])('%s in %s is read and copied as any other, beside a track of AAC', async (codec, container, coder) => {
    const name = `${codec}-${coder.length}.${container}`;
    ffmpeg([...SOUND, ...NOISE, ...BOTH_SOUNDS, '-c:a:0', 'aac', '-c:a:1', ...coder, file(name)]);
    const theirs = decoded(name, 1);
    const ours = await readTrack(name, 1);
    expect(theirs.length).toBeGreaterThan(2.9 * 48_000);
    expect(Math.abs(ours.length - theirs.length)).toBeLessThanOrEqual(2400);
    expect(leastOff(ours, theirs)).toBeLessThan(1e-4);
    await remux(file(name), file(`copy-${name}.mkv`));
    expect(hashesOf(`copy-${name}.mkv`)).toBe(hashesOf(name));
    expect(codecsOf(`copy-${name}.mkv`)).toEqual(['aac', codec]);
  });

  test.each([
    ['mp3', 'libmp3lame'],
    ['vorbis', 'libvorbis'],
    ['mp2', 'mp2'],
  ])('one channel of %s in MP4, which says that it has two, is read', async (name, coder) => {
    ffmpeg([...SOUND, '-ac', '1', '-c:a', coder, '-strict', '-2', file(`mono-${name}.mp4`)]);
    const theirs = decoded(`mono-${name}.mp4`, 0);
    expect(leastOff(await readTrack(`mono-${name}.mp4`, 0), theirs)).toBeLessThan(1e-4);
    await remux(file(`mono-${name}.mp4`), file(`mono-${name}.mkv`));
    expect(leastOff(decoded(`mono-${name}.mkv`, 0), theirs)).toBeLessThan(1e-4);
  });

  test('what cannot be read is called by its name, and does not go without a word from a copy', async () => {
    ffmpeg([...SOUND, ...NOISE, ...BOTH_SOUNDS, '-c:a:0', 'aac', '-c:a:1', 'wavpack', file('wv.mkv')]);
    await expect(readTrack('wv.mkv', 1)).rejects.toThrow('audio track 2 is coded as “wavpack”');
    expect((await remux(file('wv.mkv'), file('wv-copy.mkv'))).left).toEqual([
      'audio track 2 (wavpack), because its sound cannot be read',
    ]);
    const joining = { path: file('wv.mkv'), tracks: [], outPath: file('wv-joined.mkv') };
    expect(await writeJoined(joining)).toEqual(['audio track 2 (wavpack), because its sound cannot be read']);
    const { left, tracks } = await repairRecording(file('wv.mkv'), file('wv-fixed.mkv'));
    expect(left).toHaveLength(1);
    expect(tracks).toHaveLength(1);
    expect((await readTrack('wv-fixed.mkv', 0)).length).toBeGreaterThan(2.9 * 48_000);
  });
});

describe('a picture in a codec that the media library does not know', () => {
  test.each([
    ['mpeg4', 'mkv', 'mp4'],
    ['mjpeg', 'mov', 'mp4'],
    ['ffv1', 'mkv', 'mkv'],
    ['dvvideo', 'mov', 'mkv'],
  ])('%s goes from %s into an upload (%s) as it is', async (codec, from, into) => {
    const [name, out] = [`${codec}.${from}`, `up-${codec}.${into}`];
    const sized = codec === 'dvvideo' ? ['-s', '720x576', '-pix_fmt', 'yuv420p'] : [];
    ffmpeg([...PICTURE, ...SOUND, '-c:v', codec, ...sized, '-c:a', 'pcm_s16le', file(name)]);
    expect(await upload(file(name), file(out))).toMatchObject({ hasPicture: true });
    const pictureOf = (one: string) =>
      ffmpeg(['-i', file(one), '-map', '0:v', '-c', 'copy', '-f', 'md5', '-']);
    expect(pictureOf(out)).toBe(pictureOf(name));
    expect(codecsOf(out)).toEqual([codec, 'aac']);
  });

  test('where a container does not take it, the ones that do are named', async () => {
    await expect(upload(file('ffv1.mkv'), file('up-ffv1.mp4'))).rejects.toThrow(
      '.mp4 cannot hold ffv1 without coding it anew. Choose .mkv or .mov, which can.',
    );
    expect(existsSync(file('up-ffv1.mp4'))).toBe(false);
  });

  test('out of MPEG-TS, where it cannot be reached, nothing is made without it', async () => {
    ffmpeg([...PICTURE, ...SOUND, '-c:v', 'mpeg2video', '-c:a', 'aac', file('old.ts')]);
    await expect(upload(file('old.ts'), file('old.mp4'))).rejects.toThrow(
      'The picture of old.ts (mpeg2video) cannot be read from this kind of file',
    );
    const joining = writeJoined({ path: file('old.ts'), tracks: [], outPath: file('old-joined.mkv') });
    await expect(joining).rejects.toThrow('The picture of old.ts (mpeg2video)');
    expect(existsSync(file('old.mp4'))).toBe(false);
    expect((await remux(file('old.ts'), file('old-copy.mkv'))).left).toEqual([
      'video (mpeg2video), because it cannot be read from this kind of file',
    ]);
  });
});

test('what is neither sound nor picture does not go without a word', async () => {
  writeFileSync(
    file('chapters.txt'),
    ';FFMETADATA1\n[CHAPTER]\nTIMEBASE=1/1000\nSTART=0\nEND=3000\ntitle=Start\n',
  );
  writeFileSync(file('words.srt'), '1\n00:00:01,000 --> 00:00:02,000\nHello\n\n');
  const more = ['-i', file('chapters.txt'), '-i', file('words.srt')];
  const all = ['-map', '0', '-map', '1', '-map_chapters', '2'];
  ffmpeg([...PICTURE, ...SOUND, ...more, ...all, '-map', '3', '-c:s', 'srt', file('told.mkv')]);
  ffmpeg([...PICTURE, ...SOUND, ...more, ...all, '-timecode', '01:00:00:00', file('told.mov')]);
  expect((await remux(file('told.mkv'), file('told-copy.mp4'))).left).toEqual([
    'subtitles and chapters, because a copy holds sound and picture only',
  ]);
  expect((await remux(file('told.mov'), file('told-copy.mkv'))).left).toEqual([
    expect.stringMatching(/^(timecode and chapters|chapters and timecode), because/),
  ]);
  expect((await remux(file('told-copy.mkv'), file('told-again.mkv'))).left).toEqual([]);
});
