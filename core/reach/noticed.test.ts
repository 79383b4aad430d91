import { expect, test } from '@jest/globals';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { applyEdit } from '../setup/edits.ts';
import { RIGHT_ROOMS } from '../testing/rooms.ts';
import { lossesOf } from './noticed.ts';
import { reachOf } from './reach.ts';

test('names who would notice if a device went', () => {
  const setup = twoMachinesMadeRight();
  const losses = lossesOf(reachOf(setup), setup.sources);
  expect(losses.get('loft.records')).toEqual([
    { destination: 'live', sources: ['reedbox'] },
    { destination: 'records-alone', sources: ['reedbox'] },
  ]);
  expect(losses.get('loft.main')).toBeUndefined();
});

test('is what is gone once the device is removed with all that depends on it, in every room', () => {
  // Apps that their machine gives an output fall back to its default; all others fall silent when a device is removed.
  const rooms = RIGHT_ROOMS.filter(([, { sources }]) =>
    sources.every((one) => one.machineInto === undefined),
  );
  expect(rooms.length).toBeGreaterThan(12);
  for (const [name, setup] of rooms) {
    const reach = reachOf(setup);
    const losses = lossesOf(reach, setup.sources);
    for (const { id } of setup.devices) {
      const without = reachOf(applyEdit(setup, { edit: 'removeDevice', id, rehome: null }));
      const gone = setup.sources.flatMap((source) =>
        reach.destinations
          .filter((one) => reach.at(source.id, one.id) && !without.at(source.id, one.id))
          .map((one) => `${source.id} ${one.id}`),
      );
      const told = (losses.get(id) ?? []).flatMap(({ destination, sources }) =>
        sources.map((source) => `${source} ${destination}`),
      );
      expect([name, id, told.sort()]).toEqual([name, id, gone.sort()]);
    }
  }
});
