import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { twoMachinesMadeRight, twoMachinesWithFaults } from '../demo/twoMachines.ts';
import type { Finding } from '../findings/finding.ts';
import { findingsOf } from '../findings/findings.ts';
import { handworkOf } from '../repair/handwork.ts';
import { whyInseparable } from '../repair/moves/separate.ts';
import { remediesFor, separationsOf } from '../repair/remedies.ts';
import { applyEdit } from '../setup/edits.ts';
import { parseSetup } from '../setup/file.ts';
import type { Setup } from '../setup/schema.ts';
import { randomWiring } from '../testing/randomWiring.ts';
import { cellEdit, handlesOf } from './cell.ts';
import { fusedGroups } from './fused.ts';
import { intentOf } from './intent.ts';
import { neighboursOf } from './neighbours.ts';
import { reachOf } from './reach.ts';

const TODAY = '2026-05-01';
const right = twoMachinesMadeRight();
const edited = (source: string, destination: string, gainDb: number | null, setup = right) =>
  parseSetup(applyEdit(setup, cellEdit(setup, source, destination, gainDb)));

describe('a cell over the wiring', () => {
  test('a track moves by its send, destinations by the mix that they hear', () => {
    const live = edited('game', 'live', -14);
    expect(live.sends.find((send) => send.pickup === 'capture' && send.to === 'live-mix')?.gainDb).toBe(-14);
    expect(live.mixes).toEqual(right.mixes);
    const destinations = edited('game', 'headphones', -9);
    expect(destinations.sends).toEqual(right.sends);
    expect(reachOf(destinations).at('game', 'headphones')?.gainDb).toBeCloseTo(-9);
    expect(reachOf(destinations).at('bosun', 'headphones')?.gainDb).toBe(0);
  });

  test('closing for destinations mutes in the mix, and opening takes the mute away', () => {
    const closed = edited('game', 'headphones', null);
    expect(reachOf(closed).at('game', 'headphones')).toBeNull();
    const input = closed.mixes
      .find((mix) => mix.id === 'sluicebox.ears')
      ?.inputs.find(({ from }) => from === 'sluicebox.game');
    expect(input?.muted).toBe(true);
    const open = edited('game', 'headphones', -6, closed);
    expect(reachOf(open).at('game', 'headphones')?.gainDb).toBeCloseTo(-6);
  });

  test('fused sources move together, in reach and in what is wanted', () => {
    const after = edited('bosun', 'live', -7);
    for (const id of ['bosun', 'wick']) {
      expect(reachOf(after).at(id, 'live')?.gainDb).toBeCloseTo(-7);
      expect(intentOf(after).at(id, 'live')).toBeCloseTo(-7);
    }
  });

  test('where no way leads, it says so and changes nothing', () => {
    expect(() => cellEdit(right, 'reedbox', 'headphones', -10)).toThrow(
      /no way leads from Reedbox to Own headphones yet; give it an output, a mix or a pickup that leads there/,
    );
  });

  test('the handle of a track is a send, that of destinations the input that moves the fewest', () => {
    const reach = reachOf(right);
    const handle = (source: string, destination: string) => {
      const from = right.sources.find(({ id }) => id === source);
      const to = reach.destinations.find(({ id }) => id === destination);
      return from && to ? handlesOf(right, reach, from, to)[0] : undefined;
    };
    expect(handle('game', 'boat')).toMatchObject({ kind: 'send', from: 'capture', sources: ['game'] });
    expect(handle('narrator', 'friends')).toMatchObject({ kind: 'input', to: 'sluicebox.chat-mix' });
  });
});

describe('fused sources', () => {
  test('are those that come by one pickup and by no other', () => {
    expect(fusedGroups(right, reachOf(right))).toEqual([{ pickup: 'call', sources: ['bosun', 'wick'] }]);
    const faulty = twoMachinesWithFaults();
    expect(fusedGroups(faulty, reachOf(faulty)).map(({ pickup }) => pickup)).toEqual(['call']);
  });

  test('that come out of one app are said to be inseparable, and why', () => {
    const bosun = right.sources.find(({ id }) => id === 'bosun');
    if (!bosun) throw new Error('the demo has friends');
    expect(separationsOf(right, bosun, TODAY)).toEqual([]);
    expect(whyInseparable(right, bosun)).toContain(
      'Bosun and Wick come out of one app, Towline, as one sound',
    );
  });

  test('are separated with the least work by hand, said step by step, and no new stop', () => {
    const pings = parseSetup(
      applyEdit(right, { edit: 'updateSource', id: 'pings', values: { into: 'boathouse.game' } }),
    );
    const source = pings.sources.find(({ id }) => id === 'pings');
    const [way] = source ? separationsOf(pings, source, TODAY) : [];
    expect(way.handwork).toEqual(['In Boathouse pings, choose “Call channel” as the output.']);
    const after = parseSetup(applyEdit(pings, way.edit));
    expect(findingsOf(after, TODAY).filter(({ severity }) => severity === 'stop')).toEqual([]);
    expect(reachOf(after).at('pings', 'live')).toBeNull();
    expect(reachOf(after).at('pings', 'headphones')).not.toBeNull();
  });
});

describe('what a desk hands over as one', () => {
  /** Game and voice come to Loft on one feed of the desk. */
  const onOneFeed = (handovers: number) =>
    parseSetup(
      [
        { edit: 'updateMachine', id: 'sluicebox', values: { handovers } } as const,
        { edit: 'removePickup', id: 'capture' } as const,
        {
          edit: 'setMixInput',
          mix: 'sluicebox.loft-feed',
          from: 'sluicebox.game',
          values: { muted: false },
        } as const,
      ].reduce<Setup>(applyEdit, right),
    );

  test('is parted by a second feed, with the steps at both ends', () => {
    const setup = onOneFeed(3);
    expect(fusedGroups(setup, reachOf(setup)).map(({ sources }) => sources)).toContainEqual([
      'narrator',
      'game',
    ]);
    const source = setup.sources.find(({ id }) => id === 'narrator');
    const way =
      source && separationsOf(setup, source, TODAY).find(({ label }) => label.includes('second feed'));
    expect(way?.label).toBe('Let Sluicebox hand over Narrator by itself, on a second feed');
    if (!way) return;
    expect(way.handwork.join(' ')).toContain('On Sluicebox, add a device “Narrator alone”');
    const after = parseSetup(applyEdit(setup, way.edit));
    const reach = reachOf(after);
    expect(fusedGroups(after, reach).flatMap(({ sources }) => sources)).not.toContain('narrator');
    expect(reach.at('narrator', 'live')?.copies).toBe(1);
    expect(reach.at('narrator', 'voice')?.gainDb).toBeCloseTo(
      reachOf(setup).at('narrator', 'voice')?.gainDb ?? 0,
      4,
    );
  });

  test('stays as it is where the desk has no hand-over left', () => {
    const setup = onOneFeed(2);
    const source = setup.sources.find(({ id }) => id === 'narrator');
    const ways = source ? separationsOf(setup, source, TODAY) : [];
    expect(ways.filter(({ label }) => label.includes('second feed'))).toEqual([]);
  });
});

describe('remedies over the wiring', () => {
  test('each offered one removes its finding and raises no stop', () => {
    const faulty = twoMachinesWithFaults();
    const before = findingsOf(faulty, TODAY);
    const stops = new Set(before.filter(({ severity }) => severity === 'stop').map(({ id }) => id));
    for (const finding of before) {
      const remedies = remediesFor(faulty, finding, TODAY);
      expect(remedies.length).toBeGreaterThan(0);
      for (const { edit } of remedies) {
        const after = findingsOf(parseSetup(applyEdit(faulty, edit)), TODAY);
        expect(after.map(({ id }) => id)).not.toContain(finding.id);
        expect(after.filter(({ id, severity }) => severity === 'stop' && !stops.has(id))).toEqual([]);
      }
    }
  });

  test('in random wirings none that is offered leaves its stop, brings another, or gives up a wish', () => {
    let offered = 0;
    fc.assert(
      fc.property(randomWiring, (setup) => {
        const before = new Set(findingsOf(setup, TODAY).map(({ id }) => id));
        for (const finding of findingsOf(setup, TODAY).filter(({ severity }) => severity === 'stop')) {
          const [remedy] = remediesFor(setup, finding, TODAY).filter(({ givesUp }) => givesUp.length === 0);
          if (!remedy) continue;
          offered += 1;
          const mended = applyEdit(setup, remedy.edit);
          const after = findingsOf(mended, TODAY);
          expect(mended.intent).toEqual(setup.intent);
          expect(after.some(({ id }) => id === finding.id)).toBe(false);
          // What did not arrive at all may arrive in some scenes first.
          const isNew = ({ id, code, source, destination }: Finding) =>
            !before.has(id) && !(code === 'scene-gap' && before.has(`missing:${source}:${destination}`));
          expect(after.filter((one) => one.severity === 'stop' && isNew(one))).toEqual([]);
        }
      }),
      { numRuns: 25, seed: 3 },
    );
    expect(offered).toBeGreaterThan(20);
  });

  test('a leak that is fused with what is wanted has none, and closing both is offered apart, with what is lost', () => {
    const base = twoMachinesMadeRight();
    const setup = parseSetup({
      ...base,
      machines: base.machines.filter(({ id }) => id === 'loft'),
      devices: base.devices.filter(({ machine }) => machine === 'loft'),
      links: [],
      mixes: [],
      destinations: base.destinations.map(({ hears: _, ...one }) => one),
      sources: base.sources
        .filter(({ id }) => id === 'narrator' || id === 'reedbox')
        .map((one) => ({ ...one, kind: 'microphone', machine: 'loft', into: 'loft.desk' })),
      pickups: [{ id: 'desk-feed', takes: 'loft.desk', gainDb: 0 }],
      sends: [{ pickup: 'desk-feed', to: 'vod-mix', gainDb: 0 }],
      intent: [{ source: 'narrator', destination: 'vod', gainDb: 0 }],
    });
    const leak = findingsOf(setup, TODAY).find(({ code }) => code === 'leak.vod');
    const [remedy] = leak ? remediesFor(setup, leak, TODAY) : [];
    expect(remedy.label).toBe('Close Reedbox at VOD, and Narrator with it');
    expect(remedy.givesUp).toEqual(['Narrator is not heard at VOD']);
    const after = parseSetup(applyEdit(setup, remedy.edit));
    expect(findingsOf(after, TODAY).filter(({ severity }) => severity === 'stop')).toEqual([]);
  });

  test('levels and wishes take no work by hand; outputs, devices and cables do', () => {
    expect(handworkOf(right, { edit: 'setSend', pickup: 'call', to: 'live-mix', gainDb: -3 })).toEqual([]);
    expect(handworkOf(right, { edit: 'updateSource', id: 'reedbox', values: { into: 'loft.main' } })).toEqual(
      ['In Reedbox, choose “Desktop” as the output.'],
    );
    expect(handworkOf(right, { edit: 'updateLink', id: 'minnow-line', values: { isolated: true } })).toEqual([
      'Put an isolator into the line “Minnow’s line”.',
    ]);
  });
});

test('a device knows what arrives at it and where that goes on to', () => {
  const near = neighboursOf(reachOf(right));
  expect(near.get('boathouse.game')).toMatchObject({
    from: [{ id: 'game' }],
    to: [{ id: 'boathouse.copies' }, { id: 'sluicebox.game' }],
  });
  expect(near.get('sluicebox.phones')?.to).toMatchObject([{ place: 'Own headphones' }]);
  expect(near.get('loft.cable')).toEqual({ from: [], to: [] });
});
