import { createHash } from 'node:crypto';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  readFileSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { Express } from 'express';
import { pino } from 'pino';
import request from 'supertest';
import type { Check } from '../core/check/records.ts';
import { noise } from '../core/testing/tones.ts';
import { createApp } from './app.ts';
import { localRunner } from './jobs/runner.ts';
import { TakeWriter } from './media/takeWriter.ts';
import { openContext } from './open.ts';
import { testFolder } from './testing.ts';

const RATE = 48_000;
const SECONDS = 20;
let folder: ReturnType<typeof testFolder>;
let mediaDir: string;
let context: ReturnType<typeof openContext>;
let app: Express;

function open(): void {
  const dataDir = join(folder.path, 'data');
  context = openContext({ dataDir, mediaDir, runner: localRunner(), log: pino({ level: 'silent' }) });
  app = createApp(context, null);
}

beforeEach(() => {
  folder = testFolder();
  mediaDir = join(folder.path, 'recordings');
  mkdirSync(join(mediaDir, 'summer'), { recursive: true });
  mkdirSync(join(folder.path, 'data'));
  open();
});
afterEach(async () => {
  await context.close();
  folder.remove();
});

const local = (call: request.Test) => call.set('Host', '127.0.0.1:4780');
const get = (path: string) => local(request(app).get(path));
const post = (path: string, body: object = {}) => local(request(app).post(path)).send(body);

/** A mix in which the second track is 20 dB down from the fifth to the fifteenth second, that track, and one of its own. */
async function writeEvening(path: string): Promise<void> {
  const [voice, music, game] = [1, 2, 3].map((seed) => noise(seed, SECONDS * RATE));
  const mix = voice.map((value, i) => value / 2 + (i >= 5 * RATE && i < 15 * RATE ? music[i] / 10 : 0));
  const writer = await TakeWriter.create(
    path,
    ['Stream', 'Music', 'Game'].map((name) => ({ name, codec: 'pcm-s16', layout: 'mono' })),
  );
  await writer.add(
    [mix, music, game].map((plane) => [plane]),
    mix.length,
  );
  await writer.finish();
  makeOld(path);
}

/** Recordings that were written a moment ago are waited for. */
function makeOld(path: string): void {
  utimesSync(path, new Date(2026, 4, 1), new Date(2026, 4, 1));
}

async function ended(id: string): Promise<Check> {
  for (let i = 0; i < 600; i++) {
    const { body } = await get(`/api/checks/${id}`).expect(200);
    if (body.state !== 'running' && body.state !== 'waiting') return body;
    await wait(50);
  }
  throw new Error('the work did not end');
}

async function bringIn(path: string, setupId: string | null = null): Promise<Check> {
  const { body } = await post('/api/checks', { paths: [path], setupId }).expect(201);
  return ended(body[0].id);
}

describe('a recording of the media folder', () => {
  test('is read where it is, checked by what its tracks suggest, and heard', async () => {
    const path = join(mediaDir, 'summer', 'evening.mkv');
    await writeEvening(path);
    const before = createHash('sha256').update(readFileSync(path)).digest('hex');
    const listed = await get('/api/media-folder').expect(200);
    expect(listed.body.files).toMatchObject([{ path: 'summer/evening.mkv', bytes: statSync(path).size }]);

    const read = await bringIn('summer/evening.mkv');
    expect(read).toMatchObject({ state: 'idle', trackCount: 3, verdict: null, result: null });
    expect(read.inspected?.tracks.map(({ name }) => name)).toEqual(['Stream', 'Music', 'Game']);
    expect(read.inspected?.tracks[0].outline.length).toBeGreaterThan(100);

    await post(`/api/checks/${read.id}/check`, read.plan ?? {}).expect(202);
    const checked = await ended(read.id);
    expect(checked.verdict).toBe('not clean');
    expect(checked.result?.leaks).toHaveLength(1);
    const [leak] = checked.result?.leaks ?? [];
    expect(leak).toMatchObject({ reference: 'Music', track: 1, uses: ['upload'] });
    expect(Math.abs(leak.startS - 5)).toBeLessThan(0.5);
    expect(Math.abs(leak.endS - 15)).toBeLessThan(0.5);
    expect(Math.abs(leak.levelDb + 20)).toBeLessThan(1);

    for (const what of ['track=1', 'reference=Music']) {
      const heard = await get(`/api/checks/${read.id}/passage.wav?${what}&from=6&seconds=4`).expect(200);
      expect(heard.headers['content-type']).toContain('audio/');
      expect(Number(heard.headers['content-length'])).toBeGreaterThan(4 * RATE * 4);
    }
    await get(`/api/checks/${read.id}/passage.wav?reference=Nobody&from=0&seconds=4`).expect(404);

    await local(request(app).delete(`/api/checks/${read.id}`)).expect(204);
    expect(createHash('sha256').update(readFileSync(path)).digest('hex')).toBe(before);
    await get(`/api/checks/${read.id}`).expect(404);
  });

  test('nothing outside of the folder is read, neither by its name nor by a link', async () => {
    writeFileSync(join(folder.path, 'private.mkv'), 'private');
    symlinkSync(join(folder.path, 'private.mkv'), join(mediaDir, 'link.mkv'));
    symlinkSync(folder.path, join(mediaDir, 'up'));
    for (const path of ['../private.mkv', 'link.mkv', 'up/private.mkv', 'summer/../../private.mkv']) {
      const { body } = await post('/api/checks', { paths: [path], setupId: null }).expect(403);
      expect(body.error.message).toContain('outside of the media folder');
    }
    const { body } = await get('/api/media-folder').expect(200);
    expect(body.files).toEqual([]);
    const gone = await post('/api/checks', { paths: ['gone.mkv'], setupId: null }).expect(404);
    expect(gone.body.error.message).toContain('is its disk not connected');
  });

  test('the same recording is added once, however often it is asked for', async () => {
    await writeEvening(join(mediaDir, 'evening.mkv'));
    const [one, other] = await Promise.all([
      post('/api/checks', { paths: ['evening.mkv'], setupId: null }),
      post('/api/checks', { paths: ['evening.mkv'], setupId: null }),
    ]);
    expect(other.body[0].id).toBe(one.body[0].id);
    await ended(one.body[0].id);
    expect((await get('/api/checks')).body).toHaveLength(1);
  });

  test('one that is still being written is waited for', async () => {
    const path = join(mediaDir, 'growing.mkv');
    await writeEvening(path);
    const whole = readFileSync(path);
    writeFileSync(path, whole.subarray(0, 1000));
    const { body } = await post('/api/checks', { paths: ['growing.mkv'], setupId: null }).expect(201);
    await wait(1200);
    expect((await get(`/api/checks/${body[0].id}`)).body.message).toContain(
      'Waiting until the file is whole',
    );
    appendFileSync(path, whole.subarray(1000));
    expect(await ended(body[0].id)).toMatchObject({ state: 'idle', trackCount: 3 });
  });

  test('one that is no recording says so by its own name, and can be tried again', async () => {
    writeFileSync(join(mediaDir, 'notes.mkv'), 'this is a text');
    makeOld(join(mediaDir, 'notes.mkv'));
    const failed = await bringIn('notes.mkv');
    expect(failed).toMatchObject({ state: 'failed' });
    expect(failed.message).toContain('notes.mkv is not an audio file that Northfen can read');
    await writeEvening(join(mediaDir, 'notes.mkv'));
    await post(`/api/checks/${failed.id}/go-on`).expect(200);
    expect(await ended(failed.id)).toMatchObject({ state: 'idle', trackCount: 3 });
  });
});

describe('work on recordings', () => {
  test('what waited or ran when the server ended goes on at the next start', async () => {
    await writeEvening(join(mediaDir, 'one.mkv'));
    await writeEvening(join(mediaDir, 'two.mkv'));
    const { body } = await post('/api/checks', { paths: ['one.mkv', 'two.mkv'], setupId: null }).expect(201);
    await context.close();
    open();
    for (const { id } of body) expect(await ended(id)).toMatchObject({ state: 'idle', trackCount: 3 });
  });

  test('it can be stopped, and gone on with', async () => {
    await writeEvening(join(mediaDir, 'one.mkv'));
    await writeEvening(join(mediaDir, 'two.mkv'));
    const { body } = await post('/api/checks', { paths: ['one.mkv', 'two.mkv'], setupId: null }).expect(201);
    await post(`/api/checks/${body[1].id}/stop`).expect(200);
    await ended(body[0].id);
    expect((await get(`/api/checks/${body[1].id}`)).body.state).toBe('stopped');
    await post(`/api/checks/${body[1].id}/go-on`).expect(200);
    expect(await ended(body[1].id)).toMatchObject({ state: 'idle', trackCount: 3 });
  });

  test('a folder of music files is looked through; the one that is in it is named', async () => {
    await writeEvening(join(mediaDir, 'evening.mkv'));
    for (const [name, seed] of [
      ['reeds.wav', 2],
      ['other.wav', 9],
    ] as const) {
      const writer = await TakeWriter.create(
        join(mediaDir, 'summer', name),
        [{ name, codec: 'pcm-s16', layout: 'mono' }],
        { container: 'wav' },
      );
      await writer.add([[noise(seed, SECONDS * RATE)]], SECONDS * RATE);
      await writer.finish();
    }
    const read = await bringIn('evening.mkv');
    const plan = {
      ...read.plan,
      tracks: read.plan?.tracks.map((track) => ({ ...track, notFor: [] })),
      files: [{ name: 'summer', place: { kind: 'folder', path: 'summer' }, notFor: ['upload'] }],
    };
    await post(`/api/checks/${read.id}/check`, plan).expect(202);
    const { verdict, result } = await ended(read.id);
    expect(verdict).toBe('not clean');
    expect(result?.pairs).toBe(2);
    expect(new Set(result?.leaks.map(({ reference }) => reference))).toEqual(new Set(['reeds.wav']));

    mkdirSync(join(mediaDir, 'empty'));
    const files = [{ name: 'empty', place: { kind: 'folder', path: 'empty' }, notFor: ['upload'] }];
    await post(`/api/checks/${read.id}/check`, { ...plan, files }).expect(202);
    expect(await ended(read.id)).toMatchObject({
      state: 'failed',
      message: expect.stringContaining('There is no recording in empty, so nothing can be looked for'),
    });
  });

  test('new files of a watched folder are added automatically', async () => {
    await local(request(app).put('/api/media-folder/arrivals'))
      .send({ watch: true, setupId: null })
      .expect(200);
    await wait(500);
    await writeEvening(join(mediaDir, 'new.mkv'));
    for (let i = 0; i < 100 && context.checks.list().length === 0; i++) await wait(50);
    const [check] = context.checks.list();
    expect(check).toMatchObject({ name: 'new.mkv', place: 'folder' });
    expect(await ended(check.id)).toMatchObject({ state: 'idle' });
  });
});

describe('an upload', () => {
  test('that breaks off goes on where it was, and is then read', async () => {
    const path = join(folder.path, 'evening.mkv');
    await writeEvening(path);
    const bytes = readFileSync(path);
    const tus = (call: request.Test) => local(call).set('Tus-Resumable', '1.0.0');
    const created = await tus(request(app).post('/api/uploads'))
      .set('Upload-Length', String(bytes.length))
      .set('Upload-Metadata', `filename ${Buffer.from('my evening.mkv').toString('base64')}`)
      .expect(201);
    const at = created.headers.location;
    const half = bytes.length >> 1;
    const send = (from: number, to: number) =>
      tus(request(app).patch(at))
        .set('Content-Type', 'application/offset+octet-stream')
        .set('Upload-Offset', String(from))
        .send(bytes.subarray(from, to));
    await send(0, half).expect(204);
    await context.close();
    open();
    const head = await tus(request(app).head(at)).expect(200);
    expect(head.headers['upload-offset']).toBe(String(half));
    await send(half, bytes.length).expect(204);
    const [check] = context.checks.list();
    expect(check).toMatchObject({ name: 'my evening.mkv', place: 'upload', bytes: bytes.length });
    expect(await ended(check.id)).toMatchObject({ state: 'idle', trackCount: 3 });
    const stored = join(folder.path, 'data', 'recordings', check.path);
    expect(existsSync(stored)).toBe(true);
    await local(request(app).delete(`/api/checks/${check.id}`)).expect(204);
    expect(existsSync(stored)).toBe(false);
  });
});
