/** A portion of decoded sound, and when it begins by the file's own word (s). */
export interface Decoded {
  planes: Float32Array[];
  startS: number;
}

/** What is missing for longer than this (s) is a gap; less is what files round times to. */
const GAP_S = 0.018;
/** A gap that is longer than this is no gap, but a damaged time (s). */
const MOST_GAP_S = 4 * 3600;
/** Silence comes in pieces of so many frames. */
const PIECE_FRAMES = 4096;

/**
 * Puts portions of a track where their times say that they belong, so that all tracks of a file run in step: what lies before the start is left out,
 * and where nothing was recorded there is silence. A portion that claims to begin earlier than the one before it ended follows it.
 * @param fromS where to start (s, in the file's own time)
 * @throws when a portion claims to begin hours after the one before it
 */
export async function* inTime(
  portions: AsyncIterable<Decoded>,
  fromS: number,
  sampleRate: number,
): AsyncGenerator<Float32Array[], void, undefined> {
  let given = 0;
  let isFirst = true;
  for await (const { planes, startS } of portions) {
    const begins = Math.round((startS - fromS) * sampleRate);
    const early = isFirst ? -begins : 0;
    if (early >= planes[0].length) continue;
    const missing = begins - given;
    if (missing > MOST_GAP_S * sampleRate) throw new Error('a portion claims to begin hours later');
    if (missing > (isFirst ? 0 : GAP_S * sampleRate)) {
      yield* silence(planes.length, missing);
      given += missing;
    }
    isFirst = false;
    const kept = early > 0 ? planes.map((plane) => plane.subarray(early)) : planes;
    given += kept[0].length;
    yield kept;
  }
}

function* silence(channels: number, frames: number): Generator<Float32Array[], void, undefined> {
  for (let left = frames; left > 0; left -= PIECE_FRAMES)
    yield Array.from({ length: channels }, () => new Float32Array(Math.min(left, PIECE_FRAMES)));
}
