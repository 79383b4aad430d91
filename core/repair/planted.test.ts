import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { regattaMadeRight } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { planRoom, type RoomSource } from '../plan/room.ts';
import type { SimpleEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { attempt } from './attempt.ts';
import { distanceOf, wantedOf } from './distance.ts';
import { mend } from './mend.ts';

const TODAY = '2026-05-01';
const EVENING: RoomSource[] = [
  { name: 'Narrator', kind: 'microphone', preset: 'own' },
  { name: 'Lock & Paddle', kind: 'game', preset: 'own' },
  { name: 'Bosun', kind: 'voice chat', preset: 'liveAndVod', app: 'Towline' },
  { name: 'Wick', kind: 'voice chat', preset: 'liveAndVod', app: 'Towline' },
  { name: 'Reedbox', kind: 'music', preset: 'liveOnly', onStreaming: true },
  { name: 'Bellbuoy', kind: 'alerts', preset: 'own', onStreaming: true },
];
const planned = (machines: 'one' | 'two', desk: boolean) =>
  planRoom('Evening', EVENING, { live: true, vod: true, upload: true, tracks: 8 }, { machines, desk }).setup;

const ROOMS: [name: string, setup: Setup][] = [
  ['app pickups only', regattaMadeRight()],
  ['two machines with a desk', twoMachinesMadeRight()],
  ['one computer with virtual devices', planned('one', false)],
  ['one computer and a desk', planned('one', true)],
  ['two computers', planned('two', false)],
  ['two computers and a desk', planned('two', true)],
];

/** Everything of its kinds that can be done wrong in a room, each as one edit. */
function faultsOf(setup: Setup): SimpleEdit[] {
  const feeds = [
    ...setup.tracks,
    ...setup.destinations.filter(({ kind }) => kind !== 'live' && kind !== 'vod'),
  ];
  const hasSend = (pickup: string, to: string) =>
    setup.sends.some((send) => send.pickup === pickup && send.to === to);
  return [
    ...setup.sends.flatMap(({ pickup, to, gainDb }): SimpleEdit[] => [
      { edit: 'setSend', pickup, to, gainDb: null },
      { edit: 'setSend', pickup, to, gainDb: Math.max(-90, gainDb - 20) },
    ]),
    ...setup.pickups.flatMap(({ id }) =>
      feeds
        .filter((feed) => !hasSend(id, feed.id))
        .map((feed): SimpleEdit => ({ edit: 'setSend', pickup: id, to: feed.id, gainDb: 0 })),
    ),
    ...setup.mixes.flatMap((mix): SimpleEdit[] => [
      ...mix.inputs.map(
        ({ from }): SimpleEdit => ({ edit: 'setMixInput', mix: mix.id, from, values: { muted: true } }),
      ),
      ...mix.inputs.map(({ from }): SimpleEdit => ({ edit: 'setMixInput', mix: mix.id, from, values: null })),
      { edit: 'updateMix', id: mix.id, values: { into: [] } },
    ]),
    ...setup.sources
      .filter(({ into, kind }) => into !== undefined && into !== 'default' && kind !== 'microphone')
      .map(({ id }): SimpleEdit => ({ edit: 'updateSource', id, values: { into: 'default' } })),
    ...setup.sources.map(({ id }): SimpleEdit => ({ edit: 'updateSource', id, values: { levelDb: -30 } })),
    ...setup.pickups.map(({ id }): SimpleEdit => ({ edit: 'removePickup', id })),
    ...setup.scenes
      .slice(0, 1)
      .flatMap((scene) =>
        setup.pickups.map(
          ({ id }): SimpleEdit => ({ edit: 'updatePickup', id, values: { scenes: [scene.id] } }),
        ),
      ),
    ...setup.tracks
      .filter(({ uses }) => uses.includes('vod'))
      .map(
        ({ id, uses }): SimpleEdit => ({
          edit: 'updateTrack',
          id,
          values: { uses: uses.filter((use) => use !== 'vod') },
        }),
      ),
  ];
}

/** How far a room is from what was wanted once its fault is mended, and the wishes that were lost on the way. */
function afterMending(right: Setup, faults: SimpleEdit[]): { distance: number; lostWishes: number } | null {
  const faulty = attempt(right, { edit: 'batch', label: 'faults', edits: faults });
  if (!faulty) return null;
  const { setup } = mend(faulty, TODAY);
  const kept = new Set(setup.intent.map(({ source, destination }) => `${source} ${destination}`));
  return {
    distance: distanceOf(setup, TODAY, wantedOf(right)),
    lostWishes: faulty.intent.filter((wish) => !kept.has(`${wish.source} ${wish.destination}`)).length,
  };
}

describe.each(ROOMS)('%s', (_name, right) => {
  test('is as it is wanted, and is left alone', () => {
    expect(distanceOf(right, TODAY)).toBeLessThan(1);
    expect(mend(right, TODAY).steps).toEqual([]);
  });

  test('with a random fault planted in it is mended as it was meant', () => {
    fc.assert(
      fc.property(fc.constantFrom(...faultsOf(right)), (fault) => {
        const after = afterMending(right, [fault]);
        if (after)
          expect({ fault, ...after }).toEqual({
            fault,
            distance: after.distance < 1 ? after.distance : 0,
            lostWishes: 0,
          });
      }),
      { numRuns: 16, seed: 7 },
    );
  });
});
