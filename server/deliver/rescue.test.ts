import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { DEMO_SOUNDS } from '../../core/demo/sounds.ts';
import { loadFft } from '../../core/measure/fft.ts';
import { hann } from '../../core/measure/hann.ts';
import { localRunner } from '../jobs/runner.ts';
import { TakeWriter } from '../media/takeWriter.ts';
import { readSound, testFolder } from '../testing.ts';
import { rescueTrack } from './rescue.ts';

const RATE = 48_000;
const SECONDS = 24;
const FROM_S = 4;
/** MKV does not say what AAC gives before the sound. */
const PRIMING = 1024;
const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const demo = (name: string) => (DEMO_SOUNDS.find((one) => one.file === name) ?? DEMO_SOUNDS[0]).make();
const game = demo('lock-and-paddle.flac');
const music = demo('reedbox.flac');
const rms = (plane: Float32Array) =>
  Math.sqrt(plane.reduce((sum, value) => sum + value * value, 0) / plane.length);
const gain = rms(game.left) / rms(music.left);
/** The music as it is in the mix: as loud as the game, from some moment on. */
const leak = (side: 'left' | 'right') =>
  Float32Array.from({ length: SECONDS * RATE }, (_, i) => (i < FROM_S * RATE ? 0 : gain * music[side][i]));

async function write(name: string, codec: 'pcm-s24' | 'aac'): Promise<void> {
  const mix = (['left', 'right'] as const).map((side) =>
    leak(side).map((value, i) => 0.5 * (value + game[side][i])),
  );
  const alone = [music.left, music.right].map((plane) => plane.slice(0, SECONDS * RATE));
  const quiet = [game.left, game.right].map((plane) => plane.slice(0, SECONDS * RATE));
  const writer = await TakeWriter.create(
    file(name),
    ['Mix', 'Music', 'Game'].map((track) => ({ name: track, codec, bitrateKbps: 160, layout: 'stereo' })),
  );
  await writer.add([mix, alone, quiet], SECONDS * RATE);
  await writer.finish();
}

/** How far the music went down where it was (dB), from what is left beside the game in a file that begins so many samples late. */
async function downIn(name: string, late = 0): Promise<number> {
  const sound = await readSound(file(name), 0, SECONDS);
  const [left, right] = [leak('left'), leak('right')];
  let [was, is] = [0, 0];
  for (let i = (FROM_S + 2) * RATE; i < (SECONDS - 2) * RATE; i++) {
    was += (0.25 * (left[i] + right[i])) ** 2;
    is += (sound[i + late] - 0.25 * (game.left[i] + game.right[i])) ** 2;
  }
  return 10 * Math.log10(was / is);
}

const FFT_SIZE = 8192;

/** The power of a sound in each third of an octave from 63 Hz to 16 kHz (ISO 266), where the music was. */
async function thirdsOf(sound: Float32Array): Promise<number[]> {
  const fft = (await loadFft())(FFT_SIZE);
  const window = hann(FFT_SIZE);
  const spectrum = new Float32Array(FFT_SIZE);
  const powers = new Float64Array(FFT_SIZE / 2);
  for (let at = (FROM_S + 2) * RATE; at + FFT_SIZE <= (SECONDS - 2) * RATE; at += FFT_SIZE / 2) {
    fft.forward(
      window.map((value, i) => value * sound[at + i]),
      spectrum,
    );
    for (let bin = 1; bin < powers.length; bin++)
      powers[bin] += spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2;
  }
  fft.close();
  const centres = Array.from({ length: 25 }, (_, third) => 1000 * 2 ** ((third - 12) / 3));
  return centres.map((centre) => {
    const bins = [2 ** (-1 / 6), 2 ** (1 / 6)].map((edge) => Math.round((centre * edge * FFT_SIZE) / RATE));
    return powers.slice(...bins).reduce((sum, power) => sum + power, 0);
  });
}

const request = (name: string, track: number, out: string) => ({
  path: file(name),
  track,
  reference: { name: 'Music', track: 1, path: null, forbiddenIn: [] },
  outPath: file(out),
});

describe('a sound is taken out of a mix', () => {
  test('as loud as all else, by 25 dB, and no more is claimed', async () => {
    await write('evening.mkv', 'pcm-s24');
    const done = await rescueTrack(localRunner(), request('evening.mkv', 0, 'rescued.wav'));
    expect(done.intervals).toHaveLength(1);
    const down = await downIn('rescued.wav');
    expect(down).toBeGreaterThan(25);
    expect(done.downDb ?? 99).toBeLessThan(down + 1);
    expect(done.downDb).toBeGreaterThan(20);

    const alone = Float32Array.from({ length: SECONDS * RATE }, (_, i) => (game.left[i] + game.right[i]) / 4);
    const [was, is] = [
      await thirdsOf(alone),
      await thirdsOf(await readSound(file('rescued.wav'), 0, SECONDS)),
    ];
    const changedDb = was.map((power, third) => 10 * Math.log10(is[third] / power));
    expect(Math.max(...changedDb.map(Math.abs))).toBeLessThan(1);
  });

  test('by 15 dB from a track that was coded, with what its coder made of it', async () => {
    await write('coded.mkv', 'aac');
    const done = await rescueTrack(localRunner(), request('coded.mkv', 0, 'coded.wav'));
    const down = await downIn('coded.wav', PRIMING);
    expect(down).toBeGreaterThan(15);
    expect(done.downDb ?? 99).toBeLessThan(down + 1);
    expect(done.downDb).toBeGreaterThan(12);
    expect(done.isLossy).toBe(true);
  });

  test('and where it is not, nothing changes', async () => {
    const done = await rescueTrack(localRunner(), request('evening.mkv', 2, 'same.wav'));
    expect(done).toMatchObject({ downDb: null, intervals: [], verdict: 'clean' });
    const [before, after] = [await readSound(file('evening.mkv'), 2), await readSound(file('same.wav'))];
    expect(after).toEqual(before);
  });
});
