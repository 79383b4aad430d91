import {
  AudioSample,
  AudioSampleSource,
  EncodedAudioPacketSource,
  EncodedPacket,
  FlacOutputFormat,
  MkvOutputFormat,
  Output,
  WavOutputFormat,
} from 'mediabunny';
import { bitrateKbpsOf, channelCount } from '../../core/setup/channels.ts';
import type { Track } from '../../core/setup/schema.ts';
import { diskTarget } from './diskFile.ts';
import { prepareMediaLibrary } from './library.ts';
import { isPlainPcm, packPcm } from './pcm.ts';
import { STEM_RATE } from './stem.ts';

const FORMATS = { mkv: MkvOutputFormat, wav: WavOutputFormat, flac: FlacOutputFormat };

/** A packet of plain PCM holds so many frames at most (0.1 s). */
const PACKET_FRAMES = 4800;

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
  private readonly sources: (AudioSampleSource | EncodedAudioPacketSource)[];
  private readonly tracks: WrittenTrack[];
  private frames = 0;

  private constructor(
    output: Output,
    sources: (AudioSampleSource | EncodedAudioPacketSource)[],
    tracks: WrittenTrack[],
  ) {
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
      const source = isPlainPcm(track.codec)
        ? new EncodedAudioPacketSource(track.codec)
        : new AudioSampleSource({ codec: track.codec, bitrate });
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
      const source = this.sources[index];
      const channels = channelCount(this.tracks[index]);
      if (source instanceof EncodedAudioPacketSource)
        await this.addPcm(source, this.tracks[index].codec, planes[index].slice(0, channels), frames);
      else {
        const sample = this.sampleOf(planes[index], frames, channels);
        await source.add(sample);
        sample.close();
      }
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

  /** Plain PCM is packed here; the media library does it value by value. */
  private async addPcm(
    source: EncodedAudioPacketSource,
    codec: string,
    planes: readonly Float32Array[],
    frames: number,
  ): Promise<void> {
    const decoderConfig = { codec, numberOfChannels: planes.length, sampleRate: STEM_RATE };
    for (let from = 0; from < frames; from += PACKET_FRAMES) {
      const count = Math.min(PACKET_FRAMES, frames - from);
      const packet = new EncodedPacket(
        packPcm(codec, planes, from, count),
        'key',
        (this.frames + from) / STEM_RATE,
        count / STEM_RATE,
      );
      await source.add(packet, { decoderConfig });
    }
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
