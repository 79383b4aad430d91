import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { repairRecording } from './repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

/** Half of what ffmpeg writes with some options, as a file of its own. */
function half(name: string, ...options: string[]): void {
  const whole = file(`whole-${name}`);
  const picture = ['-f', 'lavfi', '-i', 'testsrc2=size=160x90:rate=10:duration=6'];
  const sound = ['-f', 'lavfi', '-i', 'sine=duration=6', '-c:v', 'libx264', '-c:a', 'aac'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...picture, ...sound, ...options, whole]);
  const bytes = readFileSync(whole);
  writeFileSync(file(name), bytes.subarray(0, bytes.length / 2));
}

/** What is said of a file that cannot be opened. */
async function saidOf(name: string): Promise<string> {
  return AudioFile.open(file(name)).then(
    (opened) => {
      opened.close();
      return 'opened';
    },
    (error: Error) => error.message,
  );
}

describe('a file whose index was never written', () => {
  beforeAll(() => {
    half('cut.mp4');
    half('cut.mov');
    // While it is written, nothing says how long the media are.
    const bytes = readFileSync(file('cut.mp4'));
    bytes.writeUInt32BE(0, bytes.indexOf('mdat') - 4);
    writeFileSync(file('growing.mp4'), bytes);
    const whole = readFileSync(file('whole-cut.mp4'));
    writeFileSync(file('cut-in-index.mp4'), whole.subarray(0, whole.length - 500));
  });

  test.each(['cut.mp4', 'cut.mov', 'growing.mp4', 'cut-in-index.mp4'])(
    '%s: is told, with what may still save it',
    async (name) => {
      expect(await saidOf(name)).toContain(`${name} has lost its index, or never had one`);
      await expect(repairRecording(file(name), file('new.mkv'))).rejects.toThrow('has lost its index');
    },
  );
});

test.each([
  ['fragments.mp4', ['-movflags', '+frag_keyframe+empty_moov']],
  ['in-front.mp4', ['-movflags', '+faststart']],
  ['cut.mkv', []],
])('%s: another file that was cut is not taken for one', async (name, options) => {
  half(name, ...options);
  expect(await saidOf(name)).toBe('opened');
  await repairRecording(file(name), file(`new-${name}.mkv`));
});

test('what is no recording at all is not taken for one', async () => {
  writeFileSync(file('letter.mp4'), 'Dear harbour master, the regatta begins at noon. '.repeat(40));
  expect(await saidOf('letter.mp4')).toContain('is not an audio file');
  await expect(repairRecording(file('letter.mp4'), file('letter.mkv'))).rejects.toThrow('it is no recording');
});
