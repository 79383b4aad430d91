import type { Destination } from '../reach/destinations.ts';
import type { Intent } from '../reach/intent.ts';
import type { Arrival, Reach, RouteCard } from '../reach/reach.ts';
import type { Setup, Source } from '../setup/schema.ts';

export const FINDING_CODES = [
  'leak.live',
  'leak.vod',
  'leak.upload',
  'feedback',
  'echo.party',
  'uses',
  'track-limit',
  'scene-gap',
  'missing',
  'off-level',
  'swallowed',
  'fused',
  'doubled',
  'echo.self',
  'unwanted',
  'no-own-track',
  'double-processing',
  'hum-risk',
  'drift',
  'rate-mismatch',
  'on-default',
  'player-volume',
  'knot',
  'hum',
  'buried',
  'clipping',
  'off-target',
] as const;
export type FindingCode = (typeof FINDING_CODES)[number];
export type Severity = 'stop' | 'warn' | 'note';

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
  readonly paths: RouteCard[];
}

/** What the rules look at. */
export interface Survey {
  setup: Setup;
  reach: Reach;
  intent: Intent;
  today: string;
  /** The sources that arrive at each edit track of the file, by destination. */
  onEditTracks: Map<Destination, Source[]>;
}

/**
 * Makes a finding; `detail` sets findings apart that share code, source and destination. The sentence (given as a
 * function) and the route cards are written when they are asked for.
 */
export function finding(
  code: FindingCode,
  severity: Severity,
  message: string | (() => string),
  about: { source?: string; destination?: string; arrivals?: Arrival[]; detail?: string } = {},
): Finding {
  const { source = null, destination = null, arrivals = [], detail = null } = about;
  const id = idOf(code, source, destination, detail);
  return {
    id,
    code,
    severity,
    get message() {
      return typeof message === 'string' ? message : message();
    },
    source,
    destination,
    detail,
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
