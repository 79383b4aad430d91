import { blankSetup } from '../setup/blank.ts';
import type { Setup } from '../setup/schema.ts';
import { regattaMadeRight, regattaWithFaults, voiceOver } from './setups.ts';
import type { StartFrom } from './startNames.ts';
import { twoMachinesMadeRight, twoMachinesWithFaults } from './twoMachines.ts';

const MAKERS: Record<StartFrom, () => Setup> = {
  'regatta-with-faults': regattaWithFaults,
  'two-machines': twoMachinesWithFaults,
  'regatta-made-right': regattaMadeRight,
  'two-machines-made-right': twoMachinesMadeRight,
  'voice-over': voiceOver,
  blank: () => blankSetup('New setup'),
};

/** Makes the setup that a new one starts from. */
export function makeStart(from: StartFrom): Setup {
  return MAKERS[from]();
}
