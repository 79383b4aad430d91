import type { MakeFft } from '../../core/measure/fft.ts';
import type { LagTrend } from '../../core/measure/presence/intervals.ts';
import { PairEvidence, type Presence } from '../../core/measure/presence/pair.ts';
import { PresenceSurvey } from '../../core/measure/presence/survey.ts';
import { AudioFile } from './audioFile.ts';
import { pass } from './pass.ts';
import { STEM_RATE, Stem } from './stem.ts';
import { UntilDamage } from './untilDamage.ts';

/** One track of a file, counted from zero. */
export interface FileTrack {
  path: string;
  track: number;
}

/** A sound that is looked for in a track, and where it would begin there (s; before its start where negative). */
export interface HeardPair {
  reference: FileTrack;
  track: FileTrack;
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
  /** Whether files that are cut off are read as far as they go, and the reference up to where it is damaged. */
  allowCut?: boolean;
  onProgress?: (share: number) => void;
}

/**
 * Looks for a sound in a track, about where it would begin (±0.5 s), in one pass; and once more around the lag that was found, where it was not
 * heard all along: quieter stretches are seen then.
 * @returns what was found, in the time of the track
 * @throws {MediaError} when a file does not decode, or has no such track
 */
export async function hearPair(
  makeFft: MakeFft,
  pair: HeardPair,
  { passage, allowCut = false, onProgress = () => {} }: HearOptions = {},
): Promise<Presence> {
  const firstS = Math.max(passage?.fromS ?? 0, -pair.beginsS);
  const trackS = pair.beginsS + firstS;
  const mostFrames = passage ? Math.round(passage.lengthS * STEM_RATE) : undefined;
  const listen = async (around: LagTrend | null) => {
    const files = await openBoth(pair, allowCut);
    const [reference, track] = files;
    const sound = Stem.of(reference, pair.reference.track, { fromS: firstS });
    const stems = [
      allowCut ? new UntilDamage(sound) : sound,
      Stem.of(track, pair.track.track, { fromS: trackS }),
    ];
    const survey = new PresenceSurvey(makeFft, 1, 1, { around: () => around });
    try {
      const frames = await pass(stems, ([one, other], count) => survey.add([one], [other], count), {
        endsWith: 'shortest',
        mostFrames,
        onProgress,
      });
      const evidence = new PairEvidence(survey.states()[0][0]);
      return { presence: evidence.result(frames / STEM_RATE), lags: evidence.lagToLookAt() };
    } finally {
      await Promise.all(stems.map((stem) => stem.close()));
      for (const file of files) file.close();
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

async function openBoth({ reference, track }: HeardPair, allowCut: boolean): Promise<[AudioFile, AudioFile]> {
  const one = await AudioFile.open(reference.path, { allowCut });
  try {
    return [one, await AudioFile.open(track.path, { allowCut })];
  } catch (error) {
    one.close();
    throw error;
  }
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
