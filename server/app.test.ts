import { once } from 'node:events';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { Express } from 'express';
import { pino } from 'pino';
import request from 'supertest';
import { regattaMadeRight } from '../core/demo/setups.ts';
import { writeSetupFile } from '../core/setup/file.ts';
import { sine } from '../core/testing/tones.ts';
import { createApp } from './app.ts';
import { localRunner } from './jobs/runner.ts';
import { openContext } from './open.ts';
import { writeSound } from './testing.ts';

let dataDir: string;
let context: ReturnType<typeof openContext>;
let app: Express;

function open(spaceBytes?: number): void {
  context = openContext({ dataDir, runner: localRunner(), log: pino({ level: 'silent' }), spaceBytes });
  app = createApp(context, null);
}

beforeEach(() => {
  dataDir = mkdtempSync(join(tmpdir(), 'northfen-app-'));
  open();
});
afterEach(async () => {
  await context.close();
  rmSync(dataDir, { recursive: true, force: true });
});

const api = () => request(app);
const local = (call: request.Test) => call.set('Host', '127.0.0.1:4780');

async function startVoiceOver(): Promise<{ id: string; revision: number }> {
  const { body } = await local(api().post('/api/setups')).send({ from: 'voice-over' }).expect(201);
  return body;
}

async function upload(name: string, bytes: Buffer, query = ''): Promise<request.Response> {
  return local(api().post(`/api/media?name=${encodeURIComponent(name)}${query}`)).send(bytes);
}

async function wavBytes(seconds: number, sampleRateHz = 440): Promise<Buffer> {
  const { readFile } = await import('node:fs/promises');
  const path = join(dataDir, `tone-${seconds}.wav`);
  await writeSound(path, sine(sampleRateHz, -12, seconds), {}, 'wav');
  const bytes = await readFile(path);
  rmSync(path);
  return bytes;
}

/** A WAV whose data part is there, but holds nothing. */
function emptyWav(whole: Buffer): Buffer {
  const header = Buffer.from(whole.subarray(0, whole.indexOf('data') + 8));
  header.writeUInt32LE(header.length - 8, 4);
  header.writeUInt32LE(0, header.length - 4);
  return header;
}

/** Waits until the only render of a setup has ended, and returns it. */
async function rendered(
  setupId: string,
): Promise<{ state: string; message: string | null; takeId: string | null }> {
  for (;;) {
    const { body } = await local(api().get(`/api/setups/${setupId}/renders`)).expect(200);
    if (body[0].state !== 'running') return body[0];
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

describe('the door', () => {
  test.each([
    ['another Host', { Host: 'elsewhere.example' }],
    ['another Origin', { Host: '127.0.0.1:4780', Origin: 'https://elsewhere.example' }],
    ['a page of another port', { Host: '127.0.0.1:4780', Origin: 'http://127.0.0.1:9999' }],
    ['an opaque origin', { Host: '127.0.0.1:4780', Origin: 'null' }],
  ])('refuses %s', async (_name, headers) => {
    await api().get('/api/setups').set(headers).expect(403);
  });

  test.each(['127.0.0.1:4780', 'localhost:4780', '[::1]:4780'])('answers to %s', async (host) => {
    await api()
      .get('/api/setups')
      .set({ Host: host, Origin: `http://${host}` })
      .expect(200);
  });

  test('says what is wrong with a request that breaks its schema', async () => {
    const { body } = await local(api().post('/api/setups')).send({ from: 'nowhere', colour: 1 }).expect(400);
    expect(body.error.problems.map((one: { field: string }) => one.field)).toContain('from');
    await local(api().get('/api/nothing')).expect(404);
  });
});

describe('setups', () => {
  test('are edited, undone and redone, also after the server was opened again', async () => {
    const { id } = await startVoiceOver();
    const edit = { edit: 'updateSource', id: 'game', values: { name: 'Game' } };
    const { body: edited } = await local(api().post(`/api/setups/${id}/edits`))
      .send({ revision: 1, edit })
      .expect(200);
    expect(edited).toMatchObject({ revision: 2, undo: 'change Game', redo: null });

    await context.close();
    open();
    const { body: undone } = await local(api().post(`/api/setups/${id}/undo`))
      .send({ revision: 2 })
      .expect(200);
    expect(undone).toMatchObject({ revision: 3, undo: null, redo: 'change Game' });
    expect(undone.setup.sources[1].name).toBe('Lock & Paddle');
    const { body: redone } = await local(api().post(`/api/setups/${id}/redo`))
      .send({ revision: 3 })
      .expect(200);
    expect(redone.setup).toEqual(edited.setup);
    await local(api().post(`/api/setups/${id}/redo`))
      .send({ revision: 4 })
      .expect(409);
  });

  test('two windows: a stale edit is refused, and nothing is lost', async () => {
    const { id } = await startVoiceOver();
    const rename = (name: string) => ({ revision: 1, edit: { edit: 'renameSetup', name } });
    await local(api().post(`/api/setups/${id}/edits`))
      .send(rename('First'))
      .expect(200);
    const { body } = await local(api().post(`/api/setups/${id}/edits`))
      .send(rename('Second'))
      .expect(409);
    expect(body.error.code).toBe('stale');
    const { body: now } = await local(api().get(`/api/setups/${id}`)).expect(200);
    expect(now).toMatchObject({ revision: 2, setup: { name: 'First' } });
  });

  test('an edit that would break a rule is refused in words', async () => {
    const { id } = await startVoiceOver();
    const send = (edit: object) => local(api().post(`/api/setups/${id}/edits`)).send({ revision: 1, edit });
    await send({ edit: 'setSend', pickup: 'game.pickup', to: 'nowhere', gainDb: 0 }).expect(422);
    await send({ edit: 'setSend', pickup: 'game.pickup', to: 'boat', gainDb: 1e9 }).expect(400);
    await send({
      edit: 'addTrack',
      id: 'game',
      track: { name: 'X', uses: [], purpose: 'edit', codec: 'flac', layout: 'mono' },
    }).expect(422);
    expect((await local(api().get(`/api/setups/${id}`))).body.revision).toBe(1);
  });

  test('are exported and imported whole; a broken file is refused with field and rule', async () => {
    const file = writeSetupFile(regattaMadeRight());
    const { body } = await local(api().post('/api/setups/import'))
      .set('Content-Type', 'text/plain')
      .send(file)
      .expect(201);
    const { text, headers } = await local(api().get(`/api/setups/${body.id}/export`)).expect(200);
    expect(JSON.parse(text)).toEqual(JSON.parse(file));
    expect(headers['content-disposition']).toContain('.northfen.json');
    const broken = file.replace('"to": "live-mix"', '"to": "gone"');
    const { body: refused } = await local(api().post('/api/setups/import'))
      .set('Content-Type', 'text/plain')
      .send(broken)
      .expect(422);
    expect(refused.error.message).toMatch(/sends\[\d+\]\.to: there is no track/);
    expect((await local(api().get('/api/setups'))).body).toHaveLength(1);
  });
});

describe('recordings', () => {
  test('are streamed in, measured, and given out again', async () => {
    const bytes = await wavBytes(2);
    const { body, status } = await upload('My "voice" ../🚤.wav', bytes);
    expect(status).toBe(201);
    expect(body).toMatchObject({
      name: 'My "voice" ../🚤.wav',
      channels: 2,
      sampleRate: 48000,
      durationS: 2,
    });
    expect(readdirSync(join(dataDir, 'media'))).toEqual([body.file]);
    expect(body.file).toMatch(/^[0-9a-f-]{36}\.wav$/);
    const { body: back } = await local(api().get(`/api/media/${body.id}/file`))
      .buffer(true)
      .parse(bufferOf)
      .expect(200);
    expect(bytes.equals(back as Buffer)).toBe(true);
  });

  test.each<[string, () => Promise<Buffer>, RegExp]>([
    [
      'a text file named .wav',
      async () => Buffer.from('this is not sound'),
      /take\.wav is not an audio file that Northfen can read. Export it as/,
    ],
    ['an empty file', async () => Buffer.alloc(0), /empty/],
    [
      'a WAV cut off in the middle',
      async () => (await wavBytes(2)).subarray(0, 200_000),
      /take\.wav is cut off: only 52 % /,
    ],
    [
      'a file of 0 seconds',
      async () => emptyWav(await wavBytes(1)),
      /0 seconds long: it has an audio track, but no sound in it/,
    ],
  ])('%s is refused with what to do, and leaves nothing behind', async (_name, make, message) => {
    const { body, status } = await upload('take.wav', await make());
    expect(status).toBe(422);
    expect(body.error.message).toMatch(message);
    expect(readdirSync(join(dataDir, 'media'))).toEqual([]);
    expect((await local(api().get('/api/media'))).body).toEqual([]);
  });

  test('the part of a cut WAV that is there can be used, when that is asked for', async () => {
    const { body, status } = await upload(
      'take.wav',
      (await wavBytes(2)).subarray(0, 200_000),
      '&allowCut=1',
    );
    expect(status).toBe(201);
    expect(body.durationS).toBeCloseTo(1.04, 1);
  });

  test('one that is in use is not deleted', async () => {
    const { body: media } = await upload('tone.wav', await wavBytes(1));
    const { id } = await startVoiceOver();
    const edit = { edit: 'updateSource', id: 'game', values: { media: { path: `media/${media.file}` } } };
    await local(api().post(`/api/setups/${id}/edits`))
      .send({ revision: 1, edit })
      .expect(200);
    const { body } = await local(api().delete(`/api/media/${media.id}`)).expect(409);
    expect(body.error.message).toContain('“Voice-over”');
    await local(api().post(`/api/setups/${id}/undo`))
      .send({ revision: 2 })
      .expect(200);
    await local(api().delete(`/api/media/${media.id}`)).expect(204);
    expect(readdirSync(join(dataDir, 'media'))).toEqual([]);
  });
});

describe('renders', () => {
  async function voiceOverWithTone(): Promise<string> {
    const { body: media } = await upload('tone.wav', await wavBytes(6));
    const { id } = await startVoiceOver();
    const edit = { edit: 'updateSource', id: 'game', values: { media: { path: `media/${media.file}` } } };
    await local(api().post(`/api/setups/${id}/edits`))
      .send({ revision: 1, edit })
      .expect(200);
    return id;
  }

  test('make a take whose file and tracks are given out, in ranges too', async () => {
    const id = await voiceOverWithTone();
    await local(api().post(`/api/setups/${id}/renders`)).expect(202);
    const job = await rendered(id);
    expect(job).toMatchObject({ state: 'done' });
    const { body: take } = await local(api().get(`/api/takes/${job.takeId}`)).expect(200);
    expect(take).toMatchObject({ name: 'Take 1', leaks: 0, durationS: 6 });
    expect(take.tracks.map((one: { trackId: string }) => one.trackId)).toEqual([
      'master',
      'voice',
      'boat',
      'bell',
    ]);
    const part = await local(api().get(`/api/takes/${job.takeId}/file`))
      .set('Range', 'bytes=0-3')
      .buffer(true)
      .parse(bufferOf)
      .expect(206);
    expect((part.body as Buffer).toString('hex')).toBe('1a45dfa3');
    const wav = await local(api().get(`/api/takes/${job.takeId}/tracks/3.wav`))
      .set('Range', 'bytes=0-3')
      .buffer(true)
      .parse(bufferOf)
      .expect(206);
    expect((wav.body as Buffer).toString('latin1')).toBe('RIFF');
    await local(api().get(`/api/takes/${job.takeId}/tracks/9.wav`)).expect(404);
    await local(api().delete(`/api/takes/${job.takeId}`)).expect(204);
    expect(readdirSync(join(dataDir, 'takes'))).toEqual([]);
  });

  test('a take becomes a recording of which files are made, with what was marked while rehearsing', async () => {
    const id = await voiceOverWithTone();
    const mark = { atS: 2.5, endS: null, name: 'Lock gate' };
    await local(api().post(`/api/setups/${id}/marks`))
      .send([mark])
      .expect(201);
    await local(api().post(`/api/setups/${id}/renders`)).expect(202);
    const { takeId } = await rendered(id);
    for (let times = 0; times < 2; times++) {
      const { body } = await local(api().post(`/api/takes/${takeId}/recording`)).expect(201);
      expect(body).toMatchObject({ name: 'Voice-over, Take 1.mkv', place: 'upload', setupId: id });
      const { body: marks } = await local(api().get(`/api/checks/${body.id}/marks`)).expect(200);
      expect(marks).toEqual([{ ...mark, id: expect.any(String) }]);
    }
    await local(api().delete(`/api/takes/${takeId}`)).expect(204);
    expect(readdirSync(join(dataDir, 'recordings'))).toEqual([`take-${takeId}.mkv`]);
  });

  test('without any recording fail with what to do', async () => {
    const { id } = await startVoiceOver();
    await local(api().post(`/api/setups/${id}/renders`)).expect(202);
    const job = await rendered(id);
    expect(job).toMatchObject({
      state: 'failed',
      message: 'No source has a recording to rehearse with. Add one on Sources, then render again.',
    });
    expect(readdirSync(join(dataDir, 'takes'))).toEqual([]);
  });

  test('on a full disk fail, leave no file, and lose nothing', async () => {
    await context.close();
    open(300_000);
    const id = await voiceOverWithTone();
    await local(api().post(`/api/setups/${id}/renders`)).expect(202);
    const job = await rendered(id);
    expect(job.state).toBe('failed');
    expect(job.message).toMatch(/The disk is full/);
    expect(readdirSync(join(dataDir, 'takes'))).toEqual([]);
    expect((await local(api().get(`/api/setups/${id}`))).body.revision).toBe(2);
  });

  test('that were running when the process died are marked so, and their files removed', async () => {
    const { id } = await startVoiceOver();
    context.jobs.create(id);
    await context.close();
    const orphan = join(dataDir, 'takes', '7b0e9a52-9f0e-4c7b-8a55-1d1f0c0a9b11');
    const foreign = join(dataDir, 'takes', 'holiday');
    for (const folder of [orphan, foreign]) {
      mkdirSync(folder);
      writeFileSync(join(folder, 'take.mkv'), 'half');
    }
    const halfUpload = join(dataDir, 'media', '7b0e9a52-9f0e-4c7b-8a55-1d1f0c0a9b12.wav.part');
    writeFileSync(halfUpload, 'half');
    open();
    expect(await rendered(id)).toMatchObject({
      state: 'interrupted',
      message: expect.stringMatching(/closed while this was rendering/),
    });
    expect(existsSync(orphan)).toBe(false);
    expect(existsSync(halfUpload)).toBe(false);
    expect(existsSync(join(foreign, 'take.mkv'))).toBe(true);
  });

  test('report their progress as server-sent events', async () => {
    const id = await voiceOverWithTone();
    const server = createServer(app).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const { port } = server.address() as AddressInfo;
    const abort = new AbortController();
    const events = await fetch(`http://127.0.0.1:${port}/api/events`, { signal: abort.signal });
    expect(events.headers.get('content-type')).toContain('text/event-stream');
    await fetch(`http://127.0.0.1:${port}/api/setups/${id}/renders`, { method: 'POST' });
    let text = '';
    for await (const chunk of events.body as unknown as AsyncIterable<Uint8Array>) {
      text += Buffer.from(chunk).toString();
      if (text.includes('"state":"done"')) break;
    }
    abort.abort();
    server.closeAllConnections();
    server.close();
    expect(text).toMatch(/^event: ?job$/m);
    expect(text).toContain('"phase":"Measuring"');
  });
});

/** Collects a binary answer. */
function bufferOf(response: request.Response, done: (error: Error | null, body: Buffer) => void): void {
  const chunks: Buffer[] = [];
  const stream = response as unknown as NodeJS.ReadableStream;
  stream.on('data', (chunk: Buffer) => chunks.push(chunk));
  stream.on('end', () => done(null, Buffer.concat(chunks)));
}

describe('the wiring over the server', () => {
  const startTwoMachines = async () =>
    (await local(api().post('/api/setups')).send({ from: 'two-machines' }).expect(201)).body as {
      id: string;
      revision: number;
      setup: { devices: { id: string }[] };
    };
  const edit = (id: string, revision: number, change: object) =>
    local(api().post(`/api/setups/${id}/edits`)).send({ revision, edit: change });

  test('a device in use is kept, and the answer says what depends on it', async () => {
    const { id, setup } = await startTwoMachines();
    const { body } = await edit(id, 1, { edit: 'removeDevice', id: 'loft.records' }).expect(422);
    expect(body.error.message).toContain(
      'Records is in use: Reedbox plays into it and the recorder takes it',
    );
    const { body: moved } = await edit(id, 1, {
      edit: 'removeDevice',
      id: 'loft.records',
      rehome: 'loft.cable',
    }).expect(200);
    expect(moved.setup.devices).toHaveLength(setup.devices.length - 1);
    const { body: undone } = await local(api().post(`/api/setups/${id}/undo`))
      .send({ revision: 2 })
      .expect(200);
    expect(undone.setup.devices).toEqual(setup.devices);
  });

  test('wiring that cannot be is refused with the field and the rule, and nothing is lost', async () => {
    const { id } = await startTwoMachines();
    const { body } = await edit(id, 1, {
      edit: 'updateLink',
      id: 'hdmi',
      values: { to: 'boathouse.chat-in' },
    }).expect(422);
    expect(JSON.stringify(body.error)).toContain('a link joins two machines');
    await edit(id, 1, { edit: 'updatePickup', id: 'call', values: { delayMs: 1e9 } }).expect(400);
    expect((await local(api().get(`/api/setups/${id}`))).body.revision).toBe(1);
  });

  test('is exported and comes in again as it was; a file of version 1 too', async () => {
    const { id, setup } = await startTwoMachines();
    const { text } = await local(api().get(`/api/setups/${id}/export`)).expect(200);
    expect(JSON.parse(text).version).toBe(2);
    const { body } = await local(api().post('/api/setups/import'))
      .set('Content-Type', 'text/plain')
      .send(text)
      .expect(201);
    expect(body.setup).toEqual(setup);
    const { machines: _m, devices: _d, links: _l, mixes: _x, scenes: _s, ...rest } = regattaMadeRight();
    const old = {
      ...rest,
      version: 1,
      pickups: rest.pickups.map(({ takes, ...pickup }) => ({ ...pickup, source: takes })),
    };
    const { body: opened } = await local(api().post('/api/setups/import'))
      .set('Content-Type', 'text/plain')
      .send(JSON.stringify(old))
      .expect(201);
    expect(opened.setup).toEqual(regattaMadeRight());
  });

  test('ticks of the set-up sheet are edits like any other', async () => {
    const { id } = await startTwoMachines();
    const { body } = await edit(id, 1, {
      edit: 'tickStep',
      step: 'apps:game',
      text: 'Leave it where it is.',
    }).expect(200);
    expect(body.setup.ticks).toEqual({ 'apps:game': 'Leave it where it is.' });
    expect(body.undo).toBe('tick a step of the set-up sheet');
  });
});

describe('the room', () => {
  test('is as the setup says until somebody changes it, and is kept', async () => {
    const { body: stored } = await local(api().post('/api/setups'))
      .send({ from: 'two-machines' })
      .expect(201);
    const { body: room } = await local(api().get(`/api/setups/${stored.id}/room`)).expect(200);
    expect(room.defaults).toEqual({ boathouse: 'boathouse.game', loft: 'loft.main' });
    expect(room.apps.find((app: { id: string }) => app.id === 'reedbox')).toMatchObject({
      into: 'loft.records',
      volumePercent: 40,
      sounding: true,
    });
    const changed = { ...room, defaults: { ...room.defaults, loft: 'loft.cable' } };
    await local(api().put(`/api/setups/${stored.id}/room`))
      .send(changed)
      .expect(200);
    expect((await local(api().get(`/api/setups/${stored.id}/room`))).body).toEqual(changed);
  });

  test('is refused when it is no room, and is nowhere without a setup', async () => {
    const { body: stored } = await local(api().post('/api/setups'))
      .send({ from: 'two-machines' })
      .expect(201);
    await local(api().put(`/api/setups/${stored.id}/room`))
      .send({ apps: [{ id: 'x' }], defaults: {} })
      .expect(400);
    await local(api().get('/api/setups/gone/room')).expect(404);
    await local(api().put('/api/setups/gone/room')).send({ apps: [], defaults: {} }).expect(404);
  });
});

describe('sounds for rehearsing and balancing', () => {
  const tonePath = async (name: string, seconds: number) => {
    const { body } = await upload(name, await wavBytes(seconds));
    return body.path as string;
  };

  test('a recording is unpacked once, and any passage of it can be read', async () => {
    const path = await tonePath('tone.wav', 2);
    const address = `/api/sounds/stem?${new URLSearchParams({ path })}`;
    const head = await local(api().head(address)).expect(200);
    expect(Number(head.headers['content-length'])).toBe(2 * 48_000 * 8);
    const { body } = await local(api().get(address))
      .set('Range', 'bytes=384000-384799')
      .buffer(true)
      .parse(bufferOf)
      .expect(206);
    const samples = new Float32Array((body as Buffer).buffer.slice(body.byteOffset, body.byteOffset + 800));
    const expected = sine(440, -12, 2).subarray(48_000, 48_100);
    expected.forEach((value, i) => {
      expect(Math.abs(samples[2 * i] - value)).toBeLessThan(1e-4);
      expect(samples[2 * i + 1]).toBe(samples[2 * i]);
    });
    const kept = readdirSync(join(dataDir, 'kept'));
    await local(api().get(address)).set('Range', 'bytes=0-7').expect(206);
    expect(readdirSync(join(dataDir, 'kept'))).toEqual(kept);
  });

  test('how sounds go together is measured for each pair, delayed and folded as they arrive', async () => {
    const path = await tonePath('tone.wav', 2);
    const sounds = [
      { sourceId: 'tone', delayFrames: 0, mono: false, processing: [] },
      { sourceId: 'tone', delayFrames: 480, mono: true, processing: [] },
    ];
    const sources = [{ id: 'tone', path, processing: [] }];
    const { body } = await local(api().post('/api/sounds/covariances'))
      .send({ sources, sounds })
      .buffer(true)
      .parse(bufferOf)
      .expect(200);
    const bytes = body as Buffer;
    expect([bytes.readUInt32LE(0), bytes.readUInt32LE(4)]).toEqual([2, 20]);
    const rows = new Float32Array(bytes.buffer.slice(bytes.byteOffset + 8, bytes.byteOffset + bytes.length));
    const [own, cross, late] = [0, 1, 2].map((row) => rows[row * 20 + 10]);
    expect(late).toBeCloseTo(own, 4);
    const turned = Math.cos(2 * Math.PI * 440 * 0.01);
    expect(cross / own).toBeCloseTo(turned, 2);
  });

  test('a recording of a voice is read for floor, speech and gate', async () => {
    const path = await tonePath('tone.wav', 2);
    const { body } = await local(
      api().get(`/api/sounds/calibration?${new URLSearchParams({ path })}`),
    ).expect(200);
    expect(body).toMatchObject({ speechDb: null, gateDb: null });
    expect(body.remarks[0]).toContain('It is 2.0 s long');
    const of = (fromS: string, untilS: string) =>
      local(api().get(`/api/sounds/calibration?${new URLSearchParams({ path, fromS, untilS })}`));
    const passage = await of('0.5', '1.25').expect(200);
    expect(passage.body.remarks[0]).toContain('It is 0.8 s long');
    await of('1.5', '1').expect(400);
    await of('x', '1').expect(400);
  });

  test('what everybody hears is measured without a take', async () => {
    const { id, revision } = await startVoiceOver();
    const path = await tonePath('voice.wav', 4);
    await local(api().post(`/api/setups/${id}/edits`))
      .send({ revision, edit: { edit: 'updateSource', id: 'narrator', values: { media: { path } } } })
      .expect(200);
    const { body } = await local(api().get(`/api/setups/${id}/destinations`)).expect(200);
    expect(body.revision).toBe(revision + 1);
    const heard = (destinationId: string) =>
      body.destinations.find((one: { destinationId: string }) => one.destinationId === destinationId);
    expect(heard('voice').truePeakDbtp).toBeCloseTo(-12, 0);
    expect(heard('headphones')).toMatchObject({ integratedLufs: null, truePeakDbtp: null });
    const edit = { edit: 'updateSource', id: 'narrator', values: { levelDb: -6 } };
    const post = (values: object) => local(api().post(`/api/setups/${id}/destinations`)).send({ ...values });
    const tried = await post({ revision: body.revision, edit }).expect(200);
    const before = heard('voice').integratedLufs;
    const after = tried.body.destinations.find(
      (one: { destinationId: string }) => one.destinationId === 'voice',
    ).integratedLufs;
    expect(after).toBeCloseTo(before - 6, 2);
    const now = await local(api().get(`/api/setups/${id}`)).expect(200);
    expect(now.body).toMatchObject({ revision: body.revision, undo: 'change Narrator' });
    expect(now.body.setup.sources[0].levelDb).toBe(0);
    await post({ revision, edit }).expect(409);
    await post({ revision: body.revision, edit: { ...edit, id: 'nobody' } }).expect(422);
  });

  test('what is not there, or asked for wrongly, is refused in words', async () => {
    const { body } = await local(api().get('/api/sounds/stem?path=media/gone.wav')).expect(404);
    expect(body.error.message).toBe('There is no recording media/gone.wav any more.');
    await local(api().get('/api/sounds/stem')).expect(400);
    await local(api().get('/api/sounds/calibration?path=../../etc/passwd')).expect(404);
    const sources = [{ id: 'x', path: 'media/x.wav', processing: [] }];
    for (const sounds of [[], [{ sourceId: 'x', delayFrames: -1, mono: false, processing: [] }], 'no list'])
      await local(api().post('/api/sounds/covariances')).send({ sources, sounds }).expect(400);
    const unsound = { processing: [{ does: 'high-pass', hz: 5 }] };
    await local(api().put('/api/presets'))
      .send({ name: 'Low', ...unsound })
      .expect(400);
    await local(api().put('/api/presets')).send({ name: 'Nothing', processing: [] }).expect(400);
    expect((await local(api().get('/api/presets')).expect(200)).body).toEqual([]);
    await local(api().get('/api/setups/gone/destinations')).expect(404);
  });
});

describe('what comes from outside', () => {
  test.each([
    ['/api/setups/%ff', 400],
    ['/api/setups/nobody', 404],
    ['/api/media/nobody/file', 404],
  ])('%s is answered with %s', async (path, status) => {
    await local(api().get(path)).expect(status);
  });

  test('a recording whose file is gone is not there', async () => {
    const { body } = await upload('tone.wav', await wavBytes(1)).then((answer) => answer);
    rmSync(join(dataDir, body.path));
    const answer = await local(api().get(`/api/media/${body.id}/file`)).expect(404);
    expect(answer.body.error.message).toBe('This file is not there any more.');
  });

  test('a recording is served as sound, whatever its name says', async () => {
    const { body } = await upload('page.html', await wavBytes(1));
    const { headers } = await local(api().get(`/api/media/${body.id}/file`)).expect(200);
    expect(headers['content-type']).toBe('audio/wav');
    expect(headers['x-content-type-options']).toBe('nosniff');
  });

  test.each([
    [{ 'Sec-Fetch-Site': 'cross-site', 'Sec-Fetch-Mode': 'no-cors', 'Sec-Fetch-Dest': 'image' }, 403],
    [{ 'Sec-Fetch-Site': 'same-site', 'Sec-Fetch-Mode': 'cors', 'Sec-Fetch-Dest': 'empty' }, 403],
    [{ 'Sec-Fetch-Site': 'cross-site', 'Sec-Fetch-Mode': 'navigate', 'Sec-Fetch-Dest': 'iframe' }, 403],
    [{ 'Sec-Fetch-Site': 'cross-site', 'Sec-Fetch-Mode': 'navigate', 'Sec-Fetch-Dest': 'document' }, 200],
    [{ 'Sec-Fetch-Site': 'same-origin', 'Sec-Fetch-Mode': 'cors', 'Sec-Fetch-Dest': 'empty' }, 200],
    [{ 'Sec-Fetch-Site': 'none', 'Sec-Fetch-Mode': 'navigate', 'Sec-Fetch-Dest': 'document' }, 200],
  ])('a request that the browser says is %j is answered with %s', async (headers, status) => {
    await local(api().get('/api/setups')).set(headers).expect(status);
  });

  test('pages may not be framed, nor send forms or bases elsewhere', async () => {
    const { headers } = await local(api().get('/api/setups'));
    for (const part of [
      "frame-ancestors 'none'",
      "base-uri 'none'",
      "form-action 'self'",
      "object-src 'none'",
    ])
      expect(headers['content-security-policy']).toContain(part);
  });

  test('a refused file lists its first problems and counts the others', async () => {
    const setup = regattaMadeRight();
    const sends = Array.from({ length: 2000 }, (_, i) => ({ pickup: `none-${i}`, to: 'nobody', gainDb: 0 }));
    const { body } = await local(api().post('/api/setups/import'))
      .set('Content-Type', 'text/plain')
      .send(JSON.stringify({ ...setup, sends }))
      .expect(422);
    expect(body.error.problems).toHaveLength(50);
    expect(body.error.message).toMatch(/and \d{4} more$/);
  });

  test('a source may be called “constructor” and is rendered', async () => {
    const setup = regattaMadeRight();
    const { body: tone } = await upload('tone.wav', await wavBytes(1));
    const text = JSON.stringify(setup)
      .replaceAll('"bellbuoy"', '"constructor"')
      .replaceAll('"bellbuoy.', '"constructor.');
    const silent = JSON.parse(text);
    for (const source of silent.sources) source.media = source.id === 'game' ? { path: tone.path } : null;
    const { body } = await local(api().post('/api/setups/import'))
      .set('Content-Type', 'text/plain')
      .send(JSON.stringify(silent))
      .expect(201);
    await local(api().get(`/api/setups/${body.id}/destinations`)).expect(200);
    await local(api().post(`/api/setups/${body.id}/renders`)).expect(202);
    expect(await rendered(body.id)).toMatchObject({ state: 'done' });
  });

  test('an Opus track may not have more than the codec can do', async () => {
    const { id } = await startVoiceOver();
    const track = {
      name: 'Voice',
      uses: ['file'],
      purpose: 'edit',
      codec: 'opus',
      layout: 'mono',
      bitrateKbps: 400,
    };
    const { body } = await local(api().post(`/api/setups/${id}/edits`))
      .send({ revision: 1, edit: { edit: 'addTrack', track } })
      .expect(422);
    expect(body.error.message).toMatch(/Opus takes up to 255 kb\/s for each channel, 255 here/);
  });
});

describe('windows', () => {
  const naming = (id: string, name: string) => ({ edit: 'updateSource', id, values: { name } });
  const edit = (id: string, revision: number, change: object, query: string, operation?: string) =>
    local(api().post(`/api/setups/${id}/edits?${query}`)).send({ revision, edit: change, operation });

  test('undo what they did, and what was done before they were opened', async () => {
    const { id } = await startVoiceOver();
    await edit(id, 1, naming('game', 'Before'), 'window=old&openedAt=1').expect(200);
    await edit(id, 2, naming('game', 'Mine'), 'window=a&openedAt=2').expect(200);
    await edit(id, 3, naming('narrator', 'Theirs'), 'window=b&openedAt=2').expect(200);
    const undo = (revision: number) =>
      local(api().post(`/api/setups/${id}/undo?window=a&openedAt=2`)).send({ revision });
    const first = await undo(4).expect(200);
    expect(first.body.setup.sources.map(({ name }: { name: string }) => name)).toEqual(
      expect.arrayContaining(['Before', 'Theirs']),
    );
    const second = await undo(5).expect(200);
    expect(second.body.setup.sources[1].name).toBe('Lock & Paddle');
    expect((await undo(6).expect(409)).body.error.code).toBe('nothing-to-undo');
  });

  test('are told where what they did was changed again since', async () => {
    const { id } = await startVoiceOver();
    await edit(id, 1, naming('game', 'Mine'), 'window=a&openedAt=1').expect(200);
    await edit(id, 2, naming('game', 'Theirs'), 'window=b&openedAt=1').expect(200);
    const { body } = await local(api().post(`/api/setups/${id}/undo?window=a&openedAt=1`))
      .send({ revision: 3 })
      .expect(409);
    expect(body.error.message).toMatch(
      /“change Mine” cannot be undone by itself: what it changed was changed again since/,
    );
  });

  test('may send a change twice, and it is made once', async () => {
    const { id } = await startVoiceOver();
    const operation = '7b0e9a52-9f0e-4c7b-8a55-1d1f0c0a9b11';
    const source = {
      name: 'New',
      kind: 'game',
      clearance: { live: true, vod: true, upload: true, edit: true },
      levelDb: 0,
      media: null,
    };
    await edit(id, 1, { edit: 'addSource', source }, 'window=a&openedAt=1', operation).expect(200);
    const { body } = await edit(
      id,
      1,
      { edit: 'addSource', source },
      'window=a&openedAt=1',
      operation,
    ).expect(200);
    expect(body.revision).toBe(2);
    expect(body.setup.sources.filter(({ name }: { name: string }) => name === 'New')).toHaveLength(1);
  });

  test('see the history and go back in it', async () => {
    const { id } = await startVoiceOver();
    for (const [at, name] of ['One', 'Two', 'Three'].entries())
      await edit(id, at + 1, naming('game', name), '').expect(200);
    const { body: history } = await local(api().get(`/api/setups/${id}/history`)).expect(200);
    expect(history.map(({ label }: { label: string }) => label)).toEqual([
      'change Three',
      'change Two',
      'change One',
    ]);
    const { body } = await local(api().post(`/api/setups/${id}/back`))
      .send({ revision: 4, edit: history[2].id })
      .expect(200);
    expect(body.setup.sources[1].name).toBe('One');
    expect(body.redo).toBe('change Two');
    const { body: copy } = await local(api().post(`/api/setups/${id}/copy`)).expect(201);
    expect(copy.setup).toEqual({ ...body.setup, name: `${body.setup.name}, copy` });
  });
});

describe('a database without room', () => {
  test('says so, keeps what it had, and goes on when there is room', async () => {
    const { id } = await startVoiceOver();
    const { default: Database } = await import('better-sqlite3');
    const pages = new Database(join(dataDir, 'northfen.sqlite'), { readonly: true });
    const count = pages.pragma('page_count', { simple: true }) as number;
    pages.close();
    context.db.pragma(`max_page_count = ${count}`);
    let refused = 0;
    let revision = 1;
    for (let i = 0; i < 60; i++) {
      const edit = { edit: 'updateSource', id: 'game', values: { name: `${i} ${'x'.repeat(70)}` } };
      const { status, body } = await local(api().post(`/api/setups/${id}/edits`)).send({ revision, edit });
      if (status === 200) revision = body.revision;
      else {
        refused += 1;
        expect([status, body.error.code]).toEqual([507, 'disk-full']);
      }
    }
    expect(refused).toBeGreaterThan(0);
    context.db.pragma('max_page_count = 1000000');
    const edit = { edit: 'updateSource', id: 'game', values: { name: 'With room again' } };
    await local(api().post(`/api/setups/${id}/edits`))
      .send({ revision, edit })
      .expect(200);
  });

  test('remembers how a render ended until it can be written down', async () => {
    const { id } = await startVoiceOver();
    const job = context.jobs.create(id);
    context.db.pragma('query_only = ON');
    context.jobs.update(job.id, { state: 'failed', message: 'The disk is full' });
    expect(context.jobs.get(job.id)).toMatchObject({ state: 'failed' });
    expect(context.jobs.list(id)[0]).toMatchObject({ state: 'failed', message: 'The disk is full' });
    context.db.pragma('query_only = OFF');
    const other = context.jobs.create(id);
    context.jobs.update(other.id, { progress: 0.5 });
    await context.close();
    open();
    expect(context.jobs.get(job.id).state).toBe('failed');
  });
});
