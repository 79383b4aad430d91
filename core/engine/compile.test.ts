import { describe, expect, test } from '@jest/globals';
import { BLOCK_FRAMES, newStereo, type Stereo } from '../audio/planes.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { applyEdit } from '../setup/edits.ts';
import { noise } from '../testing/tones.ts';
import { compile } from './compile.ts';
import { addHum, HUM_DB } from './hum.ts';
import { Renderer } from './renderer.ts';

describe('a compiled schedule', () => {
  test('of a plain room has no places in between: each open send is one operation', () => {
    const setup = regattaGuessed();
    const schedule = compile(setup);
    expect(schedule.planes).toBe(setup.sources.length + schedule.outputs.length);
    expect(schedule.operationGain).toHaveLength(setup.sends.length);
  });

  test('reads no plane before it is complete', () => {
    const { sourceIds, operationFrom, operationTo } = compile(twoMachinesMadeRight());
    operationFrom.forEach((from, i) => {
      const later = operationTo.slice(i + 1);
      if (from >= sourceIds.length) expect(later).not.toContain(from);
    });
  });

  test('for tracks alone leaves out what only destinations hear', () => {
    const all = compile(twoMachinesMadeRight());
    const tracks = compile(twoMachinesMadeRight(), { only: 'tracks' });
    expect(all.outputs.map(({ id }) => id).slice(0, 2)).toEqual(['headphones', 'friends']);
    expect(tracks.outputs[0].id).toBe('live-mix');
    expect(tracks.operationGain.length).toBeLessThan(all.operationGain.length);
  });

  test('of a scene leaves out the pickups that are silent in it', () => {
    const setup = applyEdit(twoMachinesMadeRight(), {
      edit: 'updatePickup',
      id: 'records',
      values: { scenes: ['race'] },
    });
    const operations = (scene?: string) => compile(setup, { scene, only: 'tracks' }).operationGain.length;
    expect(operations('race')).toBe(operations());
    expect(operations('break')).toBe(operations() - 2);
  });
});

describe('a render over the wiring', () => {
  const setup = applyEdit(twoMachinesMadeRight(), {
    edit: 'updateLink',
    id: 'minnow-line',
    values: { isolated: false },
  });
  const frames = 60 * BLOCK_FRAMES;
  const inputs = setup.sources.map((_, i): Stereo => [noise(i, frames), noise(i + 50, frames)]);

  test('gives the same samples whatever the portions, delays and hum with it', () => {
    const whole = new Renderer(compile(setup), frames);
    whole.render(inputs, frames);
    const parts = new Renderer(compile(setup), frames);
    const output = 2;
    for (const [from, to] of [
      [0, 7],
      [7, 30],
      [30, 60],
    ].map((ends) => ends.map((block) => block * BLOCK_FRAMES))) {
      parts.render(
        inputs.map((pair): Stereo => [pair[0].subarray(from, to), pair[1].subarray(from, to)]),
        to - from,
      );
      expect(parts.outputs[output][0].slice(0, to - from)).toEqual(whole.outputs[output][0].slice(from, to));
    }
  });

  test('a pickup that is folded to mono carries the mean of both sides, on both', () => {
    const schedule = compile(setup);
    const renderer = new Renderer(schedule, frames);
    const only = setup.sources.map((source, i) => (source.id === 'narrator' ? inputs[i] : newStereo(frames)));
    const isolated = compile(twoMachinesMadeRight());
    const quiet = new Renderer(isolated, frames);
    quiet.render(only, frames);
    renderer.render(only, frames);
    const upload = isolated.outputs.findIndex(({ id }) => id === 'upload-mix');
    const [left, right] = quiet.outputs[upload];
    expect(left).toEqual(right);
    const late = 6 * 48;
    const mine = only[setup.sources.findIndex(({ id }) => id === 'narrator')];
    const mean = ((mine[0][1000] + mine[1][1000]) / 2) * 10 ** (1.5 / 20);
    expect(left[1000 + late]).toBeCloseTo(mean, 5);
  });

  test('the sides of a stereo pickup stay apart', () => {
    const renderer = new Renderer(compile(setup), frames);
    const only = setup.sources.map((source) => {
      const planes = newStereo(frames);
      if (source.id === 'game') planes[0].set(noise(9, frames));
      return planes;
    });
    renderer.render(only, frames);
    const boat = compile(setup).outputs.findIndex(({ id }) => id === 'boat');
    expect(renderer.outputs[boat][0].some((value) => value !== 0)).toBe(true);
    expect(renderer.outputs[boat][1].every((value) => value === 0)).toBe(true);
  });
});

describe('the hum of a line', () => {
  test('is as loud as it says, and made of 50 Hz and its harmonics alone', () => {
    const second = newStereo(48_000);
    addHum(second, 0, 48_000, 0);
    const power = second[0].reduce((sum, value) => sum + value * value, 0) / 48_000;
    expect(10 * Math.log10(power)).toBeCloseTo(HUM_DB, 2);
    for (let i = 0; i + 960 < 48_000; i += 997) expect(second[0][i + 960]).toBeCloseTo(second[0][i], 7);
  });

  test('goes on from block to block without a step', () => {
    const whole = newStereo(1000);
    addHum(whole, 0, 1000, 0);
    const parts = newStereo(1000);
    addHum(parts, 0, 333, 0);
    addHum(parts, 333, 1000, 333);
    expect(parts[0]).toEqual(whole[0]);
  });
});
