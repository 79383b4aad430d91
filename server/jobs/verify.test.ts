import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { DEMO_SOUNDS } from '../../core/demo/sounds.ts';
import { inspectTracks } from '../media/inspectTracks.ts';
import { TakeWriter } from '../media/takeWriter.ts';
import { localRunner } from './runner.ts';
import { verifyRecording } from './verify.ts';

const RATE = 48_000;
const runner = localRunner();
const SECONDS = 50;
const folder = mkdtempSync(join(tmpdir(), 'northfen-verify-'));
const recording = join(folder, 'evening.mkv');
const record = join(folder, 'record.flac');
afterAll(() => rmSync(folder, { recursive: true, force: true }));

type Pair = [Float32Array, Float32Array];
const demo = (file: string): Pair => {
  const { left, right } = (DEMO_SOUNDS.find((one) => one.file === file) ?? DEMO_SOUNDS[0]).make();
  return [left, right];
};

/** A mix of the game and (from 20 s on, from its tenth second on) the record 20 dB down; the game alone; the record alone; nothing. */
beforeAll(async () => {
  const [game, music] = [demo('lock-and-paddle.flac'), demo('reedbox.flac')];
  const planes = (of: (side: number, i: number) => number): Pair => [
    Float32Array.from({ length: SECONDS * RATE }, (_, i) => of(0, i)),
    Float32Array.from({ length: SECONDS * RATE }, (_, i) => of(1, i)),
  ];
  const at = (plane: Float32Array, i: number) => (i >= 0 && i < plane.length ? plane[i] : 0);
  const late = (side: number, i: number) => (i < 20 * RATE ? 0 : at(music[side], i - 10 * RATE));
  const tracks = [
    planes((side, i) => at(game[side], i) + 0.1 * late(side, i)),
    planes((side, i) => at(game[side], i)),
    planes(late),
    planes(() => 0),
  ];
  const names = ['Mix', 'Game', 'Records', 'Spare'];
  const writer = await TakeWriter.create(
    recording,
    names.map((name) => ({ name, codec: 'aac', bitrateKbps: 160, layout: 'stereo' })),
  );
  await writer.add(tracks, SECONDS * RATE);
  await writer.finish();
  const alone = await TakeWriter.create(record, [{ name: 'Record', codec: 'flac', layout: 'stereo' }], {
    container: 'flac',
  });
  await alone.add([music], music[0].length);
  await alone.finish();
});

describe('checking a recording', () => {
  test('finds a track of it in another one, with its place and level', async () => {
    const found = await verifyRecording(runner, recording, [
      { name: 'Records', track: 2, path: null, forbiddenIn: [0, 1] },
    ]);
    expect(found.verdict).toBe('not clean');
    expect(found.leaks).toHaveLength(1);
    const [leak] = found.leaks;
    expect(leak).toMatchObject({ reference: 'Records', track: 1 });
    expect(Math.abs(leak.startS - 20)).toBeLessThan(3);
    expect(Math.abs(leak.endS - SECONDS)).toBeLessThan(3);
    expect(Math.abs(leak.levelDb + 20)).toBeLessThan(2);
  });

  test('finds a music file that begins anywhere', async () => {
    const found = await verifyRecording(runner, recording, [
      { name: 'record.flac', track: null, path: record, forbiddenIn: [0, 1] },
    ]);
    expect(found.leaks.map(({ track }) => track)).toEqual([1]);
    expect(Math.abs(found.leaks[0].offsetMs - 10_000)).toBeLessThan(50);
    expect(Math.abs(found.leaks[0].levelDb + 20)).toBeLessThan(2);
  });

  test('is clean where nothing is found, and not testable where a reference is silent', async () => {
    const clean = await verifyRecording(runner, recording, [
      { name: 'Records', track: 2, path: null, forbiddenIn: [1] },
    ]);
    expect(clean).toEqual({ verdict: 'clean', leaks: [], untested: [] });
    const silent = await verifyRecording(runner, recording, [
      { name: 'Spare', track: 3, path: null, forbiddenIn: [1] },
    ]);
    expect(silent.verdict).toBe('not testable');
    expect(silent.untested).toEqual([
      { reference: 'Spare', track: 2, reason: 'nothing sounds in it, so there is nothing to compare with' },
    ]);
  });

  test('is not testable where a reference is a short ping that was not found', async () => {
    const ping = join(folder, 'ping.flac');
    const plane = new Float32Array(8 * RATE);
    for (let i = 0; i < RATE; i++)
      plane[2 * RATE + i] = 0.3 * Math.exp((-4 * i) / RATE) * Math.sin((2 * Math.PI * 880 * i) / RATE);
    const writer = await TakeWriter.create(ping, [{ name: 'Ping', codec: 'flac', layout: 'stereo' }], {
      container: 'flac',
    });
    await writer.add([[plane, plane]], plane.length);
    await writer.finish();
    const found = await verifyRecording(runner, recording, [
      { name: 'Ping', track: null, path: ping, forbiddenIn: [1] },
    ]);
    expect(found.verdict).toBe('not testable');
    expect(found.untested[0].reason).toMatch(/^it sounds for [12]\.\d s in all/);
  });

  test('is not testable where a reference is two bare tones', async () => {
    const tones = join(folder, 'tones.flac');
    const plane = Float32Array.from(
      { length: 20 * RATE },
      (_, i) =>
        0.1 * Math.sin((2 * Math.PI * 220 * i) / RATE) + 0.1 * Math.sin((2 * Math.PI * 331 * i) / RATE),
    );
    const writer = await TakeWriter.create(tones, [{ name: 'Tones', codec: 'flac', layout: 'stereo' }], {
      container: 'flac',
    });
    await writer.add([[plane, plane]], plane.length);
    await writer.finish();
    const found = await verifyRecording(runner, recording, [
      { name: 'tones.flac', track: null, path: tones, forbiddenIn: [1] },
    ]);
    expect(found.verdict).toBe('not testable');
    expect(found.untested[0].reason).toContain('a few steady tones');
  });

  test('looks at all that is there, whatever a damaged file says of its length', async () => {
    const short = join(folder, 'short.mkv');
    const bytes = readFileSync(recording);
    const at = bytes.indexOf(Buffer.from([0x44, 0x89, 0x88]));
    const saysMs = bytes.readDoubleBE(at + 3);
    expect(Math.abs(saysMs / 1000 - SECONDS)).toBeLessThan(1);
    bytes.writeDoubleBE(saysMs / 10, at + 3);
    writeFileSync(short, bytes);
    const { leaks } = await verifyRecording(runner, short, [
      { name: 'Records', track: 2, path: null, forbiddenIn: [0] },
    ]);
    expect(Math.abs((leaks[0]?.startS ?? 0) - 20)).toBeLessThan(3);
    expect(Math.abs((leaks[0]?.endS ?? 0) - SECONDS)).toBeLessThan(3);
  });

  test('a file that cannot be read is not testable, and the others are looked for all the same', async () => {
    const broken = join(folder, 'broken.flac');
    writeFileSync(broken, 'this is a text');
    const found = await verifyRecording(runner, recording, [
      { name: 'Song', track: null, path: broken, forbiddenIn: [1] },
      { name: 'Records', track: 2, path: null, forbiddenIn: [0] },
    ]);
    expect(found.leaks.map(({ reference }) => reference)).toEqual(['Records']);
    expect(found.untested).toEqual([
      { reference: 'Song', track: 2, reason: expect.stringContaining('Song is not an audio file') },
    ]);
  });

  test('a file that is damaged in the middle is looked for as far as it goes, and said to be so', async () => {
    const damaged = join(folder, 'damaged.flac');
    const bytes = readFileSync(record);
    bytes.fill(0, Math.round(bytes.length / 2));
    writeFileSync(damaged, bytes);
    const reference = { name: 'Song', track: null, path: damaged };
    const found = await verifyRecording(runner, recording, [
      { ...reference, forbiddenIn: [0, 1] },
      { name: 'Records', track: 2, path: null, forbiddenIn: [0] },
    ]);
    expect(found.leaks.map(({ reference: of, track }) => [of, track])).toEqual([
      ['Song', 1],
      ['Records', 1],
    ]);
    expect(found.untested).toEqual([
      {
        reference: 'Song',
        track: 2,
        reason: expect.stringContaining('its file is damaged, and up to there it was not found'),
      },
    ]);
  });

  test('says which tracks there are when another one is named', async () => {
    await expect(
      verifyRecording(runner, recording, [{ name: 'x', track: 6, path: null, forbiddenIn: [0] }]),
    ).rejects.toThrow('There is no audio track 7; the file has 4. Choose tracks from 1 to 4.');
  });
});

test('inspecting it tells the sum, the silent track and what each seems to carry', async () => {
  const { tracks, relations, proposals } = await inspectTracks(recording);
  expect(relations).toEqual([
    expect.objectContaining({
      kind: 'sum',
      track: 0,
      of: [expect.objectContaining({ track: 1 }), expect.objectContaining({ track: 2 })],
    }),
  ]);
  expect(proposals.map(({ role }) => role)).toEqual(['mix', 'game', 'music', 'silent']);
  expect(tracks[3]).toMatchObject({ silentShare: 1, integratedLufs: null });
  expect(tracks[2].silentShare).toBeCloseTo(20 / SECONDS, 1);
});
