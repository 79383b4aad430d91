import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { voiceOver } from '../../core/demo/setups.ts';
import { applyEdit } from '../../core/setup/edits.ts';
import { noise } from '../../core/testing/tones.ts';
import { writeSound } from '../testing.ts';
import { measureDestinations } from './measureDestinations.ts';

const folder = mkdtempSync(join(tmpdir(), 'northfen-destinations-'));
const files: Record<string, string> = {};

beforeAll(async () => {
  for (const [index, id] of ['narrator', 'game', 'bellbuoy'].entries()) {
    files[id] = join(folder, `${id}.wav`);
    const sound = noise(index + 1, 8 * 48_000).map((value) => value * 0.1);
    await writeSound(files[id], sound, { codec: 'pcm-s24' }, 'wav');
  }
});
afterAll(() => rmSync(folder, { recursive: true }));

const heard = async (processing: object[]) => {
  const setup = applyEdit(voiceOver(), {
    edit: 'setSend',
    pickup: 'narrator.pickup',
    to: 'headphones',
    gainDb: -6,
    processing: processing as never,
  });
  const destinations = await measureDestinations(setup, files);
  return destinations.find(({ destinationId }) => destinationId === 'headphones')?.ownVoices;
};

test('the own voice in headphones is found as late as it comes, under everything else that is heard', async () => {
  const [late] = (await heard([{ does: 'delay', delayMs: 40 }])) ?? [];
  expect(late.sourceId).toBe('narrator');
  expect(late.copies).toHaveLength(1);
  expect(Math.abs(late.copies[0].delayMs - 40)).toBeLessThan(0.1);
  expect(Math.abs(late.copies[0].levelDb + 6)).toBeLessThan(0.5);
  const [limited] = (await heard([{ does: 'limiter', ceilingDbtp: -1, releaseMs: 80 }])) ?? [];
  expect(Math.abs(limited.copies[0].delayMs - 140 / 48)).toBeLessThan(0.1);
});

test('where it is not heard, nothing is said of it', async () => {
  const destinations = await measureDestinations(voiceOver(), files);
  expect(destinations.every(({ ownVoices }) => ownVoices === undefined)).toBe(true);
});
