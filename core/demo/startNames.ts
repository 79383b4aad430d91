/** What a new setup can start from, in words; `starts.ts` makes them. */
export const STARTS = {
  'regatta-with-faults': {
    name: 'The regatta with its faults',
    hint: 'nine sources, six things wrong with who gets what, and a sound to match',
  },
  'two-machines': {
    name: 'Two machines and a desk, with faults',
    hint: 'the same run over Boathouse, Loft and Sluicebox, as it was found',
  },
  'regatta-made-right': { name: 'The regatta made right', hint: 'with nothing left to find' },
  'two-machines-made-right': { name: 'Two machines, made right', hint: 'with nothing left to find' },
  'voice-over': { name: 'A plain voice-over', hint: 'three sources, nothing live' },
  blank: { name: 'An empty setup', hint: 'begin with your own sources' },
} satisfies Record<string, { name: string; hint: string }>;
export type StartFrom = keyof typeof STARTS;
export const START_NAMES = Object.keys(STARTS) as [StartFrom, ...StartFrom[]];
