import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { testFolder } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { signsOfReading, tellSigns } from './signOfLife.ts';

const folder = testFolder();
afterAll(() => {
  tellSigns(null);
  folder.remove();
});

test('what is read for the first time is a sign of life, what is read again is none', () => {
  let signs = 0;
  tellSigns(() => {
    signs += 1;
  });
  const onRead = signsOfReading();
  for (const end of [100, 200, 150, 200, 200, 300]) onRead(end);
  expect(signs).toBe(3);
  tellSigns(null);
  onRead(400);
  expect(signs).toBe(3);
});

test('a recording that does not say how long it is gives signs while that is looked for', async () => {
  const path = join(folder.path, 'crashed.mkv');
  const sound = ['-f', 'lavfi', '-i', 'anoisesrc=d=60:r=48000:c=white'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...sound, '-c:a', 'pcm_s24le', '-live', '1', path]);
  let signs = 0;
  tellSigns(() => {
    signs += 1;
  });
  const file = await AudioFile.open(path);
  expect(file.tracks[0].durationS).toBeCloseTo(60, 1);
  expect(signs).toBeGreaterThan(3);
  file.close();
});
