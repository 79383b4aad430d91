import {
  AV_CHANNEL_LAYOUT_MONO,
  AV_CHANNEL_LAYOUT_STEREO,
  AV_SAMPLE_FMT_FLTP,
  FFmpegError,
  SoftwareResampleContext,
} from 'node-av';

/** Silence that is pushed through at the end, so that the converter gives out what it holds back (input frames). */
const FLUSH_FRAMES = 4096;
/** A long, steep filter: errors lie 120 dB below the sound, and the pass band reaches to 95 % of half the rate. */
const FILTER_SIZE = 64;
const CUTOFF = 0.95;

/** Converts planar mono or stereo sound from one sample rate to another as it passes by (FFmpeg's resampler). */
export class Resampler {
  private readonly converter = new SoftwareResampleContext();
  private readonly channels: number;
  private readonly ratio: number;
  private framesIn = 0;
  private framesOut = 0;

  /** @param fromRate, toRate sample rates in Hz */
  constructor(channels: 1 | 2, fromRate: number, toRate: number) {
    this.channels = channels;
    this.ratio = toRate / fromRate;
    const layout = channels === 1 ? AV_CHANNEL_LAYOUT_MONO : AV_CHANNEL_LAYOUT_STEREO;
    const done = this.converter.allocSetOpts2(
      layout,
      AV_SAMPLE_FMT_FLTP,
      toRate,
      layout,
      AV_SAMPLE_FMT_FLTP,
      fromRate,
    );
    FFmpegError.throwIfError(done, 'set up the resampler');
    this.converter.setOption('filter_size', FILTER_SIZE);
    this.converter.setOption('cutoff', CUTOFF);
    FFmpegError.throwIfError(this.converter.init(), 'start the resampler');
  }

  /** Takes planes of equal length and returns what is ready, as planes of another length. */
  push(planes: Float32Array[]): Float32Array[] {
    this.framesIn += planes[0].length;
    return this.convert(planes, Number.POSITIVE_INFINITY);
  }

  /** Returns what is left; all in all, as many frames have come out as the ratio says. */
  flush(): Float32Array[] {
    const silence = Array.from({ length: this.channels }, () => new Float32Array(FLUSH_FRAMES));
    return this.convert(silence, Math.max(0, Math.round(this.framesIn * this.ratio) - this.framesOut));
  }

  close(): void {
    this.converter.free();
  }

  private convert(planes: Float32Array[], limit: number): Float32Array[] {
    const frames = planes[0].length;
    const room = this.converter.getOutSamples(frames);
    const out = Array.from({ length: this.channels }, () => new Float32Array(room));
    // At once, not beside: a thread that is ended while FFmpeg works for it takes the whole process with it.
    const got = this.converter.convertSync(out.map(bytesOf), room, planes.map(bytesOf), frames);
    FFmpegError.throwIfError(got, 'convert the sample rate');
    const count = Math.min(got, limit);
    this.framesOut += count;
    return out.map((plane) => plane.subarray(0, count));
  }
}

function bytesOf(samples: Float32Array): Buffer {
  return Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength);
}
