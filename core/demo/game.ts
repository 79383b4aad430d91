import { seededRandom } from '../audio/random.ts';
import {
  addAt,
  type Canvas,
  DEMO_RATE,
  DEMO_SECONDS,
  lowPass,
  newCanvas,
  soundOf,
  struck,
} from './canvas.ts';
import { SCENARIO } from './scenario.ts';

const { exp, min, round, sin, tanh } = Math;

/** The game: a single-cylinder engine whose speed follows the race, water along the hull, lock gates and horns. */
export function gameSound(): Canvas {
  const canvas = newCanvas();
  addWater(canvas);
  addEngine(canvas);
  for (const time of SCENARIO.gates) addAt(canvas, gateThud(time), time, 0.5, sin(time) * 0.4);
  SCENARIO.horns.forEach((time, index) => {
    addAt(canvas, horn(index), time, 0.16, index % 2 ? 0.5 : -0.5);
  });
  return canvas;
}

function addWater({ left, right }: Canvas): void {
  for (const [plane, seed] of [
    [left, 11],
    [right, 12],
  ] as const) {
    const random = seededRandom(seed);
    const soft = lowPass(900);
    const deep = lowPass(120);
    for (let frame = 0; frame < plane.length; frame++) {
      const time = frame / DEMO_RATE;
      const swell = 0.55 + 0.3 * sin(time * 0.9 + seed) * sin(time * 0.23) + 0.15 * sin(time * 2.7);
      const noise = random() * 2 - 1;
      plane[frame] += swell * (0.16 * soft(noise) + 0.2 * deep(noise) + 0.012 * noise);
    }
  }
}

function addEngine(canvas: Canvas): void {
  const random = seededRandom(21);
  for (let time = 0.2; time < DEMO_SECONDS - 0.3; ) {
    const effort = 0.5 + 0.5 * sin(time * 0.21) * sin(time * 0.07 + 1);
    addAt(canvas, putt(random, effort), time, 0.2 + 0.08 * effort, 0.1 * sin(time));
    time += 0.28 - 0.12 * effort + random() * 0.012;
  }
}

function putt(random: () => number, effort: number): Float32Array {
  const body = 62 + 26 * effort + random() * 3;
  const breath = lowPass(1400);
  return soundOf(
    0.22,
    (time) =>
      struck(time, 0.004, 0.045) * sin(2 * Math.PI * body * time) +
      0.5 * struck(time, 0.002, 0.02) * breath(random() * 2 - 1),
  );
}

function gateThud(seed: number): Float32Array {
  const random = seededRandom(round(seed * 100));
  const wood = lowPass(500);
  return soundOf(
    1.4,
    (time) =>
      struck(time, 0.003, 0.16) * sin(2 * Math.PI * (48 + 30 * exp(-time * 18)) * time) +
      0.8 * struck(time, 0.002, 0.09) * wood(random() * 2 - 1),
  );
}

function horn(index: number): Float32Array {
  const root = [155, 139, 174, 155][index % 4];
  return soundOf(1.3, (time) => {
    const shape = min(1, time / 0.08) * min(1, (1.3 - time) / 0.2);
    const wobble = 1 + 0.003 * sin(2 * Math.PI * 5 * time);
    const voice = (hz: number) => tanh(2.2 * sin(2 * Math.PI * hz * wobble * time));
    return shape * 0.5 * (voice(root) + voice(root * 1.26));
  });
}
