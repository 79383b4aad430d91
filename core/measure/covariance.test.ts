import { describe, expect, test } from '@jest/globals';
import { newStereo, type Stereo } from '../audio/planes.ts';
import { staticMixes } from '../balance/sounds.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { ArrivingSounds } from '../engine/arrivingSounds.ts';
import { compileDestinations } from '../engine/destinations.ts';
import { Renderer } from '../engine/renderer.ts';
import { momentsOf, soundingBlocks } from '../proof/moments.ts';
import { reachOf } from '../reach/reach.ts';
import type { Setup } from '../setup/schema.ts';
import { joined, noise, silence, sine } from '../testing/tones.ts';
import { CovarianceMeter, loudnessOfMix, meansOf, pairIndex, powersOfMix } from './covariance.ts';
import { LoudnessMeter } from './loudness.ts';

const SECONDS = 8;
const FRAMES = SECONDS * 48_000;

/** Some sounds that are loud and quiet at different times, two of them nearly the same. */
function sounds(count: number): Stereo[] {
  const shared = noise(99, FRAMES);
  return Array.from({ length: count }, (_, i): Stereo => {
    const own = noise(i, FRAMES);
    const shape = (at: number) => (((at >> 14) + i) % 3 === 0 ? 0.02 : 0.2);
    const left = own.map((value, at) => value * shape(at) + (i < 2 ? shared[at] * 0.1 : 0));
    return [left, noise(i + 50, FRAMES).map((value, at) => value * shape(at))];
  });
}

function covariancesOf(list: Stereo[]) {
  const meter = new CovarianceMeter(48_000, list.length);
  for (let at = 0; at < FRAMES; at += 30_000) {
    const frames = Math.min(30_000, FRAMES - at);
    meter.add(
      list.map(
        (planes): Stereo => [planes[0].subarray(at, at + frames), planes[1].subarray(at, at + frames)],
      ),
      frames,
    );
  }
  return meter.result();
}

describe('loudness without a render', () => {
  const list = sounds(4);
  const covariances = covariancesOf(list);

  test.each([
    [1, 0, 0, 0],
    [0.5, 0.8, 0.1, 0.3],
    [1, -1, 0, 0],
    [0.7, 0, 0.7, 2],
  ])('agrees with a mix that is measured: gains %d %d %d %d', (...gains) => {
    const mix = newStereo(FRAMES);
    list.forEach((planes, i) => {
      for (let side = 0; side < 2; side++)
        for (let at = 0; at < FRAMES; at++) mix[side][at] += planes[side][at] * gains[i];
    });
    const meter = new LoudnessMeter(48_000, 2);
    meter.add(mix, FRAMES);
    const [said, measured] = [loudnessOfMix(covariances, gains), meter.result()];
    expect(said.integratedLufs).toBeCloseTo(measured.integratedLufs ?? 0, 1);
    expect(Math.abs((said.integratedLufs ?? 0) - (measured.integratedLufs ?? 0))).toBeLessThan(0.05);
    expect(Math.abs((said.loudnessRangeLu ?? 0) - (measured.loudnessRangeLu ?? 0))).toBeLessThan(0.05);
    expect(Math.abs((said.maxShortTermLufs ?? 0) - (measured.maxShortTermLufs ?? 0))).toBeLessThan(0.3);
  });

  test('silence has none, and half a gain is 6 dB less', () => {
    expect(loudnessOfMix(covariances, [0, 0, 0, 0]).integratedLufs).toBeNull();
    const [whole, half] = [1, 0.5].map(
      (gain) => loudnessOfMix(covariances, [gain, 0, 0, 0]).integratedLufs ?? 0,
    );
    expect(whole - half).toBeCloseTo(6.02, 2);
  });

  test('a row belongs to each pair once', () => {
    const rows = new Set<number>();
    for (let i = 0; i < 5; i++) for (let j = i; j < 5; j++) rows.add(pairIndex(5, i, j));
    expect([...rows].sort((a, b) => a - b)).toEqual(Array.from({ length: 15 }, (_, i) => i));
  });

  test('means of windows are those that are added up one by one', () => {
    const values = Float64Array.from({ length: 20 }, (_, i) => (i * 7) % 5);
    meansOf(values, 4).forEach((mean, at) => {
      expect(mean).toBeCloseTo(values.subarray(at, at + 4).reduce((sum, value) => sum + value, 0) / 4, 12);
    });
    expect(meansOf(values.subarray(0, 3), 4)).toHaveLength(0);
  });
});

describe('a setup taken apart into static mixes', () => {
  test.each([
    ['one machine', regattaGuessed()],
    ['two machines: delays, links, mono folds', twoMachinesMadeRight()],
  ])('has the loudness that its render has, at every destination: %s', (_, setup: Setup) => {
    const stems = sounds(setup.sources.length);
    const { sounds: parts, mixes } = staticMixes(setup, reachOf(setup));
    const arriving = new ArrivingSounds(setup.sources, parts, FRAMES).next(stems, FRAMES);
    const covariances = covariancesOf(arriving);
    const { schedule, destinations } = compileDestinations(setup);
    const renderer = new Renderer(schedule, FRAMES);
    renderer.render(stems, FRAMES);
    for (const { destination, gains } of mixes) {
      const heard = destinations.find(({ id }) => id === destination.id);
      if (!heard) continue;
      const meter = new LoudnessMeter(48_000, destination.track?.layout === 'mono' ? 1 : 2);
      meter.add(renderer.outputs[heard.parts[0].output], FRAMES);
      const measured = meter.result().integratedLufs;
      const said = loudnessOfMix(covariances, gains).integratedLufs;
      if (measured === null) expect(said).toBeNull();
      else expect(Math.abs((said ?? 0) - measured)).toBeLessThan(0.05);
    }
  });
});

describe('moments worth hearing', () => {
  const voice = (fromS: number, untilS: number) =>
    joined(silence(fromS), sine(300, -20, untilS - fromS), silence(20 - untilS));
  const courseOf = (name: string, kind: 'microphone' | 'voice chat' | 'alerts', sound: Float32Array) => {
    const meter = new CovarianceMeter(48_000, 1);
    meter.add([[sound, sound]], sound.length);
    return { source: { id: name, name, kind }, powers: powersOfMix(meter.result(), [1]) };
  };

  test('are alerts, with who is talking under them, and people talking at once', () => {
    const moments = momentsOf([
      courseOf('Narrator', 'microphone', voice(2, 8)),
      courseOf('Wick', 'voice chat', voice(6, 11)),
      courseOf('Bellbuoy', 'alerts', voice(3, 4)),
    ]);
    expect(moments.map(({ text }) => text)).toEqual([
      'Bellbuoy over Narrator',
      'Narrator and Wick talk at once',
    ]);
    expect(moments[0].fromS).toBeCloseTo(3, 0);
    expect(moments[1].fromS).toBeCloseTo(6, 0);
    expect(moments[1].untilS).toBeCloseTo(8, 0);
  });

  test('are none where one person talks and no alert sounds', () => {
    expect(momentsOf([courseOf('Narrator', 'microphone', voice(2, 8))])).toEqual([]);
  });

  test('a breath does not end a sentence', () => {
    const sound = joined(sine(300, -20, 2), silence(0.4), sine(300, -20, 2), silence(4));
    const { powers } = courseOf('Narrator', 'microphone', sound);
    const sounding = soundingBlocks(powers);
    expect(sounding.subarray(0, 43).every((one) => one === 1)).toBe(true);
    expect(sounding.subarray(60).every((one) => one === 0)).toBe(true);
  });
});
