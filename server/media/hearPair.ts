import type { MakeFft } from '../../core/measure/fft.ts';
import type { LagTrend } from '../../core/measure/presence/intervals.ts';
import { PairEvidence, type Presence } from '../../core/measure/presence/pair.ts';
import { PresenceSurvey } from '../../core/measure/presence/survey.ts';
import { pass, type Readable } from './pass.ts';
import { STEM_RATE } from './stem.ts';

/** What is read of a sound, from some moment on. Close it when done. */
export interface OpenSound extends Readable {
  close(): Promise<void>;
}

/** A sound that can be read from any moment on (s), as often as is wanted. */
export interface HeardSound {
  from(startS: number): OpenSound;
}

/** A sound that is looked for in a track, and where it would begin there (s; before its start where negative). */
export interface HeardPair {
  reference: HeardSound;
  track: HeardSound;
  beginsS: number;
}

/** A passage of the reference (s). */
export interface HeardPassage {
  fromS: number;
  lengthS: number;
}

/** Options of {@link hearPair}. */
export interface HearOptions {
  /** Only this passage of the reference is looked for; all of it when left out. */
  passage?: HeardPassage;
  onProgress?: (share: number) => void;
}

/**
 * Looks for a sound in a track, about where it would begin (±0.5 s), in one pass; and once more around the lag that was found, where it was not
 * heard all along: quieter stretches are seen then.
 * @returns what was found, in the time of the track
 * @throws {MediaError} when one of them does not decode
 */
export async function hearPair(
  makeFft: MakeFft,
  pair: HeardPair,
  { passage, onProgress = () => {} }: HearOptions = {},
): Promise<Presence> {
  const firstS = firstOf(pair.beginsS, passage);
  const trackS = pair.beginsS + firstS;
  const mostFrames = passage ? Math.round(passage.lengthS * STEM_RATE) : undefined;
  const listen = async (around: LagTrend | null) => {
    const sounds = [pair.reference.from(firstS), pair.track.from(trackS)];
    const survey = new PresenceSurvey(makeFft, 1, 1, { around: () => around });
    try {
      const frames = await pass(sounds, ([one, other], count) => survey.add([one], [other], count), {
        endsWith: 'shortest',
        mostFrames,
        onProgress,
      });
      const evidence = new PairEvidence(survey.states()[0][0]);
      return { presence: evidence.result(frames / STEM_RATE), lags: evidence.lagToLookAt() };
    } finally {
      await Promise.all(sounds.map((sound) => sound.close()));
    }
  };
  const { presence: first, lags } = await listen(null);
  const isWhole = !first.present || first.heardShare === 1;
  const second = isWhole ? first : (await listen(lags)).presence;
  const found =
    second.present && second.heardShare >= first.heardShare
      ? { ...second, confidence: Math.max(first.confidence, second.confidence) }
      : first;
  return inTrackTime(found, trackS, pair.beginsS * 1000);
}

/** The first moment of a sound that is looked at (s): what would lie before the track cannot be. */
export function firstOf(beginsS: number, passage?: HeardPassage): number {
  return Math.max(passage?.fromS ?? 0, -beginsS);
}

function inTrackTime(found: Presence, fromS: number, offsetMs: number): Presence {
  return {
    ...found,
    offsetMs: found.offsetMs === null ? null : found.offsetMs + offsetMs,
    intervals: found.intervals.map((one) => ({
      ...one,
      startS: one.startS + fromS,
      endS: one.endS + fromS,
      offsetMs: one.offsetMs + offsetMs,
    })),
  };
}
