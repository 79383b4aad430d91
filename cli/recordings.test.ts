import { execFileSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { voiceOver } from '../core/demo/setups.ts';
import { writeSetupFile } from '../core/setup/file.ts';
import { noise } from '../core/testing/tones.ts';
import { TakeWriter } from '../server/media/takeWriter.ts';
import { commandPrints } from '../server/settings.ts';
import { testFolder, writeSound } from '../server/testing.ts';
import { main } from './main.ts';
import { catchPrinted, printed } from './testing.ts';

const RATE = 48_000;
const SECONDS = 20;
const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

catchPrinted();
process.env.XDG_CACHE_HOME = file('cache');

/** Four tracks: one, another with the first 20 dB down in it, one of its own, and silence. */
beforeAll(async () => {
  const [a, b, c] = [1, 2, 3].map((seed) => noise(seed, SECONDS * RATE));
  const mixed = b.map((value, i) => value / 2 + a[i] / 10);
  const tracks = [a, mixed, c, new Float32Array(a.length)];
  const writer = await TakeWriter.create(
    file('evening.mkv'),
    ['Records', 'Mix', 'Game', 'Spare'].map((name) => ({ name, codec: 'pcm-s16', layout: 'mono' })),
  );
  await writer.add(
    tracks.map((plane) => [plane]),
    a.length,
  );
  await writer.finish();
});

describe('northfen verify', () => {
  test('says where and how loud, and ends with 3', async () => {
    const code = await main([
      'verify',
      file('evening.mkv'),
      '--forbid',
      '1',
      '--in',
      '2',
      '--in',
      '3',
      '--json',
    ]);
    expect(code).toBe(3);
    const { verdict, leaks, untested } = JSON.parse(printed.out);
    expect([verdict, untested]).toEqual(['not clean', []]);
    expect(leaks).toHaveLength(1);
    expect(Object.keys(leaks[0]).sort()).toEqual([
      'driftPpm',
      'endS',
      'levelDb',
      'offsetMs',
      'reference',
      'startS',
      'track',
      'way',
    ]);
    expect(leaks[0]).toMatchObject({ reference: 'Records', track: 2 });
    expect(Math.abs(leaks[0].levelDb + 20)).toBeLessThan(1);
  });

  test('keeps the fingerprint of a file that may begin anywhere, for the next time', async () => {
    const record = noise(1, SECONDS * RATE).subarray(4 * RATE);
    const writer = await TakeWriter.create(
      file('record.wav'),
      [{ name: 'Record', codec: 'pcm-s16', layout: 'mono' }],
      { container: 'wav' },
    );
    await writer.add([[record]], record.length);
    await writer.finish();
    const verify = ['verify', file('evening.mkv'), '--reference', file('record.wav'), '--in', '2', '--json'];
    expect(await main(verify)).toBe(3);
    const first = printed.out;
    const kept = readdirSync(commandPrints());
    expect(kept).toEqual([expect.stringMatching(/^[0-9a-f]{24}\.print$/)]);
    expect(JSON.parse(first).leaks).toMatchObject([{ reference: 'record.wav', track: 2 }]);
    printed.out = '';
    expect(await main(verify)).toBe(3);
    expect(printed.out).toBe(first);
    expect(readdirSync(commandPrints())).toEqual(kept);
  });

  test('looks for every record of a folder, each by its name below it', async () => {
    for (const name of ['shelf/old', 'shelf/new', 'bare']) mkdirSync(file(name), { recursive: true });
    await writeSound(file('shelf/new/one.wav'), noise(1, SECONDS * RATE), {}, 'wav');
    await writeSound(file('shelf/old/one.wav'), noise(8, SECONDS * RATE), {}, 'wav');
    writeFileSync(file('shelf/cover.png'), 'no sound');
    const named = ['--reference', file('shelf'), '--reference', file('shelf/new/one.wav')];
    const code = await main(['verify', file('evening.mkv'), ...named, '--in', '2', '--json']);
    const { leaks, untested } = JSON.parse(printed.out);
    expect([code, untested]).toEqual([3, []]);
    expect(leaks).toEqual([expect.objectContaining({ reference: 'new/one.wav', track: 2 })]);
    // What cannot be read might be in it all the same.
    writeFileSync(file('bare/old.aiff'), 'FORM');
    const bare = ['verify', file('evening.mkv'), '--reference', file('bare'), '--in', '2'];
    expect(await main(bare)).toBe(4);
    expect(printed.out).toContain('old.aiff in track 2: nothing can be said, since its file cannot be read');
    rmSync(file('bare/old.aiff'));
    expect(await main(bare)).toBe(1);
    expect(printed.errors).toContain(`there is no recording in ${file('bare')}`);
  });

  test('tells two sounds apart that are called the same', async () => {
    for (const [at, seed] of [1, 8].entries()) {
      mkdirSync(file(`disc ${at}`));
      await writeSound(file(`disc ${at}/song.wav`), noise(seed, SECONDS * RATE), {}, 'wav');
    }
    const found = async (...discs: number[]) => {
      printed.out = '';
      const named = discs.flatMap((disc) => ['--reference', file(`disc ${disc}/song.wav`)]);
      expect(await main(['verify', file('evening.mkv'), ...named, '--in', '2', '--json'])).toBe(3);
      return JSON.parse(printed.out).leaks.map((leak: { reference: string }) => leak.reference);
    };
    expect(await found(0, 1)).toEqual(['song.wav']);
    expect(await found(1, 0)).toEqual(['song.wav (2)']);
  });

  test('ends with 0 where it is clean, and with 4 where that cannot be tested', async () => {
    expect(await main(['verify', file('evening.mkv'), '--forbid', '1', '--in', '3'])).toBe(0);
    expect(printed.out).toMatch(
      /^evening\.mkv: clean\n.*40 dB below the rest\. What is fainter, or lasts only a few seconds, may be missed\.\n$/,
    );
    expect(await main(['verify', file('evening.mkv'), '--forbid', '4', '--in', '3'])).toBe(4);
    expect(printed.out).toContain('Spare in track 3: nothing can be said, since nothing sounds in it');
  });

  test('asks what must not be in it, and for tracks that there are', async () => {
    expect(await main(['verify', file('evening.mkv')])).toBe(1);
    expect(printed.errors).toContain('nothing is said that must not be in it');
    expect(await main(['verify', file('evening.mkv'), '--forbid', '9'])).toBe(1);
    expect(printed.errors).toContain('There is no audio track 9; the file has 4.');
  });
});

test('northfen inspect prints every track, how they go together and what they seem to carry', async () => {
  expect(await main(['inspect', file('evening.mkv'), '--json'])).toBe(0);
  const { tracks, relations, proposals } = JSON.parse(printed.out);
  expect(tracks.map(({ number, name, sides }: Record<string, unknown>) => [number, name, sides])).toEqual([
    [1, 'Records', 'one channel'],
    [2, 'Mix', 'one channel'],
    [3, 'Game', 'one channel'],
    [4, 'Spare', 'one channel'],
  ]);
  expect(relations).toEqual([]);
  expect(proposals.map(({ track, role }: Record<string, unknown>) => [track, role])).toEqual([
    [1, 'music'],
    [2, 'mix'],
    [3, 'game'],
    [4, 'silent'],
  ]);
});

test('northfen sound writes a test sound for each source, and ends with 4 where none was heard', async () => {
  const setup = voiceOver();
  writeFileSync(file('setup.json'), writeSetupFile(setup));
  expect(await main(['sound', file('setup.json'), '--out', file('codes')])).toBe(0);
  expect(readdirSync(file('codes')).sort()).toEqual(setup.sources.map(({ id }) => `${id}.wav`).sort());
  expect(await main(['sound', file('setup.json'), '--read', file('evening.mkv')])).toBe(4);
  expect(printed.out).toContain('No test sound was heard, so nothing is known of the room.');
  expect(await main(['sound', file('setup.json')])).toBe(1);
  expect(printed.errors).toContain('say --out to write the test sounds');
});

test('northfen repair writes what is left of a recording, and says what was lost', async () => {
  const whole = readFileSync(file('evening.mkv'));
  writeFileSync(file('cut.mkv'), whole.subarray(0, whole.length / 2));
  expect(await main(['repair', file('cut.mkv'), file('fixed.mkv'), '--json'])).toBe(0);
  const { tracks } = JSON.parse(printed.out);
  expect(tracks).toHaveLength(4);
  for (const { savedS, promisedS } of tracks) {
    expect(savedS).toBeGreaterThan(SECONDS / 2 - 2);
    expect(savedS).toBeLessThan(promisedS ?? SECONDS);
  }
  expect(await main(['inspect', file('fixed.mkv')])).toBe(0);
});

test('northfen repair --like reads a recording without its index by a whole one', async () => {
  const coded = ['-map', '0', '-c:v', 'copy', '-c:a', 'aac'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', file('evening.mkv'), ...coded, file('whole.mp4')]);
  const whole = readFileSync(file('whole.mp4'));
  writeFileSync(file('crashed.mp4'), whole.subarray(0, whole.indexOf('moov') / 2));
  expect(await main(['repair', file('crashed.mp4'), file('again.mp4')])).toBe(1);
  expect(printed.errors).toContain('--like');
  const like = ['--like', file('whole.mp4')];
  expect(await main(['repair', file('crashed.mp4'), file('again.mp4'), ...like])).toBe(0);
  expect(printed.out.match(/saved/g)).toHaveLength(4);
  expect(printed.out).toContain('Not copied: the last');
});

describe('northfen upload', () => {
  test('does not write what is not clean, unless that is said; and keeps its proof beside it', async () => {
    const args = ['upload', file('evening.mkv'), '--track', '2', '--out', file('not.mp4'), '--json'];
    expect(await main(args)).toBe(3);
    const said = JSON.parse(printed.out);
    expect(said).toMatchObject({ verdict: 'not clean', out: null, leaks: [{ reference: 'Records' }] });
    expect(existsSync(file('not.mp4'))).toBe(false);
    printed.out = '';
    expect(await main([...args, '--even-if-not-clean'])).toBe(3);
    expect(existsSync(file('not.mp4'))).toBe(true);
    expect(JSON.parse(readFileSync(file('not.mp4.proof.json'), 'utf8')).verdict).toBe('not clean');
  });

  test('never writes over what it is made of, by whatever name', async () => {
    const before = readFileSync(file('evening.mkv'));
    symlinkSync(folder.path, file('also here'));
    for (const out of [file('evening.mkv'), join(file('also here'), 'evening.mkv')]) {
      expect(await main(['upload', file('evening.mkv'), '--track', '3', '--out', out])).toBe(1);
      expect(await main(['remux', file('evening.mkv'), out])).toBe(1);
      const rescue = ['rescue', file('evening.mkv'), '--track', '2', '--reference', '1'];
      expect(await main([...rescue, '--out', out])).toBe(1);
    }
    expect(printed.errors.match(/written over itself/g)).toHaveLength(6);
    expect(readFileSync(file('evening.mkv')).equals(before)).toBe(true);
  });

  test('finds what must not be in it in whatever it is made of, also in the very track that carries it', async () => {
    const args = ['upload', file('evening.mkv'), '--out', file('itself.mp4'), '--json'];
    for (const chosen of [
      ['--track', '1'],
      ['--track', '1', '--track', '3'],
      ['--track', '1', '--forbid', '1'],
    ]) {
      printed.out = '';
      expect(await main([...args, ...chosen])).toBe(3);
      expect(JSON.parse(printed.out)).toMatchObject({
        verdict: 'not clean',
        leaks: [{ reference: 'Records' }],
      });
    }
    expect(existsSync(file('itself.mp4'))).toBe(false);
  });

  test('mixes voices clear of the game, or tracks as they were recorded where that is asked for', async () => {
    const [voice, game] = [noise(4, 12 * RATE).map((value) => value / 20), noise(5, 12 * RATE)];
    const tracks = ['Voice', 'Game'].map((name) => ({ name, codec: 'pcm-s16', layout: 'mono' }) as const);
    const writer = await TakeWriter.create(file('talk.mkv'), tracks);
    await writer.add([[voice], [game]], voice.length);
    await writer.finish();
    const args = ['upload', file('talk.mkv'), '--track', '1', '--track', '2', '--out', file('talk.mp4')];
    expect(await main([...args, '--json'])).toBe(0);
    const [voiceDb, gameDb] = JSON.parse(printed.out).levelsDb;
    // The game is 26 dB louder, and is to lie below the voice.
    expect(voiceDb).toBe(0);
    expect(gameDb).toBe(-24);
    printed.out = '';
    expect(await main([...args, '--as-recorded'])).toBe(0);
    expect(printed.out).toMatch(/^Mixed from track 1 at 0\.0 dB and track 2 at 0\.0 dB\.\n/);
  });

  test('writes what is clean, and says where nothing was looked for', async () => {
    const args = ['upload', file('evening.mkv'), '--lufs', '-20', '--json'];
    expect(await main([...args, '--track', '3', '--out', file('clean.mp4')])).toBe(0);
    expect(JSON.parse(printed.out)).toMatchObject({ verdict: 'clean', leaks: [], untested: [], tracks: [3] });
    printed.out = '';
    await main(['extract', file('evening.mkv'), '--track', '3', '--out', file('game')]);
    printed.out = '';
    const alone = ['upload', file('game/03 Game.wav'), '--track', '1', '--out', file('alone.mp4'), '--json'];
    expect(await main(alone)).toBe(0);
    expect(JSON.parse(printed.out)).toMatchObject({ verdict: null, leaks: [] });
    expect(readdirSync(folder.path).filter((name) => /part$|unchecked/.test(name))).toEqual([]);
  });
});

test('northfen handoff writes tracks, a timeline with the clean ones on, chapters, a list of records and the proof', async () => {
  const out = file('for the editor');
  expect(await main(['handoff', file('evening.mkv'), '--out', out, '--json'])).toBe(0);
  const said = JSON.parse(printed.out);
  expect(said).toMatchObject({ verdict: 'not clean', timeline: 'evening.otio' });
  expect(said.tracks.map(({ name, isOn }: { name: string; isOn: boolean }) => [name, isOn])).toEqual([
    ['Records', false],
    ['Mix', false],
    ['Game', true],
    ['Spare', true],
  ]);
  const names = [
    'evening cues.csv',
    'evening proof.html',
    'evening proof.json',
    'evening.otio',
    'evening.vtt',
  ];
  expect(readdirSync(out).sort()).toEqual([...names, 'tracks'].sort());
  expect(readFileSync(join(out, 'evening cues.csv'), 'utf8')).toMatch(/"Records","Mix",0\.0,20\.0/);
  expect(readFileSync(join(out, 'evening proof.html'), 'utf8')).toContain('<strong>not clean</strong>');
  printed.out = '';
  expect(await main(['handoff', file('evening.mkv'), '--out', out])).toBe(1);
  expect(printed.errors).toContain('evening.otio is there already');
});

test('northfen handoff --video makes the video of what may go out, beside what the editor gets', async () => {
  const out = file('in one go');
  const hand = ['handoff', file('evening.mkv'), '--out', out, '--video', '--lufs', '-20', '--json'];
  expect(await main(hand)).toBe(0);
  const { video, verdict } = JSON.parse(printed.out);
  expect(verdict).toBe('not clean');
  expect(video).toMatchObject({ file: 'evening.mp4', verdict: 'clean', leaks: [], untested: [] });
  expect(Math.abs(video.lufs + 20)).toBeLessThan(0.3);
  expect(readdirSync(out).sort()).toEqual([
    'editor',
    'evening.mp4',
    'evening.mp4.proof.html',
    'evening.mp4.proof.json',
  ]);
  expect(readdirSync(join(out, 'editor'))).toContain('evening.otio');
  // The mix holds the records, so that the one track that may go out is taken alone.
  printed.out = '';
  await main(['inspect', join(out, 'evening.mp4'), '--json']);
  expect(JSON.parse(printed.out).tracks).toHaveLength(1);
  printed.out = '';
  const game = join(out, 'editor/tracks/03 Game.wav');
  await main(['presence', '--reference', game, '--in', join(out, 'evening.mp4'), '--json']);
  expect(JSON.parse(printed.out).present).toBe(true);
  printed.out = '';
  expect(await main(hand)).toBe(1);
  expect(printed.errors).toContain('evening.otio is there already');
});

test('northfen handoff --video writes no video that could not be checked, and says how to have it', async () => {
  const whole = readFileSync(file('evening.mkv'));
  writeFileSync(file('broken off.mkv'), whole.subarray(0, whole.length / 2));
  const out = file('broken off');
  const hand = ['handoff', file('broken off.mkv'), '--out', out, '--video', '--forbid', '1'];
  expect(await main(hand)).toBe(4);
  expect(printed.out).toMatch(
    /Video: not written, because it is not testable\.[\s\S]*--even-if-not-testable/,
  );
  expect(readdirSync(out)).toEqual(['editor']);
});

test('northfen remux and extract say what they wrote', async () => {
  expect(await main(['remux', file('evening.mkv'), file('again.mov'), '--json'])).toBe(0);
  expect(JSON.parse(printed.out).tracks.map(({ name }: { name: string }) => name)).toEqual([
    'Records',
    'Mix',
    'Game',
    'Spare',
  ]);
  printed.out = '';
  expect(
    await main(['extract', file('evening.mkv'), '--out', file('alone'), '--track', '3', '--format', 'flac']),
  ).toBe(0);
  expect(printed.out).toBe('3  03 Game.flac (0:20.0)\n');
});

test('what is made of a recording that breaks off ends where it does, and says so', async () => {
  const whole = readFileSync(file('evening.mkv'));
  writeFileSync(file('half.mkv'), whole.subarray(0, whole.length / 2));
  const words =
    /half\.mkv breaks off at 0:(\d\d), but says that it is 0:20 long: only what is there could be used\.\n$/;
  expect(await main(['remux', file('half.mkv'), file('half.mov')])).toBe(0);
  expect(printed.out).toMatch(words);
  printed.out = '';
  expect(await main(['extract', file('half.mkv'), '--out', file('half'), '--track', '3'])).toBe(0);
  const [, endS] = words.exec(printed.out) ?? [];
  const [, lengthS] = /03 Game\.wav \(0:(\d\d\.\d)\)/.exec(printed.out) ?? [];
  expect(Math.abs(Number(lengthS) - Number(endS))).toBeLessThan(0.6);
  printed.out = '';
  expect(await main(['remux', file('evening.mkv'), file('whole.mov')])).toBe(0);
  expect(printed.out).not.toContain('breaks off');
});
