import { blankSetup } from '../setup/blank.ts';
import type { Setup } from '../setup/schema.ts';
import { regattaMadeRight, regattaWithFaults, voiceOver } from './setups.ts';
import { twoMachinesMadeRight, twoMachinesWithFaults } from './twoMachines.ts';

/** What a new setup can start from. */
export const STARTS = {
  'regatta-with-faults': {
    name: 'The regatta with its faults',
    hint: 'nine sources, six things wrong with who gets what, and a sound to match',
    make: regattaWithFaults,
  },
  'two-machines': {
    name: 'Two machines and a desk, with faults',
    hint: 'the same run over Boathouse, Loft and Sluicebox, as it was found',
    make: twoMachinesWithFaults,
  },
  'regatta-made-right': {
    name: 'The regatta made right',
    hint: 'with nothing left to find',
    make: regattaMadeRight,
  },
  'two-machines-made-right': {
    name: 'Two machines, made right',
    hint: 'with nothing left to find',
    make: twoMachinesMadeRight,
  },
  'voice-over': { name: 'A plain voice-over', hint: 'three sources, nothing live', make: voiceOver },
  blank: {
    name: 'An empty setup',
    hint: 'begin with your own sources',
    make: () => blankSetup('New setup'),
  },
} satisfies Record<string, { name: string; hint: string; make: () => Setup }>;
export type StartFrom = keyof typeof STARTS;
export const START_NAMES = Object.keys(STARTS) as [StartFrom, ...StartFrom[]];
