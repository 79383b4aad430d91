import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { regattaMadeRight, regattaWithFaults } from '../../core/demo/setups.ts';
import { PROCESSORS } from '../../core/processors/processing.ts';
import { conclusionOf } from '../../core/proof/conclusion.ts';
import type { Media } from '../../core/records.ts';
import { HttpError } from '../httpError.ts';
import { testFolder } from '../testing.ts';
import { type Db, openDatabase } from './database.ts';
import { JobStore } from './jobs.ts';
import { MediaStore } from './media.ts';
import { PresetStore } from './presets.ts';
import { SetupStore } from './setups.ts';
import { TakeStore } from './takes.ts';

const folder = testFolder();
let db: Db;
let setupId: string;
beforeAll(() => {
  db = openDatabase(folder.path);
  setupId = new SetupStore(db).create(regattaMadeRight()).id;
});
afterAll(() => {
  db.close();
  folder.remove();
});

describe('the database', () => {
  test('opens again as it was, and refuses one that a newer Northfen wrote', () => {
    db.close();
    db = openDatabase(folder.path);
    expect(new SetupStore(db).list().map(({ id }) => id)).toEqual([setupId]);
    const version = db.pragma('user_version', { simple: true }) as number;
    db.pragma(`user_version = ${version + 1}`);
    db.close();
    expect(() => openDatabase(folder.path)).toThrow(/written by a newer Northfen. Start that one/);
    const raw = new (db.constructor as new (path: string) => Db)(`${folder.path}/northfen.sqlite`);
    raw.pragma(`user_version = ${version}`);
    raw.close();
    db = openDatabase(folder.path);
  });
});

describe('renders', () => {
  test('are kept with what they came to, the newest first', () => {
    const jobs = new JobStore(db);
    const first = jobs.create(setupId);
    expect(first).toMatchObject({ state: 'running', progress: 0, message: null, takeId: null });
    jobs.update(first.id, { phase: 'Measuring', progress: 0.4 });
    jobs.update(first.id, { state: 'failed', message: 'The disk is full' });
    const second = jobs.create(setupId);
    expect(jobs.list(setupId).map(({ id, state, progress }) => [id, state, progress])).toEqual([
      [second.id, 'running', 0],
      [first.id, 'failed', 0.4],
    ]);
  });

  test('that ran when the process died are marked so, once', () => {
    const jobs = new JobStore(db);
    const interrupted = jobs.markInterrupted();
    expect(interrupted).toHaveLength(1);
    expect(jobs.get(interrupted[0].id)).toMatchObject({
      state: 'interrupted',
      message: expect.stringContaining('render again'),
    });
    expect(jobs.markInterrupted()).toEqual([]);
  });

  test('that are not there are a 404', () => {
    expect(() => new JobStore(db).get('gone')).toThrow(HttpError);
  });
});

describe('recordings', () => {
  const row = (file: string): Media => ({
    id: file,
    name: `Recording ${file}`,
    file,
    bytes: 1000,
    codec: 'flac',
    channels: 2,
    sampleRate: 48_000,
    durationS: 90,
    integratedLufs: null,
  });

  test('are found for the sources that name them, and for no others', () => {
    const media = new MediaStore(db);
    media.add(row('narrator.flac'));
    media.add(row('unused.flac'));
    expect(media.filesOf(regattaMadeRight(), '/data')).toEqual({
      narrator: '/data/media/narrator.flac',
    });
    media.remove('narrator.flac');
    expect(media.filesOf(regattaMadeRight(), '/data')).toEqual({});
    expect(media.list().map(({ file }) => file)).toEqual(['unused.flac']);
  });
});

describe('takes', () => {
  test('are kept with the setup as it was, renamed, listed and removed', () => {
    const takes = new TakeStore(db);
    const setup = regattaMadeRight();
    const add = (id: string) =>
      takes.add({
        id,
        setupId,
        name: `Take ${takes.count(setupId) + 1}`,
        revision: 3,
        setup,
        durationS: 90,
        bytes: 1e8,
        tracks: [],
        proof: [],
        leaks: 1,
        contradictions: 2,
        conclusion: conclusionOf(setup, [], [], '2026-05-01'),
      });
    add('one');
    expect(add('two').name).toBe('Take 2');
    expect(takes.get('one').setup).toEqual(setup);
    expect(takes.rename('one', 'Friday').name).toBe('Friday');
    expect(takes.list(setupId).map(({ id, leaks }) => [id, leaks])).toEqual([
      ['two', 1],
      ['one', 1],
    ]);
    expect(takes.get('one').conclusion).toMatchObject({ kind: 'proven', restricted: 5 });
    takes.remove('two');
    expect(takes.count(setupId)).toBe(1);
    expect(() => takes.get('two')).toThrow(HttpError);
    expect(() => takes.rename('two', 'x')).toThrow(HttpError);
  });

  test('from before conclusions were kept get theirs from what was measured', () => {
    const takes = new TakeStore(db);
    const proof = regattaWithFaults().sources.map(({ id }) => ({
      ...{
        sourceId: id,
        trackId: 'vod-mix',
        plannedDb: null,
        measuredDb: null,
        offsetMs: null,
        confidence: 0,
      },
      ...{ intervals: [], uncleared: [], verdict: 'silent' },
    }));
    db.prepare("UPDATE takes SET conclusion = '', setup = ?, proof = ? WHERE id = 'one'").run(
      JSON.stringify(regattaWithFaults()),
      JSON.stringify(proof),
    );
    expect(takes.get('one').conclusion).toMatchObject({ kind: 'differs', leaks: 0 });
    expect(takes.list(setupId)[0].conclusion.stops).toHaveLength(4);
  });

  test('go with their setup', () => {
    new SetupStore(db).remove(setupId);
    expect(new TakeStore(db).count(setupId)).toBe(0);
    expect(new JobStore(db).list(setupId)).toEqual([]);
  });
});

describe('presets', () => {
  test('are kept by name, replaced, and taken away; they outlive their setup', () => {
    const presets = new PresetStore(db);
    expect(presets.list()).toEqual([]);
    presets.set({ name: 'Room for the voice', processing: [PROCESSORS.limiter.initial] });
    presets.set({ name: 'Air', processing: [PROCESSORS.band.initial] });
    presets.set({ name: 'Room for the voice', processing: [PROCESSORS.compressor.initial] });
    expect(presets.list()).toEqual([
      { name: 'Air', processing: [PROCESSORS.band.initial] },
      { name: 'Room for the voice', processing: [PROCESSORS.compressor.initial] },
    ]);
    presets.remove('Air');
    presets.remove('there is none of this name');
    expect(presets.list().map(({ name }) => name)).toEqual(['Room for the voice']);
  });
});
