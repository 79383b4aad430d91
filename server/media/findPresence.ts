import { type MakeFft, withFft } from '../../core/measure/fft.ts';
import type { Presence } from '../../core/measure/presence/pair.ts';
import { findLag } from '../../core/measure/presence/search.ts';
import { PresenceSurvey } from '../../core/measure/presence/survey.ts';
import { AudioFile, type OpenOptions } from './audioFile.ts';
import { MediaError } from './mediaError.ts';
import { pass, skip } from './pass.ts';
import { monoOf } from './readMono.ts';
import { STEM_RATE, Stem } from './stem.ts';

export interface PresenceRequest {
  referencePath: string;
  trackPath: string;
  /** Counted from zero over the audio tracks of each file. */
  referenceIndex?: number;
  trackIndex: number;
  /** Looks for the reference at any offset; both sounds are then held in memory. */
  wholeFile: boolean;
}

/**
 * Looks for the sound of one file in a track of another.
 * @throws {MediaError} when a file does not decode, or has no such track
 */
export async function findPresence(request: PresenceRequest): Promise<Presence> {
  await requireTrack(request.trackPath, request.trackIndex);
  return withFft((makeFft) => findWith(makeFft, request));
}

async function findWith(makeFft: MakeFft, request: PresenceRequest): Promise<Presence> {
  let offset = 0;
  if (request.wholeFile) {
    const [reference, track] = await Promise.all([
      wholeMono(request.referencePath, 0),
      wholeMono(request.trackPath, request.trackIndex),
    ]);
    offset = findLag(makeFft, reference, track);
  }
  const first = await surveyPair(makeFft, request, offset, undefined);
  if (first.offsetMs === null || first.heardShare === 1) return shifted(first, offset);
  const lag = (first.offsetMs / 1000) * STEM_RATE;
  const second = await surveyPair(makeFft, request, offset, lag);
  return shifted(
    second.present ? { ...second, confidence: Math.max(first.confidence, second.confidence) } : first,
    offset,
  );
}

/**
 * One pass over both files.
 * @param offset how many frames later the track is read than the reference
 * @param around a lag (frames) that is known: quieter stretches are seen then
 */
export async function surveyPair(
  makeFft: MakeFft,
  request: Omit<PresenceRequest, 'wholeFile'>,
  offset: number,
  around: number | undefined,
  options: OpenOptions = {},
): Promise<Presence> {
  const found = new PresenceSurvey(makeFft, 1, 1, { around: () => around ?? null });
  const reference = await Stem.open(request.referencePath, request.referenceIndex ?? 0, options);
  const track = await Stem.open(request.trackPath, request.trackIndex, options);
  try {
    await skip(track, Math.max(0, offset));
    await skip(reference, Math.max(0, -offset));
    await pass([reference, track], ([one, other], frames) => found.add([one], [other], frames), {
      endsWith: 'shortest',
    });
    return found.results()[0][0];
  } finally {
    await Promise.all([reference.close(), track.close()]);
  }
}

function shifted(found: Presence, offset: number): Presence {
  const startS = Math.max(0, -offset) / STEM_RATE;
  const offsetMs = (offset / STEM_RATE) * 1000;
  return {
    ...found,
    offsetMs: found.offsetMs === null ? null : found.offsetMs + offsetMs,
    intervals: found.intervals.map((one) => ({
      ...one,
      startS: one.startS + startS + Math.max(0, offset) / STEM_RATE,
      endS: one.endS + startS + Math.max(0, offset) / STEM_RATE,
      offsetMs: one.offsetMs + offsetMs,
    })),
  };
}

async function requireTrack(path: string, index: number): Promise<void> {
  const file = await AudioFile.open(path);
  const count = file.tracks.length;
  file.close();
  if (index >= count)
    throw new MediaError(
      'no-audio',
      `There is no audio track ${index + 1}; the file has ${count}. Choose a track from 1 to ${count}.`,
    );
}

async function wholeMono(path: string, track: number): Promise<Float32Array> {
  const stem = await Stem.open(path, track);
  try {
    return await monoOf(stem);
  } finally {
    await stem.close();
  }
}
