/** The stations of the work, in order. `promise` says what one will hold that is still to come. */
export const STATIONS: { path: string; name: string; promise: string | null }[] = [
  { path: 'sources', name: 'Sources', promise: null },
  { path: 'wiring', name: 'Wiring', promise: null },
  { path: 'reach', name: 'Reach', promise: null },
  { path: 'balance', name: 'Balance', promise: null },
  { path: 'rehearse', name: 'Rehearse', promise: null },
  { path: 'takes', name: 'Takes', promise: null },
];
