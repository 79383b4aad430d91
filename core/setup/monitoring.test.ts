import { expect, test } from '@jest/globals';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { applyEdit } from './edits.ts';
import { monitoringEdit, monitorOutputs } from './monitoring.ts';
import { brokenRules } from './rules.ts';

const setup = twoMachinesMadeRight();
const [feed] = setup.pickups;

test('the first that is played back says on which output, the next ones follow, and none needs to be', () => {
  const one = applyEdit(setup, monitoringEdit(setup, feed, 'heard'));
  expect(one.recorder.monitorDevice).toBe('loft.main');
  expect(brokenRules(one)).toEqual([]);
  const other = monitoringEdit(one, one.pickups[1], 'heard and sent');
  expect(other).toEqual({
    edit: 'updatePickup',
    id: one.pickups[1].id,
    values: { monitoring: 'heard and sent' },
  });
  const off = applyEdit(one, monitoringEdit(one, one.pickups[0], undefined));
  expect(off.pickups).toEqual(setup.pickups);
});

test('what somebody wears comes before the default, and never what the pickup takes', () => {
  const worn = {
    ...setup,
    destinations: setup.destinations.map((one) =>
      one.kind === 'headphones' ? { ...one, hears: ['loft.cable'] } : one,
    ),
  };
  expect(applyEdit(worn, monitoringEdit(worn, feed, 'heard')).recorder.monitorDevice).toBe('loft.cable');
  const itself = { ...feed, takes: 'loft.cable' };
  expect(applyEdit(worn, monitoringEdit(worn, itself, 'heard')).recorder.monitorDevice).toBe('loft.main');
});

test('without an output it says what to do', () => {
  const bare = { ...setup, devices: setup.devices.filter(({ direction }) => direction === 'in') };
  expect(monitorOutputs(bare)).toEqual([]);
  expect(() => monitoringEdit(bare, feed, 'heard')).toThrow(/Add an output to its machine first/);
});
