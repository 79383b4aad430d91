import type { PresenceInterval } from '../measure/presence/intervals.ts';
import type { Arrival, Reach } from '../reach/reach.ts';
import { type ClearanceUse, isCleared } from '../setup/clearance.ts';
import type { Setup, Track } from '../setup/schema.ts';

/** A level counts as planned when it is within this many dB of the plan. */
export const LEVEL_TOLERANCE_DB = 2;
/** What is planned more quietly than this cannot be relied on to be found. */
const TESTABLE_DB = -50;

/**
 * What a line of the proof says: the track is as planned (`heard`, `absent`); it is not (`unplanned`, `unheard`,
 * `off-level`); or nothing can be said (`silent`: the source makes no sound; `too-quiet`: planned too low).
 */
export type Verdict = 'heard' | 'absent' | 'unplanned' | 'unheard' | 'off-level' | 'silent' | 'too-quiet';

/** One line of a proof: one source in one track, planned and measured. */
export interface ProofLine {
  sourceId: string;
  trackId: string;
  plannedDb: number | null;
  measuredDb: number | null;
  offsetMs: number | null;
  confidence: number;
  intervals: PresenceInterval[];
  /** The uses of the track that the source is not cleared for: heard here, it leaks. */
  uncleared: ClearanceUse[];
  verdict: Verdict;
}

/** The part of a measured presence that a proof needs. */
export interface Measured {
  sourceId: string;
  trackId: string;
  presence: {
    testable: boolean;
    present: boolean;
    levelDb: number | null;
    offsetMs: number | null;
    confidence: number;
    intervals: PresenceInterval[];
  };
}

/**
 * Sets the plan of a setup beside what was measured in its take: one line for each source and track of the sheet.
 * A source that was not measured (it has no recording) counts as silent. `today` (`YYYY-MM-DD`) decides which
 * clearances have expired.
 */
export function proofOf(setup: Setup, reach: Reach, measured: Measured[], today: string): ProofLine[] {
  const found = new Map(measured.map((one) => [`${one.sourceId} ${one.trackId}`, one.presence]));
  return setup.sources.flatMap((source) =>
    setup.tracks.map((track): ProofLine => {
      const destination = reach.destinations.find((one) => one.sendTo === track.id);
      const arrival = destination && reach.at(source.id, destination.id);
      const plannedDb = arrival?.gainDb ?? null;
      const presence = found.get(`${source.id} ${track.id}`);
      return {
        sourceId: source.id,
        trackId: track.id,
        plannedDb,
        measuredDb: presence?.levelDb ?? null,
        offsetMs: presence?.offsetMs ?? null,
        confidence: presence?.confidence ?? 0,
        intervals: presence?.intervals ?? [],
        uncleared: usesOf(track).filter((use) => !isCleared(source.clearance, use, today)),
        verdict: verdictOf(plannedDb, presence, arrival ? isProcessed(arrival) : false),
      };
    }),
  );
}

/** Tells whether something is done to a sound on its way: its level there is then not that of the plan. */
function isProcessed({ ways }: Arrival): boolean {
  return ways.some((way) => way.isProcessed);
}

function verdictOf(
  plannedDb: number | null,
  presence: Measured['presence'] | undefined,
  anyLevel: boolean,
): Verdict {
  if (!presence?.testable) return 'silent';
  if (plannedDb === null) return presence.present ? 'unplanned' : 'absent';
  if (!presence.present) return plannedDb < TESTABLE_DB ? 'too-quiet' : 'unheard';
  if (anyLevel) return 'heard';
  return Math.abs((presence.levelDb ?? plannedDb) - plannedDb) <= LEVEL_TOLERANCE_DB ? 'heard' : 'off-level';
}

/** Tells whether a line shows a difference between plan and sound. */
export function isContradiction({ verdict }: ProofLine): boolean {
  return verdict === 'unplanned' || verdict === 'unheard' || verdict === 'off-level';
}

/** Tells whether a line shows a source in a track that it must not be in, as measured. */
export function isLeak({ verdict, uncleared }: ProofLine): boolean {
  return uncleared.length > 0 && (verdict === 'heard' || verdict === 'unplanned' || verdict === 'off-level');
}

function usesOf(track: Track): ClearanceUse[] {
  const onAir = (['live', 'vod'] as const).filter((use) => track.uses.includes(use));
  return track.purpose === 'publish' ? [...onAir, 'upload'] : onAir;
}
