import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { randomWiring } from '../testing/randomWiring.ts';
import { deviceOf, type Graph, graphOf, sameApp } from './graph.ts';
import { reachOf } from './reach.ts';

const right = twoMachinesMadeRight();
const edited = (...edits: SimpleEdit[]) => edits.reduce<Setup>(applyEdit, right);
const legs = ({ nodes, edges }: Graph) => edges.map(({ from, to }) => `${nodes[from].id} > ${nodes[to].id}`);

/** Whether the legs that are not cut still lead in a circle. */
function hasLoop({ nodes, leaving }: Graph): boolean {
  const state = new Map<number, 'open' | 'done'>();
  const visit = (node: number): boolean => {
    if (state.get(node) === 'open') return true;
    if (state.get(node) === 'done') return false;
    state.set(node, 'open');
    const found = leaving[node].some((edge) => !edge.cut && visit(edge.to));
    state.set(node, 'done');
    return found;
  };
  return nodes.some((_, node) => visit(node));
}

describe('the graph of a setup', () => {
  test('has a leg for everything that is joined, and none for what is muted', () => {
    const found = legs(graphOf(right));
    expect(found).toEqual(
      expect.arrayContaining([
        'narrator > sluicebox.mic',
        'sluicebox.mic > sluicebox.loft-feed',
        'sluicebox.loft-feed > sluicebox.to-loft',
        'sluicebox.to-loft > loft.desk',
        'loft.desk > desk-feed',
        'desk-feed > voice',
        'bellbuoy > bells',
        'sluicebox.phones > headphones',
        'boathouse.chat-in > friends',
      ]),
    );
    expect(found).not.toContain('sluicebox.game > sluicebox.loft-feed');
    expect(found).not.toContain('sluicebox.mic > sluicebox.ears');
  });

  test('an app on the default plays where the default is, and moves with it', () => {
    const onDefault = edited({ edit: 'updateSource', id: 'reedbox', values: { into: 'default' } });
    const reedbox = (setup: Setup) => setup.sources.find(({ id }) => id === 'reedbox');
    const device = (setup: Setup) => {
      const source = reedbox(setup);
      return source && deviceOf(setup, source);
    };
    expect(device(onDefault)).toBe('loft.main');
    const moved = applyEdit(onDefault, {
      edit: 'updateMachine',
      id: 'loft',
      values: { defaultOutput: 'loft.cable' },
    });
    expect(device(moved)).toBe('loft.cable');
    const none = applyEdit(moved, {
      edit: 'updateMachine',
      id: 'loft',
      values: {},
      clear: ['defaultOutput'],
    });
    expect(device(none)).toBeUndefined();
    expect(reachOf(none).at('reedbox', 'live')).toBeNull();
  });

  test('sources of one app are taken together by a pickup of any of them', () => {
    const apps = {
      ...right,
      recorder: { machine: 'boathouse', trackLimit: 8 },
      pickups: [{ id: 'call', takes: 'wick', gainDb: 0 }],
      sends: [{ pickup: 'call', to: 'voice', gainDb: 0 }],
    };
    const wick = apps.sources.find(({ id }) => id === 'wick');
    expect(wick && sameApp(apps, wick).map(({ id }) => id)).toEqual(['bosun', 'wick']);
    expect(reachOf(apps).sourcesAt('call')).toEqual(['bosun', 'wick']);
    expect(reachOf(apps).at('bosun', 'voice')?.gainDb).toBe(0);
  });

  test('of one scene has the pickups that sound in it', () => {
    const setup = edited({ edit: 'updatePickup', id: 'records', values: { scenes: ['break'] } });
    const inScene = (scene: string) => reachOf(setup, { scene }).at('reedbox', 'live')?.gainDb ?? null;
    expect(inScene('break')).toBe(-16);
    expect(inScene('race')).toBeNull();
    expect(reachOf(setup).at('reedbox', 'live')?.gainDb).toBe(-16);
  });

  test('delays are kept to whole frames, leg by leg', () => {
    const setup = edited({ edit: 'updatePickup', id: 'capture', values: { delayMs: 0.03 } });
    const arrival = reachOf(setup).at('game', 'boat');
    expect(arrival?.delayMs).toBeCloseTo(42 + 1 / 48, 6);
    expect(arrival?.latestMs).toBe(arrival?.delayMs);
  });

  test('a clock that nothing follows makes its link drift, by the difference of both', () => {
    const setup = edited({ edit: 'updateLink', id: 'hdmi', values: { converted: false } });
    const drifting = graphOf(setup).edges.filter((edge) => edge.driftPpm !== 0);
    expect(drifting.map(({ link, driftPpm }) => [link?.id, driftPpm])).toEqual([['hdmi', 12]]);
  });
});

describe('loops', () => {
  test('are cut until none is left, in any wiring, and told', () => {
    fc.assert(
      fc.property(randomWiring, (setup) => {
        const graph = graphOf(setup);
        expect(hasLoop(graph)).toBe(false);
        expect(graph.loops.length).toBe(graph.edges.filter((edge) => edge.cut).length);
      }),
      { numRuns: 100 },
    );
  });

  test('name the places that feed each other, in order', () => {
    const loop = edited(
      { edit: 'setMixInput', mix: 'sluicebox.ears', from: 'sluicebox.chat-mix', values: {} },
      { edit: 'setMixInput', mix: 'sluicebox.chat-mix', from: 'sluicebox.ears', values: {} },
    );
    expect(graphOf(loop).loops).toEqual([['Mix “Mix for the friends”', 'Mix “Headphone mix”']]);
  });
});

describe('copies of one sound', () => {
  const doubledBy = (gainDb: number, delayMs: number) =>
    edited(
      { edit: 'updateSource', id: 'bellbuoy', values: { into: 'loft.main' } },
      { edit: 'addPickup', id: 'desktop', pickup: { takes: 'loft.main', gainDb, delayMs } },
      { edit: 'setSend', pickup: 'desktop', to: 'live-mix', gainDb: -8 },
    );
  const doubling = (setup: Setup) => reachOf(setup).at('bellbuoy', 'live')?.doubling;

  test('that arrive together add in amplitude: two alike are 6.02 dB louder, without a notch', () => {
    expect(doubling(doubledBy(0, 0))?.gainChangeDb).toBeCloseTo(6.0206, 4);
    expect(doubling(doubledBy(0, 0))?.firstNotchHz).toBeNull();
  });

  test('that arrive apart add in power, and first take out half the inverse of their distance', () => {
    const found = doubling(doubledBy(0, 10));
    expect(found?.gainChangeDb).toBeCloseTo(3.0103, 4);
    expect(found?.firstNotchHz).toBeCloseTo(50, 6);
  });

  test('count down to 60 dB below the loudest, no further', () => {
    expect(doubling(doubledBy(-59, 0))).not.toBeNull();
    expect(doubling(doubledBy(-61, 0))).toBeNull();
  });
});

test('the gain at a pickup is that of the way there, own level and volume with it', () => {
  const setup = edited(
    { edit: 'updateSource', id: 'game', values: { levelDb: -3, volumePercent: 50 } },
    { edit: 'updatePickup', id: 'capture', values: { gainDb: 2 } },
  );
  const reach = reachOf(setup);
  expect(reach.gainAt('game', 'capture')).toBeCloseTo(-3 - 6.0206 + 2, 3);
  expect(reach.gainAt('game', 'call')).toBeNull();
  expect(reach.at('game', 'boat')?.gainDb).toBeCloseTo(reach.gainAt('game', 'capture') ?? 0, 6);
});
