import { beforeAll, describe, expect, test } from '@jest/globals';
import { gameSound } from '../demo/game.ts';
import { toMono } from '../signal/mono.ts';
import { noise, rms } from '../testing/tones.ts';
import { loadFft, type MakeFft } from './fft.ts';
import { measureWay } from './way.ts';

const RATE = 48_000;
const SECONDS = 30;
const LATE = 300;
let makeFft: MakeFft;
let game: Float32Array;
beforeAll(async () => {
  makeFft = await loadFft();
  const { left, right } = gameSound();
  game = toMono([left, right]).subarray(0, SECONDS * RATE);
});

/** What headphones leave of a sound at a microphone: less and less below 900 Hz (12 dB an octave) and above 4 kHz. */
function throughHeadphones(sound: Float32Array): Float32Array {
  const keep = Math.exp((-2 * Math.PI * 900) / RATE);
  const take = 1 - Math.exp((-2 * Math.PI * 4000) / RATE);
  const withoutLows = (of: Float32Array) => {
    let [out, last] = [0, 0];
    return of.map((value) => {
      out = keep * (out + value - last);
      last = value;
      return out;
    });
  };
  let soft = 0;
  return withoutLows(withoutLows(sound)).map((value) => {
    soft += take * (value - soft);
    return soft;
  });
}

/** A sound with what the walls throw back. */
function inRoom(sound: Float32Array): Float32Array {
  const out = sound.slice();
  const random = noise(9, 80);
  random.forEach((value, wall) => {
    const late = Math.round((0.004 + 0.004 * wall) * RATE);
    const gain = 0.35 * Math.sign(value) * 10 ** ((-3 * late) / RATE / 0.3);
    for (let i = late; i < sound.length; i++) out[i] += gain * sound[i - late];
  });
  return out;
}

/** Another sound, with one in it so many dB below, late by some frames and more with every frame. */
function under(sound: Float32Array, belowDb: number, driftPpm = 0): Float32Array {
  const rest = noise(4, sound.length);
  // A voice comes and goes: half of the time there is next to none.
  for (let i = 0; i < rest.length; i++) if (Math.floor(i / RATE) % 2 === 0) rest[i] *= 0.02;
  const gain = (10 ** (belowDb / 20) * rms(rest)) / rms(sound);
  return rest.map((value, i) => {
    const at = i * (1 - driftPpm * 1e-6) - LATE;
    const whole = Math.floor(at);
    const [here, next] = [sound[whole] ?? 0, sound[whole + 1] ?? 0];
    return value + gain * (here + (at - whole) * (next - here));
  });
}

describe('the way of a sound into a track', () => {
  test('over a connection it is as it is, also where clocks run apart', () => {
    const found = measureWay(makeFft, game, under(game, -10), () => LATE);
    expect(found).toMatchObject({ way: 'connection' });
    expect(found?.atOnce).toBeGreaterThan(0.97);
    const drifting = under(game, 0, 100);
    const lagAt = (frame: number) => LATE + frame * 1e-4;
    expect(measureWay(makeFft, game, drifting, lagAt)?.way).toBe('connection');
    expect(measureWay(makeFft, game, drifting, () => LATE)?.way ?? null).not.toBe('connection');
  });

  test('from headphones it is coloured, from loudspeakers the room is around it', () => {
    expect(measureWay(makeFft, game, under(throughHeadphones(game), 0), () => LATE)?.way).toBe('air');
    const fromSpeakers = measureWay(makeFft, game, under(inRoom(game), 0), () => LATE);
    expect(fromSpeakers?.way).toBe('air');
    expect(fromSpeakers?.atOnce).toBeLessThan(0.85);
  });

  test('nothing is said of what is too faint, too short, or not there', () => {
    for (const [reference, track] of [
      [game, under(game, -60)],
      [game.subarray(0, RATE), under(game, 0).subarray(0, RATE)],
      [game, noise(5, game.length)],
      [new Float32Array(game.length), game],
    ])
      expect(measureWay(makeFft, reference, track, () => LATE)?.way ?? null).toBeNull();
  });
});
