import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { noise } from '../core/testing/tones.ts';
import { TakeWriter } from '../server/media/takeWriter.ts';
import { testFolder, writeSound } from '../server/testing.ts';
import { main } from './main.ts';
import { catchPrinted, printed } from './testing.ts';

const RATE = 48_000;
const SECONDS = 20;
const folder = testFolder();
const evenings = join(folder.path, 'evenings');
const file = (name: string) => join(evenings, name);
afterAll(folder.remove);

catchPrinted();
process.env.XDG_CACHE_HOME = join(folder.path, 'cache');

/** Two tracks: records, and a mix with them in it at some level, or not. */
async function writeEvening(path: string, seed: number, level: number): Promise<void> {
  const [records, voice] = [seed, seed + 1].map((one) => noise(one, SECONDS * RATE));
  const writer = await TakeWriter.create(
    path,
    ['Records', 'Mix'].map((name) => ({ name, codec: 'pcm-s16', layout: 'mono' })),
  );
  await writer.add([[records], [voice.map((value, i) => value / 2 + level * records[i])]], records.length);
  await writer.finish();
}

beforeAll(async () => {
  mkdirSync(file('autumn'), { recursive: true });
  await writeEvening(file('evening 2.mkv'), 10, 0);
  await writeEvening(file('evening 10.mkv'), 20, 0.1);
  writeFileSync(file('autumn/broken.mkv'), 'this is no recording');
  writeFileSync(file('notes.txt'), 'this is passed over');
});

const ask = ['--forbid', '1', '--in', '2'];

describe('northfen verify, of many recordings', () => {
  test('checks all of a folder, and goes on where one cannot be read', async () => {
    expect(await main(['verify', evenings, ...ask, '--json'])).toBe(3);
    const { verdict, recordings } = JSON.parse(printed.out);
    expect(verdict).toBe('not clean');
    expect(recordings.map((one: { file: string; verdict?: string }) => [one.file, one.verdict])).toEqual([
      ['autumn/broken.mkv', undefined],
      ['evening 2.mkv', 'clean'],
      ['evening 10.mkv', 'not clean'],
    ]);
    expect(recordings[0].error).toContain('not an audio file');
    expect(recordings[2].leaks).toHaveLength(1);
  });

  test('says it in a table, and how many there are of each', async () => {
    expect(await main(['verify', file('evening 2.mkv'), file('autumn'), ...ask])).toBe(4);
    expect(printed.out).toMatch(
      /^clean {9}evening 2\.mkv\nnot read {6}broken\.mkv: .*\n2 recordings: 1 clean, 1 not read\.\n$/,
    );
  });

  test('goes on from what was kept, and checks again what has changed', async () => {
    const kept = join(folder.path, 'kept.json');
    const again = join(folder.path, 'again');
    mkdirSync(again);
    copyFileSync(file('evening 2.mkv'), join(again, 'one.mkv'));
    expect(await main(['verify', again, ...ask, '--keep', kept])).toBe(0);
    // What is kept is taken at its word: a mark in it comes up again.
    const marked = JSON.parse(readFileSync(kept, 'utf8'));
    marked.recordings[0].verdict = 'not testable';
    writeFileSync(kept, JSON.stringify(marked));
    expect(await main(['verify', again, ...ask, '--keep', kept])).toBe(4);
    // Another question, or another file, is another matter.
    expect(await main(['verify', again, '--forbid', '2', '--keep', kept])).toBe(0);
    utimesSync(join(again, 'one.mkv'), 1000, 1000);
    expect(await main(['verify', again, ...ask, '--keep', kept])).toBe(0);
    expect(JSON.parse(readFileSync(kept, 'utf8')).recordings).toHaveLength(3);
  });

  test('keeps nothing in a file that holds something else', async () => {
    const notes = file('notes.txt');
    expect(await main(['verify', evenings, ...ask, '--keep', notes])).toBe(1);
    expect(printed.errors).toContain('does not hold checks that Northfen kept');
    expect(readFileSync(notes, 'utf8')).toBe('this is passed over');
  });

  test('of a recording that was cut off, nothing is called clean', async () => {
    const cut = join(folder.path, 'cut.mkv');
    const bytes = readFileSync(file('evening 2.mkv'));
    writeFileSync(cut, bytes.subarray(0, bytes.length / 2));
    expect(await main(['verify', cut, ...ask, '--json'])).toBe(4);
    const { verdict, untested } = JSON.parse(printed.out);
    expect(verdict).toBe('not testable');
    expect(untested[0].reason).toMatch(/breaks off at 0:(09|10), but says that it is 0:20 long/);
  });

  test('nor where a sound that is looked for was cut off itself', async () => {
    const half = join(folder.path, 'half.wav');
    await writeSound(half, noise(99, SECONDS * RATE), {}, 'wav');
    const bytes = readFileSync(half);
    writeFileSync(half, bytes.subarray(0, bytes.length / 2));
    expect(await main(['verify', file('evening 2.mkv'), '--reference', half, '--in', '2', '--json'])).toBe(4);
    const { untested } = JSON.parse(printed.out);
    expect(untested[0].reason).toMatch(/half\.wav breaks off at 0:10, but says that it is 0:20 long/);
  });

  test('a folder without recordings is said to be that', async () => {
    const empty = join(folder.path, 'empty');
    mkdirSync(empty);
    expect(await main(['verify', empty, ...ask])).toBe(1);
    expect(printed.errors).toContain(`there is no recording in ${empty}.`);
  });

  test('watches a folder until it is stopped', async () => {
    const watched = join(folder.path, 'watched');
    mkdirSync(watched);
    copyFileSync(file('evening 2.mkv'), join(watched, 'there.mkv'));
    const done = main(['verify', watched, ...ask, '--watch', '--json']);
    const lines = () => printed.out.split('\n').filter(Boolean);
    const until = async (count: number) => {
      for (let tries = 0; lines().length < count && tries < 400; tries++) await wait(100);
    };
    await until(1);
    copyFileSync(file('evening 10.mkv'), join(watched, 'new.mkv'));
    await until(2);
    process.emit('SIGINT');
    expect(await done).toBe(3);
    expect(
      lines()
        .map((line) => JSON.parse(line))
        .map(({ file: name, verdict }) => [name, verdict]),
    ).toEqual([
      ['there.mkv', 'clean'],
      ['new.mkv', 'not clean'],
    ]);
  });
});

describe('northfen handoff, of many recordings', () => {
  test('gives each a folder of its own, goes on where one cannot be read, and leaves what is there', async () => {
    const out = join(folder.path, 'handed');
    const hand = ['handoff', evenings, '--out', out, '--forbid', '1', '--json'];
    expect(await main(hand)).toBe(1);
    const { recordings } = JSON.parse(printed.out);
    const said = recordings.map(({ file: name, out: into, ...rest }: Record<string, unknown>) => [
      name,
      into,
      rest.error ? 'error' : rest,
    ]);
    expect(said).toEqual([
      ['autumn/broken.mkv', undefined, 'error'],
      ['evening 2.mkv', join(out, 'evening 2'), { verdict: 'clean', tracks: 2, cut: [] }],
      ['evening 10.mkv', join(out, 'evening 10'), { verdict: 'not clean', tracks: 2, cut: [] }],
    ]);
    expect(readdirSync(join(out, 'evening 2'))).toContain('evening 2.otio');
    expect(existsSync(join(out, 'autumn'))).toBe(false);
    printed.out = '';
    expect(await main(hand)).toBe(1);
    expect(JSON.parse(printed.out).recordings.map((one: { isThere?: boolean }) => one.isThere)).toEqual([
      undefined,
      true,
      true,
    ]);
  });

  test('recordings that are called the same do not share a folder', async () => {
    const [one, other] = ['one', 'other'].map((name) => join(folder.path, name));
    for (const into of [one, other]) {
      mkdirSync(into);
      copyFileSync(file('evening 2.mkv'), join(into, 'same.mkv'));
    }
    const out = join(folder.path, 'same');
    const names = [one, other].map((into) => join(into, 'same.mkv'));
    expect(await main(['handoff', ...names, '--out', out, '--forbid', '1'])).toBe(0);
    expect(readdirSync(out).sort()).toEqual(['same', 'same.mkv']);
    expect(printed.out).not.toContain('already');
  });
});
