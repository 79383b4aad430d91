/** A portion of decoded sound, and when it begins by the file's own word (s). */
export interface Decoded {
  planes: Float32Array[];
  startS: number;
}

/** What is missing for longer than this (s) is a gap; less is what files round times to. */
const GAP_S = 0.018;
/** All gaps together are no longer than this (s) and so many times what sounds; else the times are damaged. */
const MOST_GAPS_S = 3600;
const GAPS_FOR_SOUND = 10;
/** Silence comes in pieces of so many frames. */
const PIECE_FRAMES = 4096;

/**
 * Puts portions of a track where their times say that they belong, so that all tracks of a file run in step: what lies before the start is left out,
 * and where nothing was recorded there is silence. A portion that claims to begin earlier than the one before it ended follows it.
 */
export class InTime {
  private readonly fromS: number;
  private readonly sampleRate: number;
  private given = 0;
  private silent = 0;
  private isFirst = true;

  /** @param fromS where to start (s, in the file's own time) */
  constructor(fromS: number, sampleRate: number) {
    this.fromS = fromS;
    this.sampleRate = sampleRate;
  }

  /**
   * Takes the next portion; yields the silence before it, and what counts of it.
   * @throws when portions claim to begin so late that nearly all of the track would be silence
   */
  *place({ planes, startS }: Decoded): Generator<Float32Array[], void, undefined> {
    const begins = Math.round((startS - this.fromS) * this.sampleRate);
    const early = this.isFirst ? -begins : 0;
    if (early >= planes[0].length) return;
    const missing = begins - this.given;
    if (missing > (this.isFirst ? 0 : GAP_S * this.sampleRate)) {
      this.silent += missing;
      const sounding = this.given + missing - this.silent;
      if (this.silent > MOST_GAPS_S * this.sampleRate + GAPS_FOR_SOUND * sounding)
        throw new Error('portions claim to begin hours later');
      yield* silence(planes.length, missing);
      this.given += missing;
    }
    this.isFirst = false;
    const kept = early > 0 ? planes.map((plane) => plane.subarray(early)) : planes;
    this.given += kept[0].length;
    yield kept;
  }
}

function* silence(channels: number, frames: number): Generator<Float32Array[], void, undefined> {
  for (let left = frames; left > 0; left -= PIECE_FRAMES)
    yield Array.from({ length: channels }, () => new Float32Array(Math.min(left, PIECE_FRAMES)));
}
