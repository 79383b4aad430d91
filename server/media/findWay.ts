import { SAMPLE_RATE } from '../../core/audio/planes.ts';
import { withFft } from '../../core/measure/fft.ts';
import { measureWay, type Way } from '../../core/measure/way.ts';
import { monoOfStretch } from './readMono.ts';
import { placeOf, type SurveyedSound } from './surveyRecording.ts';

/** No more of a stretch is looked at (s). */
const MOST_S = 60;

/** A stretch in which a sound was found in a track of a recording (counted from zero). */
export interface WayRequest {
  path: string;
  sound: SurveyedSound;
  track: number;
  startS: number;
  endS: number;
  offsetMs: number;
  driftPpm: number | null;
}

/** Finds out by which way a sound came into a track. @throws {MediaError} where something does not decode */
export async function findWay({
  path,
  sound,
  track,
  startS,
  endS,
  offsetMs,
  driftPpm,
}: WayRequest): Promise<Way> {
  const middleS = (startS + endS) / 2;
  const lengthS = Math.min(MOST_S, endS - startS);
  const offsetS = offsetMs / 1000;
  const fromS = Math.max(0, offsetS, middleS - lengthS / 2);
  const soundFromS = Math.max(0, fromS - offsetS - 1);
  const heard = await monoOfStretch({ path, track, fromS, lengthS });
  const place = placeOf(path, sound);
  const alone = await monoOfStretch({ ...place, fromS: place.fromS + soundFromS, lengthS: lengthS + 2 });
  // The offset is that of the middle of the stretch; on the way there the clocks run apart.
  const lagAt = (frame: number) => {
    const driftS = ((driftPpm ?? 0) / 1e6) * (fromS + frame / SAMPLE_RATE - middleS);
    return (offsetS + driftS - (fromS - soundFromS)) * SAMPLE_RATE;
  };
  return withFft((makeFft) => measureWay(makeFft, alone, heard, lagAt)?.way ?? null);
}
