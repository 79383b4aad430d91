import { describe, expect, test } from '@jest/globals';
import { regattaMadeRight, regattaWithFaults } from '../demo/setups.ts';
import { twoMachinesMadeRight, twoMachinesWithFaults } from '../demo/twoMachines.ts';
import { findingsOf } from '../findings/findings.ts';
import { reachOf } from '../reach/reach.ts';
import { isCleared } from '../setup/clearance.ts';
import { applyEdit, type Edit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { RIGHT_ROOMS } from '../testing/rooms.ts';
import { Judge } from './judge.ts';
import { mend } from './mend.ts';
import { type Wanted, wantedOf } from './wanted.ts';

const TODAY = '2026-05-01';

const distanceOf = (setup: Setup, wanted?: Wanted) => new Judge(setup, TODAY, wanted).first.total;

/** Every wish of a setup that its clearances allow, with what arrives of it in another (dB off; null for nothing). */
function offWish(wanted: Setup, mended: Setup): { pair: string; off: number | null }[] {
  const reach = reachOf(mended);
  return wanted.intent.flatMap(({ source, destination, gainDb }) => {
    const track = reach.destinations.find(({ id }) => id === destination)?.track;
    const clearance = wanted.sources.find(({ id }) => id === source)?.clearance;
    const uses = (['live', 'vod'] as const).filter((use) => track?.uses.includes(use));
    if (clearance && uses.some((use) => !isCleared(clearance, use, TODAY))) return [];
    const arrival = reach.at(source, destination);
    return [{ pair: `${source} at ${destination}`, off: arrival ? Math.abs(arrival.gainDb - gainDb) : null }];
  });
}

describe('how far a setup is from what is wanted', () => {
  test('is nothing for the rooms that are right', () => {
    expect(distanceOf(regattaMadeRight())).toBe(0);
    expect(distanceOf(twoMachinesMadeRight())).toBeLessThan(1);
  });

  test('grows with the gravity of what is wrong', () => {
    const right = regattaMadeRight();
    const by = (edit: Edit) => distanceOf(applyEdit(right, edit), wantedOf(right));
    const send = (source: string, to: string, gainDb: number | null): Edit => ({
      edit: 'setSend',
      pickup: `${source}.pickup`,
      to,
      gainDb,
    });
    const little = by({ edit: 'updateSource', id: 'game', values: { levelDb: 3 } });
    const unwanted = by(send('minnow', 'friends', -10));
    const missing = by(send('narrator', 'live-mix', null));
    const leak = by(send('reedbox', 'vod-mix', -20));
    expect([little, unwanted, missing, leak]).toEqual(
      [little, unwanted, missing, leak].sort((a, b) => a - b),
    );
    expect(little).toBeGreaterThan(0);
  });

  test('does not shrink when a wish is given up', () => {
    const faulty = regattaWithFaults();
    const wanted = wantedOf(faulty);
    const given = applyEdit(faulty, {
      edit: 'setWish',
      source: 'bellbuoy',
      destination: 'vod',
      gainDb: null,
    });
    expect(distanceOf(given, wanted)).toBe(distanceOf(faulty, wanted));
  });
});

describe('mending', () => {
  test.each([
    ['the regatta', regattaWithFaults],
    ['two machines', twoMachinesWithFaults],
  ])(
    '%s ends with every wish within 1 dB of its level, nothing unwanted, no wish given up',
    (_name, make) => {
      const faulty = make();
      const { setup, steps, stopStands } = mend(faulty, TODAY);
      expect(stopStands).toBe(false);
      expect(findingsOf(setup, TODAY).filter(({ severity }) => severity !== 'note')).toEqual([]);
      for (const { remedy } of steps) expect(remedy.givesUp).toEqual([]);
      expect(setup.intent.slice(0, faulty.intent.length)).toEqual(faulty.intent);
      // An app's own volume is a note: it is told, and its level is mended by hand.
      const quiet = new Set(
        setup.sources.filter(({ volumePercent = 100 }) => volumePercent < 100).map(({ id }) => id),
      );
      const off = offWish(faulty, setup).filter(({ pair }) => !quiet.has(pair.split(' ')[0]));
      expect(off.filter((one) => one.off === null || one.off > 1)).toEqual([]);
    },
  );

  test.each([
    ['as they are, the sends are put right', 'live-mix', 'vod-mix', false],
    ['the other way round, they are exchanged', 'vod-mix', 'live-mix', true],
  ])('what is on the VOD in place of live, where tracks are called %s', (_name, live, vod, isExchanged) => {
    const right = RIGHT_ROOMS.find(([name]) => name === 'soft desk')?.[1] as Setup;
    const names: Record<string, string> = { 'live-mix': live, 'vod-mix': vod };
    const faulty: Setup = {
      ...right,
      tracks: right.tracks.map((track) => ({ ...track, name: names[track.id] ?? track.name })),
      sends: right.sends.map((send) =>
        send.pickup === 'records.pickup' && send.to === 'live-mix' ? { ...send, to: 'vod-mix' } : send,
      ),
    };
    const { steps, stopStands } = mend(faulty, TODAY);
    expect(stopStands).toBe(false);
    expect(steps.some(({ remedy }) => remedy.label.startsWith('Exchange the uses'))).toBe(isExchanged);
  });

  test('leaves a room that is right as it is', () => {
    const right = twoMachinesMadeRight();
    expect(mend(right, TODAY)).toMatchObject({ setup: right, steps: [], stopStands: false });
  });
});
