import { type Edit, EditError, nameOf, type SimpleEdit } from './edits.ts';
import type { Pickup, Setup } from './schema.ts';
import type { Device } from './wiring.ts';

/** The outputs on which the recorder can play back: those of the machine that it runs on. */
export function monitorOutputs({ devices, recorder: { machine } }: Setup): Device[] {
  return devices.filter(
    (one) => one.direction === 'out' && (machine === undefined || one.machine === machine),
  );
}

/**
 * The edit that has a pickup played back, or no longer (undefined). Where nothing says yet on which output, that is one on which
 * somebody wears headphones, else the default output; never the one that the pickup takes.
 * @throws {EditError} when the recorder has no output to play back on
 */
export function monitoringEdit(setup: Setup, pickup: Pickup, monitoring: Pickup['monitoring']): Edit {
  const { id, takes } = pickup;
  if (!monitoring) return { edit: 'updatePickup', id, clear: ['monitoring'], values: {} };
  const edit: SimpleEdit = { edit: 'updatePickup', id, values: { monitoring } };
  if (setup.recorder.monitorDevice !== undefined) return edit;
  const outputs = monitorOutputs(setup).filter((one) => one.id !== takes);
  const worn = setup.destinations.find(({ kind }) => kind === 'headphones')?.hears ?? [];
  const defaults = setup.machines.map(({ defaultOutput }) => defaultOutput);
  const device =
    outputs.find((one) => worn.includes(one.id)) ??
    outputs.find((one) => defaults.includes(one.id)) ??
    outputs[0];
  if (!device)
    throw new EditError(
      'recorder.monitorDevice',
      'The recorder has no output to play back on. Add an output to its machine first.',
    );
  return {
    edit: 'batch',
    label: `play ${nameOf(setup, id)} back`.slice(0, 120),
    edits: [{ edit: 'setRecorder', values: { monitorDevice: device.id } }, edit],
  };
}
