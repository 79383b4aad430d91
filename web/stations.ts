/** The stations of the work, in order. `promise` says what one will hold that is still to come. */
export const STATIONS: { path: string; name: string; promise: string | null }[] = [
  { path: 'sources', name: 'Sources', promise: null },
  { path: 'wiring', name: 'Wiring', promise: null },
  { path: 'reach', name: 'Reach', promise: null },
  {
    path: 'balance',
    name: 'Balance',
    promise:
      'Levels and voice processing for each mix on its own, solved for a loudness target. Until then set levels on the board, and read the loudness of a take.',
  },
  { path: 'rehearse', name: 'Rehearse', promise: null },
  { path: 'takes', name: 'Takes', promise: null },
];
