import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { seededRandom } from '../../core/audio/random.ts';
import { readSound, testFolder } from '../testing.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const SECONDS = 60;
const RATE = 48_000;
const DAMAGED_BYTES = 6000;
const PLACES = 16;

test('sound behind a damaged place is not left out in silence: it is read, or the damage is told', async () => {
  const made = ['-v', 'error', '-y', '-f', 'lavfi', '-i', `anoisesrc=d=${SECONDS}:a=0.1:seed=3`];
  spawnSync('ffmpeg', [...made, '-c:a', 'libopus', file('whole.webm')]);
  const whole = readFileSync(file('whole.webm'));
  const random = seededRandom(5);
  let told = 0;
  for (let place = 0; place < PLACES; place++) {
    const bytes = Buffer.from(whole);
    const at = Math.floor(bytes.length * (0.1 + (0.8 * place) / PLACES));
    for (let i = at; i < at + DAMAGED_BYTES; i++) bytes[i] = Math.floor(256 * random());
    writeFileSync(file('damaged.webm'), bytes);
    const read = await readSound(file('damaged.webm')).catch(() => null);
    if (read) expect(read.length).toBeGreaterThan((SECONDS - 2) * RATE);
    else told += 1;
  }
  expect(told).toBeGreaterThan(0);
});
