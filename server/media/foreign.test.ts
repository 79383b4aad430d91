import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { remux } from '../deliver/remux.ts';
import { writeUpload } from '../deliver/writeUpload.ts';
import { testFolder } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { repairRecording } from './repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const PICTURE = ['-f', 'lavfi', '-i', 'testsrc=size=160x90:rate=25:duration=2'];
const SOUND = ['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000:duration=2'];

function ffmpeg(args: string[]): void {
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...args]);
}

test.each([
  ['one.avi', 'AVI', [...PICTURE, ...SOUND, '-c:v', 'mpeg4', '-c:a', 'libmp3lame']],
  ['one.flv', 'FLV', [...PICTURE, ...SOUND, '-c:v', 'libx264', '-c:a', 'aac']],
  ['one.aiff', 'Audio IFF', SOUND],
  // Its sound alone would be taken for an MP3, with what lies between its parts in it.
  ['one.mpg', 'MPEG program stream', [...SOUND, '-c:a', 'mp2']],
])(
  '%s is called by its kind, and what to do is said, by all that read recordings',
  async (name, kind, args) => {
    ffmpeg([...args, file(name)]);
    const words = `${name} is a kind of file that cannot be read here: ${kind}`;
    await expect(AudioFile.open(file(name))).rejects.toThrow(words);
    await expect(AudioFile.open(file(name))).rejects.toThrow('Save it as MKV or MP4 instead');
    await expect(remux(file(name), file('copy.mkv'))).rejects.toThrow(words);
    await expect(repairRecording(file(name), file('fixed.mkv'))).rejects.toThrow(words);
    const wanted = { tracks: [{ track: 0, gainDb: 0 }], targetLufs: -14, ceilingDbtp: -1 };
    await expect(writeUpload({ path: file(name), outPath: file('up.mp4'), ...wanted })).rejects.toThrow(
      words,
    );
    for (const made of ['copy.mkv', 'fixed.mkv', 'up.mp4']) expect(existsSync(file(made))).toBe(false);
  },
);

test('sound that a container can hold, but that is not read out of it, is called by its codec', async () => {
  ffmpeg([...SOUND, '-c:a', 'flac', file('flac.oga')]);
  await expect(AudioFile.open(file('flac.oga'))).rejects.toThrow(
    'The sound of flac.oga is coded as “flac”, which cannot be read from this kind of file (Ogg).',
  );
  ffmpeg([...SOUND, '-c:a', 'libvorbis', file('vorbis.oga')]);
  const opened = await AudioFile.open(file('vorbis.oga'));
  expect(opened.tracks).toHaveLength(1);
  opened.close();
});
