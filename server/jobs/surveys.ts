import {
  joinedStates,
  PairEvidence,
  type PairState,
  type Presence,
} from '../../core/measure/presence/pair.ts';
import { HOP_FRAMES } from '../../core/measure/presence/windows.ts';
import { type Reference, soundOf } from '../media/references.ts';
import { STEM_RATE } from '../media/stem.ts';
import type { SurveyedPair, SurveyRequest } from '../media/surveyRecording.ts';
import type { TaskRunner } from './runner.ts';
import type { OnShare } from './tasks.ts';
import { allOrNone, meanOf } from './together.ts';

/** A recording is surveyed in this many parts side by side, where it is long enough (s). */
const PARTS = 2;
const LEAST_PART_S = 60;
/** So many references are looked for in one pass: each takes memory of its own. */
const AT_ONCE = 16;
/** Of the whole work, the first look takes this share. */
const FIRST_LOOK = 0.7;

/** A recording and what is looked for in it. */
export interface CheckedRecording {
  runner: TaskRunner;
  path: string;
  references: Reference[];
  /** The tracks that something is looked for in, counted from zero. */
  tracks: number[];
  /** How long it says that it is (s). */
  lengthS: number;
  signal?: AbortSignal;
}

/** A pair of a reference and a track, by their places in the lists. */
export type Pair = Pick<SurveyedPair, 'reference' | 'track'>;

/** What was found of a pair, and what is wrong with the file of its reference (null where it was read to its end). */
export interface FoundAlong {
  presence: Presence;
  /** How long the recording is as it was read (s). */
  readS: number;
  problem: string | null;
}

/** What was gathered of a pair, how long the recording is as it was read (s), and what is wrong with the file of its reference. */
interface Surveyed {
  state: PairState;
  lengthS: number;
  problem: string | null;
}

/**
 * Looks for references that go along with a recording from its start; and once more, around the lag that was found, for those that were not
 * heard all along: quieter stretches are seen then, and those that all windows together suggest, but none by itself.
 * @returns what was found of each pair, in their order
 * @throws {MediaError} when the recording does not decode
 */
export async function surveyAlong(
  recording: CheckedRecording,
  pairs: Pair[],
  onProgress: OnShare,
): Promise<FoundAlong[]> {
  const surveys = await surveyed(
    recording,
    pairs.map((pair) => ({ ...pair, around: null })),
    (share) => onProgress(FIRST_LOOK * share),
  );
  const first = surveys.map((survey) => judged(survey));
  const again = first.flatMap(({ presence, lags }, at) => {
    const isWhole = presence.present && presence.heardShare === 1;
    return lags === null || isWhole ? [] : [{ at, pair: { ...pairs[at], around: lags } }];
  });
  const closer = await surveyed(
    recording,
    again.map(({ pair }) => pair),
    (share) => onProgress(FIRST_LOOK + (1 - FIRST_LOOK) * share),
  );
  const found = first.map(
    ({ presence }, at): FoundAlong => ({
      presence,
      readS: surveys[at].lengthS,
      problem: surveys[at].problem,
    }),
  );
  for (const [index, { at }] of again.entries()) {
    const before = first[at].presence;
    const { presence } = judged(closer[index], !before.present);
    if (presence.present && presence.heardShare >= before.heardShare) found[at].presence = presence;
  }
  return found;
}

function judged({ state, lengthS }: Surveyed, isLagSuggested = false) {
  const evidence = new PairEvidence(state);
  return { presence: evidence.result(lengthS, isLagSuggested), lags: evidence.lagToLookAt() };
}

/** Surveys pairs over the whole recording, some references at a time. */
async function surveyed(
  recording: CheckedRecording,
  pairs: SurveyedPair[],
  onProgress: OnShare,
): Promise<Surveyed[]> {
  const used = [...new Set(pairs.map(({ reference }) => reference))];
  const found: Surveyed[] = new Array(pairs.length);
  for (let from = 0; from < used.length; from += AT_ONCE) {
    const batch = used.slice(from, from + AT_ONCE);
    const at = pairs.flatMap(({ reference }, index) => (batch.includes(reference) ? [index] : []));
    const surveys = await surveyedAtOnce(
      recording,
      at.map((index) => pairs[index]),
      (share) => onProgress((from + share * batch.length) / used.length),
    );
    at.forEach((index, place) => {
      found[index] = surveys[place];
    });
  }
  return found;
}

/** Surveys pairs over the whole recording in one pass, in parts side by side. */
async function surveyedAtOnce(
  { runner, path, references, tracks, lengthS, signal }: CheckedRecording,
  pairs: SurveyedPair[],
  onProgress: OnShare,
): Promise<Surveyed[]> {
  const used = [...new Set(pairs.map(({ reference }) => reference))];
  const lookedIn = [...new Set(pairs.map(({ track }) => track))];
  const request = {
    path,
    references: used.map((reference) => soundOf(references[reference])),
    tracks: lookedIn.map((track) => tracks[track]),
    pairs: pairs.map(({ reference, track, around }) => ({
      reference: used.indexOf(reference),
      track: lookedIn.indexOf(track),
      around,
    })),
  };
  const shareOf = meanOf(partsOf(lengthS).length, onProgress);
  const parts = await allOrNone(
    partsOf(lengthS).map((part, index) => (either: AbortSignal) => {
      const options = { signal: either, onProgress: shareOf(index) };
      return runner.run('survey', { ...request, ...part }, options);
    }),
    signal,
  );
  const readS = Math.max(...parts.map(({ endFrames }) => endFrames)) / STEM_RATE;
  return pairs.map(({ reference }, at) => ({
    state: joinedStates(parts.map(({ states }) => states[at])),
    lengthS: readS,
    problem:
      parts.map(({ problems }) => problems[used.indexOf(reference)]).find((one) => one !== null) ?? null,
  }));
}

/** The parts in which a recording is surveyed, in windows. */
function partsOf(lengthS: number): Pick<SurveyRequest, 'fromWindow' | 'untilWindow'>[] {
  const windows = Math.floor((lengthS * STEM_RATE) / HOP_FRAMES);
  const count = lengthS >= PARTS * LEAST_PART_S ? PARTS : 1;
  const starts = Array.from({ length: count }, (_, part) => Math.floor((windows * part) / count));
  return starts.map((fromWindow, part) => ({ fromWindow, untilWindow: starts[part + 1] ?? null }));
}
