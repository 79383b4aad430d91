import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Express } from 'express';
import { pino } from 'pino';
import request from 'supertest';
import type { Delivery, DeliveryOrder, Mark } from '../core/deliver/records.ts';
import { createApp } from './app.ts';
import { knownOf } from './jobs/making/known.ts';
import { localRunner } from './jobs/runner.ts';
import { openContext } from './open.ts';
import { testFolder } from './testing.ts';

const SECONDS = 12;
const folder = testFolder();
const mediaDir = join(folder.path, 'recordings');
const dataDir = join(folder.path, 'data');
let context: ReturnType<typeof openContext>;
let app: Express;
let checkId: string;

/** A picture; a mix with the music 12 dB down from the third second on; a mix without; the music alone. */
function writeEvening(path: string): void {
  const length = `duration=${SECONDS}:sample_rate=48000`;
  const song = '0.3*sin(2*PI*t*(220+110*floor(mod(t*1.7,5))))*exp(-3*mod(t*1.7,1))';
  const parts = [
    `testsrc=size=160x90:rate=30:duration=${SECONDS}[v]`,
    `anoisesrc=seed=1:amplitude=0.2:${length},aformat=channel_layouts=stereo,asplit=2[clean][m]`,
    `aevalsrc='${song}|${song}':${length}[tune]`,
    `anoisesrc=seed=2:amplitude=0.05:${length},aformat=channel_layouts=stereo[hiss]`,
    '[tune][hiss]amix=inputs=2:normalize=0,asplit=2[music][r]',
    "[r]volume='0.25*gte(t,3)':eval=frame[leak]",
    '[m][leak]amix=inputs=2:normalize=0[mix]',
  ];
  const maps = ['v', 'mix', 'clean', 'music'].flatMap((name) => ['-map', `[${name}]`]);
  const titles = ['Stream', 'Upload', 'Music'].flatMap((title, at) => [
    `-metadata:s:a:${at}`,
    `title=${title}`,
  ]);
  const coded = ['-c:v', 'libx264', '-g', '60', '-c:a', 'pcm_s24le'];
  const args = ['-v', 'error', '-y', '-filter_complex', parts.join(';'), ...maps, ...titles, ...coded, path];
  execFileSync('ffmpeg', args);
  utimesSync(path, new Date(2026, 4, 1), new Date(2026, 4, 1));
}

const local = (call: request.Test) => call.set('Host', '127.0.0.1:4780');
const get = (path: string) => local(request(app).get(path));
const post = (path: string, body: object = {}) => local(request(app).post(path)).send(body);

beforeAll(async () => {
  mkdirSync(mediaDir);
  mkdirSync(dataDir);
  writeEvening(join(mediaDir, 'evening.mkv'));
  open();
  const { body } = await post('/api/checks', { paths: ['evening.mkv'], setupId: null }).expect(201);
  checkId = body[0].id;
  await until(async () => (await get(`/api/checks/${checkId}`)).body.state === 'idle');
});
afterAll(async () => {
  await context.close();
  folder.remove();
});

function open(): void {
  context = openContext({ dataDir, mediaDir, runner: localRunner(), log: pino({ level: 'silent' }) });
  app = createApp(context, null);
}

async function until(isSo: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 1200; i++) {
    if (await isSo()) return;
    await wait(50);
  }
  throw new Error('it did not come to that');
}

async function made(order: DeliveryOrder, of = checkId): Promise<Delivery> {
  const { body } = await post('/api/deliveries', { checkId: of, order }).expect(202);
  const now = async () => (await get(`/api/deliveries/${body.id}`)).body as Delivery;
  await until(async () => !['waiting', 'running'].includes((await now()).state));
  return now();
}

const upload = (track: number, values: object = {}) => ({
  tracks: [{ track, rescueId: null, gainDb: 0 }],
  targetLufs: -16,
  ceilingDbtp: -1,
  container: 'mp4' as const,
  fadeS: 0,
  pieces: [{ name: 'The evening', fromS: 0, untilS: null }],
  evenIf: [],
  ...values,
});

describe('what is made of a recording', () => {
  test('a clean video with its proof, clips, tracks and a timeline, in one go', async () => {
    const before = readFileSync(join(mediaDir, 'evening.mkv'));
    const { body: marks } = await post(`/api/checks/${checkId}/marks`, [
      { atS: 4, endS: null, name: 'Overtaken at the lock' },
    ]).expect(201);
    expect(marks[0]).toMatchObject({ atS: 4, name: 'Overtaken at the lock' });
    const pieces = [
      { name: 'The evening', fromS: 0, untilS: null },
      { name: 'The evening', fromS: 4, untilS: 9 },
    ];
    const delivery = await made({ kind: 'files', upload: upload(1, { pieces }), handoff: 'wav' });
    expect(delivery).toMatchObject({ state: 'done', message: null, progress: 1 });
    const names = delivery.files.map(({ name }) => name);
    expect(names).toEqual(
      expect.arrayContaining([
        'The evening.mp4',
        'The evening.mp4.proof.html',
        'The evening 2.mp4',
        'editor/evening.otio',
        'editor/evening.vtt',
        'editor/tracks/03 Music.wav',
      ]),
    );
    expect(names.some((name) => /part|unchecked/.test(name))).toBe(false);
    const result = delivery.result?.kind === 'files' ? delivery.result : null;
    expect(result?.uploads.map(({ verdict }) => verdict)).toEqual(['clean', 'clean']);
    expect(result?.uploads[0].lufs).toBeCloseTo(-16, 0);
    // The mix that holds the music, and the music itself, are off when the timeline is opened.
    expect(result?.handoff?.tracks.map(({ isOn }) => isOn)).toEqual([false, true, false]);
    const chapters = readFileSync(join(delivery.folder, 'editor/evening.vtt'), 'utf8');
    expect(chapters).toContain('Overtaken at the lock');
    expect(readFileSync(join(mediaDir, 'evening.mkv')).equals(before)).toBe(true);

    const page = await get(
      `/api/deliveries/${delivery.id}/file?name=${encodeURIComponent('The evening.mp4.proof.html')}`,
    ).expect(200);
    expect(page.text).toContain('clean');
    await get(`/api/deliveries/${delivery.id}/file?name=..%2Fnorthfen.sqlite`).expect(404);

    writeFileSync(join(delivery.folder, 'my own notes.txt'), 'stay');
    await local(request(app).delete(`/api/deliveries/${delivery.id}`)).expect(204);
    expect(readdirSync(delivery.folder)).toEqual(['my own notes.txt']);
  });

  test('what is not clean is not written, unless that is said', async () => {
    const order = { kind: 'files', upload: upload(0), handoff: null } as const;
    const held = await made(order);
    expect(held).toMatchObject({ state: 'done', files: [], folder: '' });
    expect(held.message).toBe('Not written, because it is not clean: The evening.');
    const allowed = await made({ ...order, upload: upload(0, { evenIf: ['not clean'] }) });
    expect(allowed.files.map(({ name }) => name)).toContain('The evening.mp4');
  });

  test('a sound is taken out of a mix, and what is left is heard in an upload', async () => {
    const rescue = await made({ kind: 'rescue', track: 0, sound: { track: 2, file: null } });
    const result = rescue.result?.kind === 'rescue' ? rescue.result : null;
    expect(result?.rescue.downDb).toBeGreaterThan(10);
    expect(rescue.files).toHaveLength(2);
    const tracks = [{ track: 0, rescueId: rescue.id, gainDb: 0 }];
    const delivery = await made({
      kind: 'files',
      upload: upload(0, { tracks, evenIf: ['not clean'] }),
      handoff: null,
    });
    expect(delivery.state).toBe('done');
    expect(delivery.files.map(({ name }) => name)).toContain('The evening.mp4');
  });

  test('a copy in another container, and a repaired one', async () => {
    const copy = await made({ kind: 'rewrap', container: 'mov' });
    expect(copy).toMatchObject({ state: 'done', result: { kind: 'rewrap', file: 'evening.mov', left: [] } });
    const repaired = await made({ kind: 'repair' });
    expect(repaired.files.map(({ name }) => name)).toEqual(['evening repaired.mkv']);
    const lines = repaired.result?.kind === 'repair' ? repaired.result.lines : [];
    expect(lines).toHaveLength(4);
    expect(lines[1]).toContain(`audio track 1 “Stream” (pcm-s24): 0:${SECONDS} saved`);
  });

  test('what is usual, of several recordings in one go', async () => {
    const order = { checkIds: [checkId, checkId], isVideo: false, handoff: 'flac' };
    const { body } = await post('/api/deliveries/usual', order).expect(202);
    for (const { id } of body as Delivery[])
      await until(async () => (await get(`/api/deliveries/${id}`)).body.state === 'done');
    const newest = (await get('/api/deliveries')).body as Delivery[];
    expect(newest.slice(0, 2).map(({ folder }) => folder)).toEqual([
      expect.stringMatching(/evening \d+$/),
      expect.stringMatching(/evening( \d+)?$/),
    ]);
    expect(newest[0].go).not.toBeNull();
    expect(newest[1].go).toBe(newest[0].go);
    await post('/api/deliveries/usual', { ...order, handoff: null }).expect(400);
  });

  test('what the check has found is not looked for again, as long as nothing has changed', async () => {
    const { plan } = context.checks.get(checkId);
    const tracks = plan?.tracks.map((one, at) => (at === 0 ? { ...one, goesTo: ['upload'] } : one));
    await post(`/api/checks/${checkId}/check`, { ...plan, tracks }).expect(202);
    await until(async () => (await get(`/api/checks/${checkId}`)).body.state === 'idle');
    const path = join(mediaDir, 'evening.mkv');
    const music = { name: 'Music', track: 2, path: null, forbiddenIn: [] };
    const known = async () =>
      knownOf({ ...context, checking: context.checking }, context.checks.get(checkId), path, [music]);
    const before = await known();
    expect(before.asked).toContainEqual({ sound: 'Music', track: 0 });
    expect(before.leaks[0]).toMatchObject({ reference: 'Music', track: 1 });
    utimesSync(path, new Date(), new Date(Date.now() + 60_000));
    expect((await known()).asked).toEqual([]);
    utimesSync(path, new Date(2026, 4, 1), new Date(2026, 4, 1));
  });

  test('what cannot be is refused in words', async () => {
    const beyond = { kind: 'files', upload: upload(7), handoff: null };
    const refused = await post('/api/deliveries', { checkId, order: beyond }).expect(422);
    expect(refused.body.error.message).toContain('no track 8');
    const nothing = { kind: 'files', upload: null, handoff: null };
    await post('/api/deliveries', { checkId, order: nothing }).expect(400);
    const itself = { kind: 'rescue', track: 1, sound: { track: 1, file: null } };
    await post('/api/deliveries', { checkId, order: itself }).expect(422);
  });

  test('one that was being made when the process died is told, and leaves nothing', async () => {
    const half = join(dataDir, 'made', 'half');
    mkdirSync(half, { recursive: true });
    writeFileSync(join(half, 'The evening.mp4.part'), 'half');
    const { id } = context.deliveries.add(checkId, { kind: 'files', upload: upload(1), handoff: null });
    context.deliveries.update(id, { state: 'running', folder: half });
    await context.close();
    open();
    await until(async () => !existsSync(half));
    const told = (await get(`/api/deliveries/${id}`)).body as Delivery;
    expect(told).toMatchObject({ state: 'failed', folder: '' });
    expect(told.message).toContain('Make it again');
    await post(`/api/deliveries/${id}/again`).expect(200);
    await until(async () => (await get(`/api/deliveries/${id}`)).body.state === 'done');
  });

  test('nothing is made of a recording that has changed since it was read', async () => {
    const path = join(mediaDir, 'evening.mkv');
    const { size } = statSync(path);
    writeFileSync(path, Buffer.alloc(10), { flag: 'a' });
    const failed = await made({ kind: 'files', upload: upload(1), handoff: null });
    expect(failed).toMatchObject({ state: 'failed', folder: '' });
    expect(failed.message).toContain('has changed');
    execFileSync('truncate', ['-s', String(size), path]);
  });
});

describe('marks of a recording', () => {
  test('are set, changed, removed, and proposed', async () => {
    const marks = `/api/checks/${checkId}/marks`;
    const { body } = await post(marks, [{ atS: 1, endS: 3, name: 'First lock' }]).expect(201);
    const change = { atS: 1.5, endS: 3, name: 'Second lock' };
    await local(request(app).put(`${marks}/${body[0].id}`))
      .send(change)
      .expect(200);
    expect(((await get(marks)).body as Mark[]).find(({ id }) => id === body[0].id)).toMatchObject(change);
    await local(request(app).delete(`${marks}/${body[0].id}`)).expect(204);
    expect(((await get(marks)).body as Mark[]).some(({ id }) => id === body[0].id)).toBe(false);
    await post(marks, [{ atS: 1, endS: null, name: ' ' }]).expect(400);
    const looked = await made({ kind: 'marks' });
    expect(looked.result).toMatchObject({ kind: 'marks' });
  });
});

test('what is made of a recording that breaks off says so', async () => {
  const whole = readFileSync(join(mediaDir, 'evening.mkv'));
  writeFileSync(join(mediaDir, 'half.mkv'), whole.subarray(0, whole.length / 2));
  utimesSync(join(mediaDir, 'half.mkv'), new Date(2026, 4, 1), new Date(2026, 4, 1));
  const { body } = await post('/api/checks', { paths: ['half.mkv'], setupId: null }).expect(201);
  await until(async () => (await get(`/api/checks/${body[0].id}`)).body.state === 'idle');
  const { message } = await made({ kind: 'rewrap', container: 'mov' }, body[0].id);
  expect(message).toMatch(/^The recording breaks off at 0:0\d, but says that it is 0:12 long: /);
  const repaired = await made({ kind: 'repair' }, body[0].id);
  expect(repaired.message).toBeNull();
  expect((await made({ kind: 'rewrap', container: 'mov' })).message).toBeNull();
});

test('a recording that has lost its index is repaired by a whole one of the list', async () => {
  const coded = ['-map', '0', '-c:v', 'copy', '-c:a', 'aac'];
  const whole = join(mediaDir, 'whole.mp4');
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', join(mediaDir, 'evening.mkv'), ...coded, whole]);
  const bytes = readFileSync(whole);
  writeFileSync(join(mediaDir, 'crashed.mp4'), bytes.subarray(0, 0.8 * bytes.indexOf('moov')));
  for (const name of ['whole.mp4', 'crashed.mp4'])
    utimesSync(join(mediaDir, name), new Date(2026, 4, 1), new Date(2026, 4, 1));
  const paths = ['whole.mp4', 'crashed.mp4'];
  const { body } = await post('/api/checks', { paths, setupId: null }).expect(201);
  const [sound, crashed] = body as { id: string }[];
  for (const { id } of [sound, crashed])
    await until(async () => ['idle', 'failed'].includes((await get(`/api/checks/${id}`)).body.state));
  expect((await get(`/api/checks/${crashed.id}`)).body.message).toContain('has lost its index');

  expect((await made({ kind: 'repair' }, crashed.id)).message).toContain('has lost its index');
  const wrong = await made({ kind: 'repair', like: checkId }, crashed.id);
  expect(wrong.message).toContain('evening.mkv is no MP4 or MOV with an index');
  const { message, result } = await made({ kind: 'repair', like: sound.id }, crashed.id);
  expect(message).toBeNull();
  const lines = result?.kind === 'repair' ? result.lines : [];
  expect(lines[1]).toMatch(/audio track 1 “Stream” \(aac\): 0:(08|09|10) saved/);
  expect(lines.at(-2)).toMatch(/^Not copied: the last \d+ kB/);
  expect(lines.at(-1)).toContain('Only their order in whole.mp4 tells which is which');
});
