import {
  AudioSample,
  AudioSampleSource,
  FlacOutputFormat,
  MkvOutputFormat,
  Output,
  WavOutputFormat,
} from 'mediabunny';
import { bitrateKbpsOf, channelCount } from '../../core/setup/channels.ts';
import type { Track } from '../../core/setup/schema.ts';
import { diskTarget } from './diskFile.ts';
import { prepareMediaLibrary } from './library.ts';
import { STEM_RATE } from './stem.ts';

const FORMATS = { mkv: MkvOutputFormat, wav: WavOutputFormat, flac: FlacOutputFormat };

/** What a written track looks like: a subset of the track sheet's. */
export type WrittenTrack = Pick<Track, 'name' | 'codec' | 'bitrateKbps' | 'layout' | 'channels'>;

/** Options for writing. `spaceBytes` pretends that the disk is full beyond that many bytes. */
export interface WriteOptions {
  container?: keyof typeof FORMATS;
  spaceBytes?: number;
}

/** Writes tracks of sound at 48 kHz into one container file, portion by portion. */
export class TakeWriter {
  private readonly output: Output;
  private readonly sources: AudioSampleSource[];
  private readonly tracks: WrittenTrack[];
  private frames = 0;

  private constructor(output: Output, sources: AudioSampleSource[], tracks: WrittenTrack[]) {
    this.output = output;
    this.sources = sources;
    this.tracks = tracks;
  }

  /** Creates the file and writes its beginning. */
  static async create(path: string, tracks: WrittenTrack[], options: WriteOptions = {}): Promise<TakeWriter> {
    prepareMediaLibrary();
    const format = new FORMATS[options.container ?? 'mkv']();
    const output = new Output({ format, target: await diskTarget(path, options.spaceBytes) });
    const sources = tracks.map((track) => {
      const lossy = track.codec === 'aac' || track.codec === 'opus';
      const bitrate = lossy ? bitrateKbpsOf(track) * 1000 : undefined;
      const source = new AudioSampleSource({ codec: track.codec, bitrate });
      output.addAudioTrack(source, { name: track.name });
      return source;
    });
    await output.start();
    return new TakeWriter(output, sources, tracks);
  }

  /**
   * Appends `frames` frames to every track.
   * @param planes for each track at least as many planes as it has channels
   * @throws {DiskFullError} when there is no room
   */
  async add(planes: (readonly Float32Array[])[], frames: number): Promise<void> {
    for (let index = 0; index < this.tracks.length; index++) {
      const sample = this.sampleOf(planes[index], frames, channelCount(this.tracks[index]));
      await this.sources[index].add(sample);
      sample.close();
    }
    this.frames += frames;
  }

  /** Writes the end of the file and closes it. */
  async finish(): Promise<void> {
    await this.output.finalize();
  }

  /** Stops writing; the file is left as it is, for the caller to remove. */
  async cancel(): Promise<void> {
    await this.output.cancel();
  }

  private sampleOf(planes: readonly Float32Array[], frames: number, channels: number): AudioSample {
    const data = new Float32Array(frames * channels);
    for (let channel = 0; channel < channels; channel++)
      data.set(planes[channel].subarray(0, frames), channel * frames);
    return new AudioSample({
      data,
      format: 'f32-planar',
      numberOfChannels: channels,
      sampleRate: STEM_RATE,
      timestamp: this.frames / STEM_RATE,
    });
  }
}
