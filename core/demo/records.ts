import { seededRandom } from '../audio/random.ts';
import {
  addAt,
  type Canvas,
  DEMO_RATE,
  DEMO_SECONDS,
  lowPass,
  newCanvas,
  noteHz,
  soundOf,
  struck,
} from './canvas.ts';

const { floor, max, min, round } = Math;

const BEAT_S = 60 / 92;
/** A slow walk of four chords, as roots in semitones below the A of 440 Hz. */
const ROOTS = [-24, -28, -19, -26];
const SCALE = [0, 2, 4, 7, 9, 12, 14, 16];

/** Reedbox: a plucked tune over bass, chords and brushes. @param seed another seed gives another tune */
export function recordSound(seed = 31, beatS = BEAT_S, seconds = DEMO_SECONDS): Canvas {
  const canvas = newCanvas(seconds);
  const random = seededRandom(seed);
  let step = 3;
  for (let beat = 0; beat * beatS < seconds - 1; beat++) {
    const time = beat * beatS;
    const root = ROOTS[floor(beat / 8) % ROOTS.length] + (seed % 5);
    if (beat % 2 === 0) addAt(canvas, pluck(noteHz(root), 1.6, random), time, 0.3, -0.1);
    if (beat % 4 === 2)
      for (const third of [12, 16, 19])
        addAt(canvas, pluck(noteHz(root + third), 1.2, random), time, 0.1, 0.35);
    for (const half of [0, 0.5]) {
      if (random() < 0.28) continue;
      step = max(0, min(SCALE.length - 1, step + round(random() * 4 - 2)));
      addAt(canvas, pluck(noteHz(root + 24 + SCALE[step]), 1.1, random), time + half * beatS, 0.22, -0.4);
    }
    addAt(canvas, brush(random, beat % 2 === 1), time + random() * 0.008, beat % 2 ? 0.16 : 0.07, 0.2);
    addAt(canvas, brush(random, false), time + beatS * 0.66, 0.05, 0.3);
  }
  return canvas;
}

/** A plucked string after Karplus and Strong (1983): noise going round a delay line that softens it. */
function pluck(hz: number, seconds: number, random: () => number): Float32Array {
  const line = Float32Array.from({ length: max(2, round(DEMO_RATE / hz)) }, () => random() * 2 - 1);
  let at = 0;
  return soundOf(seconds, (time) => {
    const next = (at + 1) % line.length;
    const value = line[at];
    line[at] = 0.498 * (line[at] + line[next]);
    at = next;
    return value * min(1, (seconds - time) * 20);
  });
}

function brush(random: () => number, accent: boolean): Float32Array {
  const soft = lowPass(accent ? 7000 : 4000);
  return soundOf(0.24, (time) => struck(time, 0.006, accent ? 0.05 : 0.03) * soft(random() * 2 - 1));
}
