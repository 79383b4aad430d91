import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { voiceOver } from '../../core/demo/setups.ts';
import { sine } from '../../core/testing/tones.ts';
import { testFolder, writeSound } from '../testing.ts';
import { renderAndProve } from './prove.ts';
import { type TaskRunner, threadRunner } from './runner.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
let runner: TaskRunner;

beforeAll(async () => {
  runner = threadRunner(fileURLToPath(new URL('../../dist/node/worker.js', import.meta.url)));
  await writeSound(file('long.mkv'), sine(440, -20, 60), { codec: 'flac' });
  await writeSound(file('short.mkv'), sine(440, -20, 3));
});
afterAll(async () => {
  await runner.close();
  folder.remove();
});

const request = (media: string, takePath: string) => ({
  setup: voiceOver(),
  mediaFiles: { narrator: file(media), game: file('short.mkv') },
  takePath: file(takePath),
  today: '2026-05-01',
});

describe('work on threads', () => {
  test('reports its progress from nothing to all, phase by phase', async () => {
    const seen: { phase: string; share: number }[] = [];
    const take = await renderAndProve(runner, {
      ...request('short.mkv', 'take.mkv'),
      onProgress: (progress) => seen.push(progress),
    });
    expect(take.durationS).toBeCloseTo(3, 1);
    expect(take.tracks.map(({ trackId }) => trackId)).toEqual(['master', 'voice', 'boat', 'bell']);
    expect(take.proof).toHaveLength(12);
    expect([...new Set(seen.map(({ phase }) => phase))]).toEqual(['Mixing', 'Measuring']);
    const shares = seen.map(({ share }) => share);
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
    expect(shares.at(-1)).toBeCloseTo(1, 5);
  });

  test('ends soon when it is cancelled, leaves no take, and the threads go on', async () => {
    const abort = new AbortController();
    const running = renderAndProve(runner, {
      ...request('long.mkv', 'cancelled.mkv'),
      signal: abort.signal,
      onProgress: () => abort.abort(),
    });
    await expect(running).rejects.toMatchObject({ name: 'AbortError' });
    expect(existsSync(file('cancelled.mkv'))).toBe(false);
    await expect(renderAndProve(runner, request('short.mkv', 'after.mkv'))).resolves.toMatchObject({
      durationS: expect.closeTo(3, 1),
    });
  });

  test('is cancelled while it measures, too', async () => {
    const abort = new AbortController();
    const running = renderAndProve(runner, {
      ...request('long.mkv', 'measured.mkv'),
      signal: abort.signal,
      onProgress: ({ phase }) => phase === 'Measuring' && abort.abort(),
    });
    await expect(running).rejects.toMatchObject({ name: 'AbortError' });
  });

  test('an error keeps its kind and its words on the way from the thread', async () => {
    await expect(
      renderAndProve(runner, { ...request('short.mkv', 'x.mkv'), mediaFiles: { game: file('gone.wav') } }),
    ).rejects.toMatchObject({
      name: 'MediaError',
      code: 'unreadable',
      message: expect.stringContaining('The recording of Lock & Paddle: There is no file gone.wav'),
    });
    await expect(
      renderAndProve(runner, { ...request('long.mkv', 'full.mkv'), spaceBytes: 200_000 }),
    ).rejects.toMatchObject({ name: 'DiskFullError' });
    expect(existsSync(file('full.mkv'))).toBe(false);
  });
});
