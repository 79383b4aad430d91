import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { BLOCK_FRAMES, type Stereo } from '../audio/planes.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { reachOf } from '../reach/reach.ts';
import { sine } from '../testing/tones.ts';
import { compile } from './compile.ts';
import { Mixer, RAMP_FRAMES } from './mixer.ts';
import { Renderer } from './renderer.ts';

const FRAMES = 20 * BLOCK_FRAMES;
const empty = (): Stereo => [new Float32Array(FRAMES), new Float32Array(FRAMES)];

/** Renders a setup in which one source plays a constant on both sides, and returns each output's constant. */
function responses(setup: ReturnType<typeof regattaGuessed>, sounding: number): number[] {
  const schedule = compile(setup);
  const renderer = new Renderer(schedule, FRAMES);
  const inputs = setup.sources.map(empty);
  inputs[sounding][0].fill(0.25);
  inputs[sounding][1].fill(0.25);
  renderer.render(inputs, FRAMES);
  return renderer.outputs.map(([left, right]) => {
    expect(right[FRAMES - 1]).toBe(left[FRAMES - 1]);
    return left[FRAMES - 1] / 0.25;
  });
}

describe('the rendered sound is what reach says', () => {
  test('for every source and destination of the regatta, closed ones being digital silence', () => {
    const setup = regattaGuessed();
    const reach = reachOf(setup);
    const { outputs } = compile(setup);
    setup.sources.forEach((source, index) => {
      const found = responses(setup, index);
      outputs.forEach((output, b) => {
        const destination = reach.destinations.find((one) => one.sendTo === output.id);
        const arrival = destination && reach.at(source.id, destination.id);
        if (!arrival) expect(found[b]).toBe(0);
        else expect(20 * Math.log10(found[b])).toBeCloseTo(arrival.gainDb, 4);
      });
    });
  });

  test('for random levels of source, pickup and send', () => {
    const gain = fc.double({ min: -60, max: 12, noNaN: true });
    fc.assert(
      fc.property(gain, gain, gain, (level, pickup, send) => {
        const setup = regattaGuessed();
        setup.sources[0].levelDb = level;
        setup.pickups[0].gainDb = pickup;
        setup.sends = [{ pickup: setup.pickups[0].id, to: 'boat', gainDb: send }];
        const reach = reachOf(setup).at('narrator', 'boat');
        const output = compile(setup).outputs.findIndex((one) => one.id === 'boat');
        expect(20 * Math.log10(responses(setup, 0)[output])).toBeCloseTo(reach?.gainDb ?? Number.NaN, 3);
      }),
      { numRuns: 40 },
    );
  });
});

describe('the mixer', () => {
  const setup = regattaGuessed();
  const schedule = compile(setup, { only: 'tracks' });

  test('mixes linearly: the sum of two sources is the sum of their mixes', () => {
    const inputs = setup.sources.map(empty);
    inputs[0][0].set(sine(300, -12, FRAMES / 48_000));
    inputs[1][1].set(sine(700, -6, FRAMES / 48_000));
    const render = (only: number[]) => {
      const renderer = new Renderer(schedule, FRAMES);
      renderer.render(
        inputs.map((input, index) => (only.includes(index) ? input : empty())),
        FRAMES,
      );
      return renderer.outputs[0];
    };
    const [both, first, second] = [render([0, 1]), render([0]), render([1])];
    for (let i = 0; i < FRAMES; i += 97) expect(both[0][i]).toBeCloseTo(first[0][i] + second[0][i], 6);
  });

  test('gives the same samples whatever the portions', () => {
    const inputs = setup.sources.map(empty);
    inputs[0][0].set(sine(300, -12, FRAMES / 48_000));
    const whole = new Renderer(schedule, FRAMES);
    whole.render(inputs, FRAMES);
    const parts = new Renderer(schedule, FRAMES);
    const half = FRAMES / 2;
    const cut = (from: number) =>
      inputs.map(
        (pair): Stereo => [pair[0].subarray(from, from + half), pair[1].subarray(from, from + half)],
      );
    parts.render(cut(0), half);
    const start = parts.outputs[0][0].slice(0, half);
    parts.render(cut(half), half);
    expect(start).toEqual(whole.outputs[0][0].slice(0, half));
    expect(parts.outputs[0][0].slice(0, half)).toEqual(whole.outputs[0][0].slice(half));
  });

  test('a mono track carries the mean of both sides', () => {
    const inputs = setup.sources.map(empty);
    inputs[0][0].fill(0.4);
    inputs[0][1].fill(0.2);
    const renderer = new Renderer(schedule, FRAMES);
    renderer.render(inputs, FRAMES);
    const voice = schedule.outputs.findIndex((output) => output.id === 'voice');
    expect(renderer.outputs[voice][0][5]).toBeCloseTo(0.3, 6);
    expect(renderer.outputs[voice][1][5]).toBeCloseTo(0.3, 6);
  });

  test('a gain that is moved gets there along a straight line in 10 ms', () => {
    const mixer = new Mixer(schedule, FRAMES);
    for (const plane of mixer.inputs[0]) plane.fill(1);
    const { outputs } = mixer;
    const firstOutput = schedule.planes - schedule.outputs.length;
    const operation = schedule.operationFrom.findIndex(
      (one, i) => one === 0 && schedule.operationTo[i] === firstOutput,
    );
    const before = schedule.operationGain[operation];
    mixer.moveGain(operation, 0);
    for (let start = 0; start < FRAMES; start += BLOCK_FRAMES)
      mixer.process(new Uint8Array(schedule.sourceIds.length), start, BLOCK_FRAMES);
    expect(outputs[0][0][RAMP_FRAMES / 2 - 1]).toBeCloseTo(before / 2, 4);
    expect(outputs[0][0][RAMP_FRAMES]).toBe(0);
    const ramp = Array.from(outputs[0][0].subarray(0, RAMP_FRAMES));
    const steps = ramp.slice(1).map((value, i) => Math.abs(value - ramp[i]));
    expect(Math.max(...steps)).toBeLessThan((before / RAMP_FRAMES) * 1.01);
  });
});
