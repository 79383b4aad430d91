import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { seededRandom } from '../../core/audio/random.ts';
import { gameSound } from '../../core/demo/game.ts';
import { recordSound } from '../../core/demo/records.ts';
import { handheldSound } from '../../core/demo/signals.ts';
import { loadFft } from '../../core/measure/fft.ts';
import { PresenceSurvey } from '../../core/measure/presence/survey.ts';
import { toMono } from '../../core/signal/mono.ts';
import { rms } from '../../core/testing/tones.ts';
import { readSound, testFolder, VOICES, writeSound } from '../testing.ts';
import { findPresence } from './findPresence.ts';

const RATE = 48_000;
const SECONDS = 28;
const folder = testFolder();
const file = (name: string) => join(folder.path, name);

let speech: Float32Array;
let bosun: Float32Array;
let wick: Float32Array;
let music: Float32Array;

const both = (side: Float32Array) => [side, side] as const;
const monoOf = ({ left, right }: { left: Float32Array; right: Float32Array }) => toMono([left, right]);

beforeAll(async () => {
  [speech, bosun, wick] = await Promise.all(
    ['narrator', 'bosun', 'wick'].map((name) => readSound(join(VOICES, `${name}.flac`))),
  );
  music = monoOf(recordSound(31, undefined, SECONDS));
  await writeSound(file('music.wav'), music, { codec: 'pcm-f32' }, 'wav');
});
afterAll(folder.remove);

/** Speech with music so many dB below it (RMS), late by a number of frames; and the gain of the music. */
function under(belowDb: number, lateFrames: number) {
  const voice = speech.subarray(0, SECONDS * RATE);
  const gain = (10 ** (belowDb / 20) * rms(voice)) / rms(music);
  const mixed = voice.map((sample, i) => sample + gain * (music[i - lateFrames] ?? 0));
  return { mixed, gainDb: 20 * Math.log10(gain) };
}

async function find(mixed: Float32Array, codec: 'pcm-s16' | 'aac' | 'opus', bitrateKbps?: number) {
  await writeSound(file(`${codec}.mkv`), mixed, { codec, bitrateKbps });
  return findPresence({
    referencePath: file('music.wav'),
    trackPath: file(`${codec}.mkv`),
    trackIndex: 0,
    wholeFile: false,
  });
}

describe('music under speech is found', () => {
  test.each([-10, -20, -30, -40])('at %i dB, in 16-bit PCM, with its level and offset', async (belowDb) => {
    const { mixed, gainDb } = under(belowDb, 480);
    const found = await find(mixed, 'pcm-s16');
    expect(found.present).toBe(true);
    expect(Math.abs((found.levelDb ?? 0) - gainDb)).toBeLessThan(2);
    expect(Math.abs((found.offsetMs ?? 0) - 10)).toBeLessThan(1);
    expect(found.intervals).toHaveLength(1);
    expect(found.confidence).toBeGreaterThan(0.999);
  });

  test.each<['aac' | 'opus', number]>([
    ['aac', 160],
    ['opus', 96],
  ])('at −30 and −40 dB after %s at %i kb/s', async (codec, kbps) => {
    const reference = await find(under(0, 0).mixed, codec, kbps);
    for (const belowDb of [-30, -40]) {
      const { mixed, gainDb } = under(belowDb, 960);
      const found = await find(mixed, codec, kbps);
      expect(found.present).toBe(true);
      expect(Math.abs((found.levelDb ?? 0) - gainDb)).toBeLessThan(2);
      expect(Math.abs((found.offsetMs ?? 0) - (reference.offsetMs ?? 0) - 20)).toBeLessThan(1);
    }
  });

  test('only where it is: start, end and level of two stretches', async () => {
    const { mixed } = under(-200, 0);
    const gain = 0.1;
    for (const [from, until] of [
      [3, 11],
      [20, 27],
    ]) {
      for (let i = from * RATE; i < until * RATE; i++) mixed[i] += gain * music[i];
    }
    const { intervals } = await find(mixed, 'pcm-s16');
    expect(intervals).toHaveLength(2);
    for (const [index, [from, until]] of [
      [3, 11],
      [20, 27],
    ].entries()) {
      expect(Math.abs(intervals[index].startS - from)).toBeLessThanOrEqual(0.5);
      expect(Math.abs(intervals[index].endS - until)).toBeLessThanOrEqual(0.5);
    }
    for (const { levelDb } of intervals) expect(Math.abs(levelDb + 20)).toBeLessThan(2);
  });

  test('at any offset, when the whole file is to be searched', async () => {
    const mixed = speech.slice(0, 60 * RATE);
    for (let i = 0; i < 20 * RATE; i++) mixed[31 * RATE + i] += 0.05 * music[4 * RATE + i];
    await writeSound(file('far.mkv'), mixed);
    const request = { referencePath: file('music.wav'), trackPath: file('far.mkv'), trackIndex: 0 };
    expect((await findPresence({ ...request, wholeFile: false })).present).toBe(false);
    const found = await findPresence({ ...request, wholeFile: true });
    expect(found.present).toBe(true);
    expect(Math.abs((found.offsetMs ?? 0) - 27_000)).toBeLessThan(1);
    expect(Math.abs(found.intervals[0].startS - 31)).toBeLessThanOrEqual(0.5);
  });
});

describe('what cannot be found', () => {
  test('a silent reference is not testable, which is not the same as absent', async () => {
    const survey = new PresenceSurvey(await loadFft(), 2, 1);
    const silence = new Float32Array(10 * RATE);
    survey.add(
      [silence, music.subarray(0, 10 * RATE)].map(both),
      [both(speech.subarray(0, 10 * RATE))],
      10 * RATE,
    );
    const [[quiet], [absent]] = survey.results();
    expect(quiet).toMatchObject({ testable: false, present: false });
    expect(absent).toMatchObject({ testable: true, present: false, levelDb: null });
  });

  test('a track of digital silence holds nothing', async () => {
    const survey = new PresenceSurvey(await loadFft(), 1, 1);
    survey.add([both(music.subarray(0, 10 * RATE))], [both(new Float32Array(10 * RATE))], 10 * RATE);
    expect(survey.results()[0][0]).toMatchObject({ testable: true, present: false });
  });
});

describe('no false alarm', () => {
  test('on 200 unrelated pairs, of the same tempo, of the same voice, of hum and noise', async () => {
    const frames = 15 * RATE;
    const random = seededRandom(7);
    const cut = (sound: Float32Array, startS: number) =>
      sound.subarray(startS * RATE, startS * RATE + frames);
    const tunes = Array.from({ length: 8 }, (_, i) => monoOf(recordSound(100 + i, 60 / 92, 15)));
    const noise = Float32Array.from({ length: frames }, () => (random() - 0.5) * 0.1);
    const game = monoOf(gameSound());
    const handheld = monoOf(handheldSound());
    const references = [
      ...tunes.slice(0, 4),
      cut(speech, 0),
      cut(speech, 45),
      cut(bosun, 5),
      cut(bosun, 52),
      cut(wick, 4),
      cut(wick, 54),
      cut(game, 0),
      cut(handheld, 26),
      noise,
    ];
    const tracks = [
      ...tunes.slice(4),
      cut(speech, 17),
      cut(speech, 66),
      cut(bosun, 30),
      cut(bosun, 69),
      cut(wick, 20),
      cut(wick, 73),
      cut(game, 45),
      cut(handheld, 52),
      tunes[4].map((v, i) => v + speech[i + 17 * RATE]),
      tunes[5].map((v, i) => v * 0.1 + bosun[i + 30 * RATE]),
      game.slice(60 * RATE, 75 * RATE).map((v, i) => v + wick[i + 20 * RATE]),
      noise.map((_, i) => Math.sin(i / 50) * 0.1),
    ];
    expect(references.length * tracks.length).toBeGreaterThanOrEqual(200);
    const survey = new PresenceSurvey(await loadFft(), references.length, tracks.length);
    survey.add(references.map(both), tracks.map(both), frames);
    const alarms = survey
      .results()
      .flatMap((row, r) =>
        row.flatMap((found, t) => (found.present ? [`${r} in ${t}: ${found.levelDb?.toFixed(1)} dB`] : [])),
      );
    expect(alarms).toEqual([]);
  });

  test('on tunes of one tempo and one instrument, of which single windows pass for one another', async () => {
    const frames = 15 * RATE;
    const tunes = Array.from({ length: 12 }, (_, i) =>
      monoOf(recordSound(200 + i, 60 / 92, 15)).subarray(0, frames),
    );
    const survey = new PresenceSurvey(await loadFft(), tunes.length, tunes.length, {
      isWanted: (reference, track) => reference !== track,
    });
    survey.add(tunes.map(both), tunes.map(both), frames);
    const alarms = survey.results().flatMap((row) => row.filter(({ present }) => present));
    expect(alarms).toEqual([]);
  });
});
