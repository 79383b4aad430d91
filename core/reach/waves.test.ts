import { describe, expect, test } from '@jest/globals';
import { regattaMadeRight } from '../demo/setups.ts';
import { findingsOf } from '../findings/findings.ts';
import { parseSetup } from '../setup/file.ts';
import type { Setup } from '../setup/schema.ts';
import { reachOf } from './reach.ts';
import { MOST_PATHS } from './waves.ts';

/** A computer on which layers of mixes feed each other: each mix of a layer takes in every mix of the one before. */
function layered(layers: number, across: number, delayMs: (layer: number, mix: number) => number): Setup {
  const base = regattaMadeRight();
  const mixId = (layer: number, mix: number) => `mix-${layer}-${mix}`;
  const all = Array.from({ length: across }, (_, mix) => mix);
  const source = { ...base.sources[0], into: 'desk.in', processing: undefined, levelDb: 0 };
  return parseSetup({
    ...base,
    machines: [{ id: 'desk', name: 'Desk', kind: 'computer' }],
    devices: [
      { id: 'desk.in', machine: 'desk', name: 'In', direction: 'out', kind: 'virtual' },
      { id: 'desk.out', machine: 'desk', name: 'Out', direction: 'out', kind: 'physical' },
    ],
    mixes: Array.from({ length: layers }, (_, layer) =>
      all.map((mix) => ({
        id: mixId(layer, mix),
        name: mixId(layer, mix),
        machine: 'desk',
        inputs: (layer === 0 ? ['desk.in'] : all.map((one) => mixId(layer - 1, one))).map((from) => ({
          from,
          gainDb: -6 - mix,
          delayMs: delayMs(layer, mix),
        })),
        into: layer === layers - 1 ? ['desk.out'] : [],
      })),
    ).flat(),
    links: [],
    sources: [{ ...source, machine: 'desk' }],
    pickups: [],
    sends: [],
    intent: [],
    scenes: [],
    balance: [],
    ticks: undefined,
    tracks: [{ ...base.tracks[0], channels: undefined, layout: 'stereo', processing: undefined }],
    destinations: [{ id: 'headphones', name: 'Headphones', kind: 'headphones', hears: ['desk.out'] }],
  });
}

describe('a sound that comes by many paths', () => {
  test('is the sum of all of them, as an independent sum over every path has it', () => {
    const delay = (layer: number, mix: number) => ((layer * 7 + mix * 3) % 5) * 0.5;
    const setup = layered(4, 3, delay);
    const byTime = new Map<number, number>();
    const walk = (layer: number, gainDb: number, frames: number) => {
      if (layer === 4) {
        byTime.set(frames, (byTime.get(frames) ?? 0) + 10 ** (gainDb / 20));
        return;
      }
      for (let mix = 0; mix < 3; mix++) walk(layer + 1, gainDb - 6 - mix, frames + delay(layer, mix) * 48);
    };
    walk(0, 0, 0);
    const power = [...byTime.values()].reduce((sum, amplitude) => sum + amplitude ** 2, 0);
    const arrival = reachOf(setup).at(setup.sources[0].id, 'headphones');
    expect(arrival?.copies).toBe(81);
    expect(arrival?.gainDb).toBeCloseTo(10 * Math.log10(power), 9);
  });

  test('of 3,486,784,401 paths the sum is right, and the loudest are written out', () => {
    const setup = layered(20, 3, () => 0);
    const arrival = reachOf(setup).at(setup.sources[0].id, 'headphones');
    expect(arrival?.copies).toBe(3 ** 20);
    const layer = 10 ** (-6 / 20) + 10 ** (-7 / 20) + 10 ** (-8 / 20);
    expect(arrival?.gainDb).toBeCloseTo(20 * 20 * Math.log10(layer), 6);
    expect(arrival?.paths).toHaveLength(MOST_PATHS);
    expect(Math.max(...(arrival?.paths.map(({ gainDb }) => gainDb) ?? []))).toBeCloseTo(-120, 9);
    // The loudest goes through the first mix of each layer; the next 20 through another one once: −121 dB.
    expect(arrival?.paths.filter(({ gainDb }) => gainDb > -121.5)).toHaveLength(21);
  });

  test('at very many different times stays bounded, and its findings say so', () => {
    const setup = layered(20, 3, (layer, mix) => layer + mix * 0.4);
    const arrival = reachOf(setup).at(setup.sources[0].id, 'headphones');
    expect(arrival?.copies).toBe(3 ** 20);
    expect(Number.isFinite(arrival?.gainDb)).toBe(true);
    const knot = findingsOf(setup, '2026-05-01').find(({ code }) => code === 'knot');
    expect(knot?.message).toMatch(/reaches Headphones by 3,486,784,401 paths/);
  });
});
