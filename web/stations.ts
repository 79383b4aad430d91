/** One of the stations of the work: the last part of its address, and its name. */
export interface Station {
  path: string;
  name: string;
}

/** The stations of the work, in order. */
export const STATIONS: Station[] = [
  { path: 'sources', name: 'Sources' },
  { path: 'wiring', name: 'Wiring' },
  { path: 'reach', name: 'Reach' },
  { path: 'balance', name: 'Balance' },
  { path: 'rehearse', name: 'Rehearse' },
  { path: 'takes', name: 'Takes' },
];

/** Pages below a station that have a name of their own. */
const BELOW: Record<string, string> = { 'wiring/steps': 'Set-up sheet', 'reach/drills': 'Drills' };

/** Returns the station that an address of a setup belongs to. */
export function stationAt(pathname: string): Station | undefined {
  return STATIONS.find(({ path }) => pathname.split('/')[3] === path);
}

/** Says the name of the page at an address of a setup. */
export function pageNameAt(pathname: string): string {
  const below = pathname.split('/').slice(3, 5).join('/');
  return BELOW[below] ?? stationAt(pathname)?.name ?? '';
}
