import { clockPpmOf } from '../setup/clocks.ts';
import type { Setup } from '../setup/schema.ts';
import type { Link } from '../setup/wiring.ts';

/** What can be wrong with a link, by the code of its finding. */
export type LineFault = 'hum-risk' | 'drift' | 'rate-mismatch';

/** Returns what is wrong with a link as such, whatever it carries. */
export function lineFaults(setup: Setup, link: Link): LineFault[] {
  const faults: LineFault[] = [];
  if (link.kind === 'analogue' && !link.isolated) faults.push('hum-risk');
  if (link.converted === false) {
    if (driftPpm(setup, link) !== 0) faults.push('drift');
    if (rateOf(setup, link.from) !== rateOf(setup, link.to)) faults.push('rate-mismatch');
  }
  return faults;
}

/** By how much the clock of the near end runs faster than that of the far end (parts per million). */
export function driftPpm(setup: Setup, { from, to }: Link): number {
  return clockPpmOf(setup, from) - clockPpmOf(setup, to);
}

/** The sample rate of a device (Hz). */
export function rateOf(setup: Setup, device: string): number {
  return setup.devices.find(({ id }) => id === device)?.sampleRate ?? 48_000;
}
