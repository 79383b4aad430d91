import { describe, expect, test } from '@jest/globals';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { findingsOf } from '../findings/findings.ts';
import { reachOf } from '../reach/reach.ts';
import { mixMinus } from '../repair/mixMinus.ts';
import { clearanceOf } from './clearance.ts';
import { applyEdit, EditError, type SimpleEdit } from './edits.ts';
import { parseSetup } from './file.ts';
import type { Setup } from './schema.ts';

const setup = twoMachinesMadeRight();
const tried = (...edits: SimpleEdit[]) => parseSetup(edits.reduce<Setup>(applyEdit, setup));

describe('wiring that no machine could do is refused in words', () => {
  test.each<[string, SimpleEdit[], RegExp]>([
    [
      'a mix that takes in itself',
      [{ edit: 'setMixInput', mix: 'sluicebox.ears', from: 'sluicebox.ears', values: {} }],
      /“?Headphone mix"? cannot be an input of itself/,
    ],
    [
      'a link within one machine',
      [{ edit: 'updateLink', id: 'hdmi', values: { to: 'boathouse.chat-in' } }],
      /both ends are on "boathouse"; a link joins two machines/,
    ],
    [
      'a link to a device that is not there',
      [{ edit: 'updateLink', id: 'hdmi', values: { to: 'gone' } }],
      /there is no device "gone"/,
    ],
    [
      'a default that is another machine’s device',
      [{ edit: 'updateMachine', id: 'loft', values: { defaultOutput: 'boathouse.game' } }],
      /"boathouse.game" is not an output of "loft"/,
    ],
    [
      'a pickup of an app on another machine',
      [{ edit: 'addPickup', pickup: { takes: 'game', gainDb: 0 } }],
      /"game" is on "boathouse", but the recorder runs on "loft"; take the device there/,
    ],
    [
      'a delay of minutes',
      [{ edit: 'updatePickup', id: 'call', values: { delayMs: 120_000 } }],
      /must be 5000 ms or less; a longer delay is a mistake/,
    ],
    [
      'an app that plays into another machine',
      [{ edit: 'updateSource', id: 'game', values: { into: 'loft.main' } }],
      /"loft.main" is not on "boathouse"; choose a device that is/,
    ],
    [
      'a mix of sounds of another machine',
      [{ edit: 'setMixInput', mix: 'sluicebox.ears', from: 'game', values: {} }],
      /bring it there by a link first/,
    ],
  ])('%s', (_name, edits, message) => {
    expect(() => tried(...edits)).toThrow(message);
  });
});

describe('removing what others depend on', () => {
  test('a device says what depends on it, and can be re-homed or taken away with its uses', () => {
    expect(() => applyEdit(setup, { edit: 'removeDevice', id: 'loft.records' })).toThrow(EditError);
    expect(() => applyEdit(setup, { edit: 'removeDevice', id: 'loft.records' })).toThrow(
      /Records is in use: Reedbox plays into it and the recorder takes it/,
    );
    const moved = tried({ edit: 'removeDevice', id: 'loft.records', rehome: 'loft.cable' });
    expect(findingsOf(moved, '2026-05-01')).toEqual([]);
    const gone = tried({ edit: 'removeDevice', id: 'loft.records', rehome: null });
    expect(reachOf(gone).at('reedbox', 'live')).toBeNull();
    expect(gone.pickups.some((pickup) => pickup.takes === 'loft.records')).toBe(false);
  });

  test('a machine that still holds something is kept', () => {
    expect(() => applyEdit(setup, { edit: 'removeMachine', id: 'minnow-handheld' })).toThrow(
      /Minnow still holds Headphone jack and Minnow; move or remove them first/,
    );
  });

  test('a scene takes its place in the pickups along, a mix its inputs elsewhere', () => {
    const without = tried({ edit: 'removeScene', id: 'break' }, { edit: 'removeMix', id: 'sluicebox.ears' });
    expect(without.pickups.find((pickup) => pickup.id === 'call')?.scenes).toEqual(['race']);
    expect(reachOf(without).at('game', 'headphones')).toBeNull();
  });
});

describe('unusual wiring is taken as it is', () => {
  test('names that differ only in case get ids of their own', () => {
    const device = (name: string): SimpleEdit => ({
      edit: 'addDevice',
      device: { name, machine: 'loft', direction: 'out', kind: 'virtual' },
    });
    const ids = tried(device('Cable'), device('cable'), device('CABLE'))
      .devices.slice(-3)
      .map(({ id }) => id);
    expect(new Set(ids).size).toBe(3);
  });

  test('a loop of mixes is cut, told, and does not stop the rest', () => {
    const loop = tried(
      { edit: 'setMixInput', mix: 'sluicebox.ears', from: 'sluicebox.chat-mix', values: {} },
      { edit: 'setMixInput', mix: 'sluicebox.chat-mix', from: 'sluicebox.ears', values: {} },
    );
    expect(findingsOf(loop, '2026-05-01').map(({ code }) => code)).toContain('feedback');
    expect(reachOf(loop).at('reedbox', 'live')?.gainDb).toBe(-16);
  });

  test('200 sources are a setup like any other', () => {
    const many = Array.from(
      { length: 190 },
      (_, i): SimpleEdit => ({
        edit: 'addSource',
        source: {
          name: `App ${i}`,
          kind: 'browser',
          clearance: clearanceOf('own'),
          machine: 'loft',
          into: 'default',
          levelDb: 0,
          media: null,
        },
      }),
    );
    const large = tried(...many);
    expect(large.sources).toHaveLength(199);
    expect(findingsOf(large, '2026-05-01').length).toBeGreaterThan(190);
  });

  test('a pan of copies over many mixes ends at a limit of paths', () => {
    const mixes = Array.from(
      { length: 8 },
      (_, i): SimpleEdit => ({
        edit: 'addMix',
        id: `m${i}`,
        mix: {
          name: `M${i}`,
          machine: 'loft',
          inputs: i === 0 ? [{ from: 'loft.records', gainDb: 0 }] : [{ from: `m${i - 1}`, gainDb: 0 }],
          into: ['loft.main'],
        },
      }),
    );
    const knot = tried(
      ...mixes,
      { edit: 'addPickup', id: 'all', pickup: { takes: 'loft.main', gainDb: 0 } },
      { edit: 'setSend', pickup: 'all', to: 'live-mix', gainDb: 0 },
    );
    expect(reachOf(knot).at('reedbox', 'live')?.paths.length).toBe(9);
  });
});

test('a mix-minus mutes the friends’ own voices, and nothing else', () => {
  const echoing = tried({
    edit: 'setMixInput',
    mix: 'sluicebox.chat-mix',
    from: 'sluicebox.chat',
    values: { muted: false },
  });
  const after = applyEdit(echoing, mixMinus(echoing, 'friends'));
  expect(reachOf(after).at('bosun', 'friends')).toBeNull();
  expect(reachOf(after).at('narrator', 'friends')?.gainDb).toBe(0);
  expect(() => mixMinus(after, 'friends')).toThrow(/their mix is a mix-minus already/);
});
