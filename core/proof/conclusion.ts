import type { Severity } from '../findings/finding.ts';
import { isCleared, USES } from '../setup/clearance.ts';
import type { Setup, Track } from '../setup/schema.ts';
import { listed } from '../words/figures.ts';
import { isContradiction, isLeak, type ProofLine } from './proof.ts';

/** Why nothing can be said of a source in a track. */
export type UntestedReason = 'no recording' | 'no sound' | 'too quiet';

/** A source that is not cleared for everything, of which nothing could be said in a track that goes out. */
export interface Untested {
  sourceId: string;
  trackId: string;
  reason: UntestedReason;
}

/**
 * What a take shows, as a whole. `leaks`: a source is heard where it is not cleared. `differs`: something else is not as planned,
 * or a stop stands against the wishes. `partly`: nothing speaks against it, but not everything could be tested. `proven`:
 * every source that is cleared for less than everything was tested on every track that goes out, and is not where it must not be.
 */
export interface Conclusion {
  kind: 'leaks' | 'differs' | 'partly' | 'proven';
  leaks: number;
  differences: number;
  /** The stop-findings that stood against the wishes when the take was rendered, as sentences. */
  stops: string[];
  /** Of how many sources that are cleared for less than everything all was tested, and how many there are. */
  tested: number;
  restricted: number;
  untested: Untested[];
}

/** The part of a finding that a conclusion needs. */
interface Standing {
  severity: Severity;
  code: string;
  message: string;
}

/**
 * Concludes what a take shows.
 * @param findings of the setup that was rendered
 * @param today `YYYY-MM-DD`, for clearances that expire
 */
export function conclusionOf(
  setup: Setup,
  proof: ProofLine[],
  findings: Standing[],
  today: string,
): Conclusion {
  const leaks = proof.filter(isLeak).length;
  const differences = proof.filter((line) => isContradiction(line) && !isLeak(line)).length;
  const stops = findings.filter(({ severity }) => severity === 'stop').map(({ message }) => message);
  const restricted = setup.sources.filter(({ clearance }) =>
    USES.some((use) => !isCleared(clearance, use, today)),
  );
  const goingOut = new Set(setup.tracks.filter(goesOut).map(({ id }) => id));
  const untested = restricted.flatMap((source) =>
    proof.flatMap(({ sourceId, trackId, verdict }): Untested[] => {
      if (sourceId !== source.id || !goingOut.has(trackId)) return [];
      if (verdict === 'too-quiet') return [{ sourceId, trackId, reason: 'too quiet' }];
      if (verdict !== 'silent') return [];
      return [{ sourceId, trackId, reason: source.media ? 'no sound' : 'no recording' }];
    }),
  );
  const open = new Set(untested.map(({ sourceId }) => sourceId));
  return {
    kind:
      leaks > 0
        ? 'leaks'
        : differences > 0 || stops.length > 0
          ? 'differs'
          : untested.length > 0
            ? 'partly'
            : 'proven',
    leaks,
    differences,
    stops,
    tested: restricted.length - open.size,
    restricted: restricted.length,
    untested,
  };
}

/** Tells whether people get to hear a track: it goes live, stays as the VOD, or is published. */
function goesOut({ uses, purpose }: Track): boolean {
  return uses.includes('live') || uses.includes('vod') || purpose === 'publish';
}

const REASONS: Record<UntestedReason, string> = {
  'no recording': 'has no recording, so nothing is known about it',
  'no sound': 'makes no sound in this take, so nothing is known about it',
  'too quiet': 'is planned too quietly to be found for certain',
};

/** Says a conclusion in sentences, the gravest first. */
export function conclusionSentences(setup: Setup, conclusion: Conclusion): string[] {
  const { kind, leaks, differences, stops, tested, restricted, untested } = conclusion;
  const nameOf = (id: string) => setup.sources.find((source) => source.id === id)?.name ?? id;
  const sentences: string[] = [];
  if (leaks > 0)
    sentences.push(
      `Not safe to publish: ${count(leaks, 'place', 'places')} where a source is heard without clearance.`,
    );
  if (differences > 0)
    sentences.push(`${count(differences, 'place differs', 'places differ')} from the plan.`);
  if (stops.length > 0)
    sentences.push(
      `${count(stops.length, 'thing stands', 'things stand')} against what you want: ${stops.slice(0, 2).join(' ')}${stops.length > 2 ? ` And ${stops.length - 2} more.` : ''}`,
    );
  if (kind === 'proven')
    sentences.push(
      restricted === 0
        ? 'Proven: every track carries what it should. No source is restricted.'
        : `Proven: every track carries what it should. ${restricted === 1 ? 'The 1 source' : `All ${restricted} sources`} that may not go everywhere ${restricted === 1 ? 'was' : 'were'} looked for in every track that goes out, and ${restricted === 1 ? 'is' : 'are'} only where allowed.`,
    );
  else if (untested.length > 0) {
    const reasons = (Object.keys(REASONS) as UntestedReason[]).flatMap((reason) => {
      const names = [
        ...new Set(untested.filter((one) => one.reason === reason).map(({ sourceId }) => nameOf(sourceId))),
      ];
      return names.length === 0 ? [] : [`${listed(names, 4)} ${REASONS[reason]}`];
    });
    sentences.push(
      `${kind === 'partly' ? 'Nothing leaks in what was tested, but not everything was: ' : 'Tested: '}${tested} of ${restricted} restricted sources; ${reasons.join('; ')}.`,
    );
  }
  return sentences;
}

function count(number: number, one: string, many: string): string {
  return `${number} ${number === 1 ? one : many}`;
}
