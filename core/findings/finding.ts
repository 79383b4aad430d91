import type { Destination } from '../reach/destinations.ts';
import type { Arrival, RouteCard } from '../reach/reach.ts';
import type { FindingCode, Severity } from './codes.ts';

export { FINDING_CODES, type FindingCode, type Severity } from './codes.ts';

/** A difference between what is wanted and what arrives; `paths` are the route cards that cause it. */
export interface Finding {
  /** Stable while the same difference stands: code, source, destination and detail. */
  id: string;
  code: FindingCode;
  severity: Severity;
  message: string;
  source: string | null;
  destination: string | null;
  /** What else it is about: a pickup, a link or a scene by id, a use, the places of a loop. */
  detail: string | null;
  /** The scenes in which it stands; null where it stands whatever the scene. */
  scenes: string[] | null;
  readonly paths: RouteCard[];
}

/** What a finding is about; `detail` sets those apart that share code, source and destination. */
export interface FindingAbout {
  source?: string;
  destination?: string;
  arrivals?: Arrival[];
  detail?: string;
  scenes?: string[] | null;
}

/** Makes a finding. The sentence (given as a function) and the route cards are written when they are asked for. */
export function finding(
  code: FindingCode,
  severity: Severity,
  message: string | (() => string),
  about: FindingAbout = {},
): Finding {
  const { source = null, destination = null, arrivals = [], detail = null, scenes = null } = about;
  return {
    id: idOf(code, source, destination, detail),
    code,
    severity,
    get message() {
      return typeof message === 'string' ? message : message();
    },
    source,
    destination,
    detail,
    scenes,
    get paths() {
      return arrivals.flatMap((arrival) => arrival.paths);
    },
  };
}

function idOf(
  code: string,
  source: string | null,
  destination: string | null,
  detail: string | null,
): string {
  if (detail !== null) return `${code}:${source ?? ''}:${destination ?? ''}:${detail}`;
  if (destination !== null) return `${code}:${source ?? ''}:${destination}`;
  return source === null ? code : `${code}:${source}`;
}

/** Names a destination within a sentence. */
export function placeName(destination: Destination): string {
  return destination.kind === 'file'
    ? `track ${destination.trackNumber}, “${destination.name}”`
    : destination.name;
}
