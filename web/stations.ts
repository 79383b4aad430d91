/** The stations of the work, in order. */
export const STATIONS: { path: string; name: string }[] = [
  { path: 'sources', name: 'Sources' },
  { path: 'wiring', name: 'Wiring' },
  { path: 'reach', name: 'Reach' },
  { path: 'balance', name: 'Balance' },
  { path: 'rehearse', name: 'Rehearse' },
  { path: 'takes', name: 'Takes' },
];
