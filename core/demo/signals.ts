import { seededRandom } from '../audio/random.ts';
import { addAt, type Canvas, newCanvas, noteHz, soundOf, struck } from './canvas.ts';
import { SCENARIO } from './scenario.ts';

const { floor, min, sin, tanh } = Math;

/** Bellbuoy: a buoy's bell, two strokes for each new member. */
export function bellSound(): Canvas {
  const canvas = newCanvas();
  for (const time of SCENARIO.memberBells) {
    addAt(canvas, bell(587), time, 0.34, -0.2);
    addAt(canvas, bell(740), time + 0.42, 0.3, 0.2);
  }
  return canvas;
}

/** The machine's own notifications: two short woody notes. */
export function pingSound(): Canvas {
  const canvas = newCanvas();
  for (const time of SCENARIO.pings) {
    addAt(canvas, knock(1318), time, 0.3);
    addAt(canvas, knock(1760), time + 0.13, 0.3);
  }
  return canvas;
}

/** Quillpage: a clip in the browser, with a small fanfare over crowd noise. */
export function clipSound(): Canvas {
  const canvas = newCanvas();
  const { fromS, untilS } = SCENARIO.clip;
  const random = seededRandom(51);
  const crowd = soundOf(untilS - fromS, (time) => {
    const shape = min(1, time / 0.6) * min(1, (untilS - fromS - time) / 0.6);
    return shape * (random() * 2 - 1) * (0.06 + 0.03 * sin(time * 7) * sin(time * 3.1));
  });
  addAt(canvas, crowd, fromS, 0.7, 0.1);
  [0, 4, 7, 12, 7, 12, 16].forEach((note, index) => {
    addAt(canvas, reed(noteHz(note - 9), 0.5), fromS + 1 + index * 0.34, 0.2, -0.1);
  });
  return canvas;
}

/** Minnow: a small tune of square waves, on a line input that hums at 50 Hz and its harmonics. */
export function handheldSound(): Canvas {
  const canvas = newCanvas();
  const { fromS, untilS } = SCENARIO.handheld;
  const random = seededRandom(61);
  for (let time = fromS + 1; time < untilS - 1; time += 0.185) {
    if (random() < 0.3) continue;
    const note = [0, 3, 5, 7, 10, 12][floor(random() * 6)];
    addAt(canvas, square(noteHz(note), 0.16), time, 0.07, random() * 0.6 - 0.3);
  }
  addAt(canvas, humSound(untilS - fromS), fromS, 1);
  return canvas;
}

/** Mains hum: 50 Hz and seven harmonics, fading in and out within a tenth of a second. */
export function humSound(seconds: number, mainsHz = 50): Float32Array {
  const levels = [0.012, 0.006, 0.009, 0.003, 0.004, 0.002, 0.002, 0.001];
  return soundOf(seconds, (time) => {
    const shape = min(1, time * 10, (seconds - time) * 10);
    let sum = 0;
    for (let index = 0; index < levels.length; index++) {
      sum += levels[index] * sin(2 * Math.PI * mainsHz * (index + 1) * time + index);
    }
    return shape * sum;
  });
}

function bell(hz: number): Float32Array {
  const partials = [
    [1, 1, 0.9],
    [2.01, 0.6, 0.55],
    [2.76, 0.45, 0.4],
    [5.4, 0.25, 0.16],
    [8.93, 0.12, 0.07],
  ];
  return soundOf(2.6, (time) => {
    let sum = 0;
    for (const [ratio, level, decay] of partials)
      sum += level * struck(time, 0.002, decay) * sin(2 * Math.PI * hz * ratio * time);
    return 0.45 * sum;
  });
}

function knock(hz: number): Float32Array {
  return soundOf(
    0.3,
    (time) =>
      struck(time, 0.002, 0.05) * (sin(2 * Math.PI * hz * time) + 0.3 * sin(2 * Math.PI * hz * 3.9 * time)),
  );
}

function reed(hz: number, seconds: number): Float32Array {
  return soundOf(seconds, (time) => {
    const shape = min(1, time / 0.03) * min(1, (seconds - time) / 0.1);
    return shape * tanh(1.6 * sin(2 * Math.PI * hz * time) + 0.5 * sin(4 * Math.PI * hz * time));
  });
}

function square(hz: number, seconds: number): Float32Array {
  return soundOf(seconds, (time) => {
    let sum = 0;
    for (let harmonic = 1; harmonic * hz < 16_000; harmonic += 2)
      sum += sin(2 * Math.PI * hz * harmonic * time) / harmonic;
    return sum * struck(time, 0.002, 0.12) * min(1, (seconds - time) * 60);
  });
}
