import type { Setup } from './schema.ts';
import type { Device } from './wiring.ts';

type Clocked = Pick<Setup, 'devices' | 'machines'>;

/** How fast the clock of a device runs (parts per million over the nominal rate): that of its leader, its own, or its machine's. */
export function clockPpmOf(setup: Clocked, id: string): number {
  const device = setup.devices.find((one) => one.id === id);
  if (!device) return 0;
  const leader = setup.devices.find((one) => one.id === device.follows) ?? device;
  return leader.clockPpm ?? machineClockOf(setup, device);
}

/** By how much an input drifts against its machine (parts per million); 0 for one that is driven together with the rest. */
export function inputDriftPpm(setup: Clocked, device: Device): number {
  if (device.direction !== 'in') return 0;
  return clockPpmOf(setup, device.id) - machineClockOf(setup, device);
}

function machineClockOf({ machines }: Clocked, { machine }: Device): number {
  return machines.find(({ id }) => id === machine)?.clockPpm ?? 0;
}
