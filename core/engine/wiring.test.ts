import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { BLOCK_FRAMES, newStereo, type Stereo } from '../audio/planes.ts';
import { twoMachinesMadeRight, twoMachinesWithFaults } from '../demo/twoMachines.ts';
import { reachOf } from '../reach/reach.ts';
import type { Setup } from '../setup/schema.ts';
import { DelayLine } from '../signal/delayLine.ts';
import { randomWiring } from '../testing/randomWiring.ts';
import { noise, rms } from '../testing/tones.ts';
import { compile } from './compile.ts';
import { HUM_DB } from './hum.ts';
import { Renderer } from './renderer.ts';

/** What each output gives back when one source of a setup makes one click (a frame of 1 on both sides) at frame 0. */
function clicks(setup: Setup, source: number, frames: number, scene?: string): Map<string, Stereo> {
  const schedule = compile(setup, { scene });
  const renderer = new Renderer(schedule, frames);
  const inputs = setup.sources.map(() => newStereo(frames));
  for (const plane of inputs[source]) plane[0] = 1;
  renderer.render(inputs, frames);
  return new Map(schedule.outputs.map((output, index) => [output.id, renderer.outputs[index]]));
}

/** Expects that a click arrives as each path says: so many frames late, so loud, and nowhere else. */
function expectAsPlanned(setup: Setup, frames: number, scene?: string): void {
  const reach = reachOf(setup, { scene });
  setup.sources.forEach((source, index) => {
    const found = clicks(setup, index, frames, scene);
    for (const destination of reach.destinations) {
      if (destination.sendTo === null) continue;
      const plane = found.get(destination.sendTo)?.[0] ?? new Float32Array(0);
      const expected = new Map<number, number>();
      for (const path of reach.at(source.id, destination.id)?.paths ?? []) {
        const late = path.legs.reduce((sum, leg) => sum + Math.round(leg.delayMs * 48), 0);
        expected.set(late, (expected.get(late) ?? 0) + 10 ** (path.gainDb / 20));
      }
      expect(worstDeviation(plane, expected)).toBeLessThan(1e-5);
    }
  });
}

/** How far a plane is off the clicks that are expected (relative), or 1 where it is not digital silence without one. */
function worstDeviation(plane: Float32Array, expected: Map<number, number>): number {
  let worst = 0;
  for (let at = 0; at < plane.length; at++) {
    const planned = expected.get(at);
    if (planned !== undefined) worst = Math.max(worst, Math.abs(plane[at] / planned - 1));
    else if (plane[at] !== 0) return 1;
  }
  return worst;
}

describe('the rendered sound is what reach says, path by path', () => {
  test('for random wirings, in every scene', () => {
    fc.assert(
      fc.property(randomWiring, fc.constantFrom(undefined, 'day', 'night'), (setup, scene) => {
        expectAsPlanned(setup, 128 * BLOCK_FRAMES, scene);
      }),
      { numRuns: 40 },
    );
  });

  test('for the two machines', () => {
    expectAsPlanned(twoMachinesMadeRight(), 40 * BLOCK_FRAMES);
  });
});

test('two copies 42 ms apart take out the first notch that the finding names', () => {
  const setup = twoMachinesWithFaults();
  const { doubling } = reachOf(setup).at('game', 'live') ?? {};
  expect(doubling?.firstNotchHz).toBeCloseTo(1000 / (2 * (42 - 10)), 0);
});

test('an unisolated analogue line hums, and an isolated one is silent', () => {
  const frames = 100 * BLOCK_FRAMES;
  const live = (setup: Setup) => {
    const schedule = compile(setup);
    const renderer = new Renderer(schedule, frames);
    renderer.render(
      setup.sources.map(() => newStereo(frames)),
      frames,
    );
    return renderer.outputs[schedule.outputs.findIndex((output) => output.id === 'live-mix')][0];
  };
  expect(20 * Math.log10(rms(live(twoMachinesWithFaults())))).toBeCloseTo(HUM_DB - 9, 0);
  expect(live(twoMachinesMadeRight()).every((value) => value === 0)).toBe(true);
});

describe('a delay line', () => {
  const through = (line: DelayLine, samples: Float32Array) => {
    const out = new Float32Array(samples.length);
    const block = newStereo(BLOCK_FRAMES);
    for (let start = 0; start < samples.length; start += BLOCK_FRAMES) {
      line.process([samples, samples], false, start, BLOCK_FRAMES, block);
      out.set(block[0], start);
    }
    return out;
  };

  test('gives back what went in, so many frames later', () => {
    const samples = noise(1, 20 * BLOCK_FRAMES);
    const out = through(new DelayLine(300, 0), samples);
    expect(out.slice(300)).toEqual(samples.slice(0, -300));
    expect(out.slice(0, 300).every((value) => value === 0)).toBe(true);
  });

  test('that drifts by 200 parts per million lowers a tone by as much', () => {
    const seconds = 2;
    const tone = Float32Array.from({ length: 48_000 * seconds }, (_, i) =>
      Math.sin((2 * Math.PI * 1000 * i) / 48_000),
    );
    const out = through(new DelayLine(480, 200), tone);
    let crossings = 0;
    const [from, to] = [4800, out.length];
    for (let i = from + 1; i < to; i++) if (out[i - 1] < 0 && out[i] >= 0) crossings += 1;
    const phaseAt = (at: number) => 1000 * ((at - 480 - at * 200e-6) / 48_000);
    expect(crossings).toBe(Math.floor(phaseAt(to - 1)) - Math.floor(phaseAt(from)));
    const last = out.length - 1;
    expect(out[last]).toBeCloseTo(Math.sin(2 * Math.PI * phaseAt(last)), 2);
  });
});
