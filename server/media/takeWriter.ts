import {
  EncodedAudioPacketSource,
  EncodedPacket,
  FlacOutputFormat,
  MkvOutputFormat,
  Output,
  WavOutputFormat,
} from 'mediabunny';
import type { AudioTrackInfo } from '../../core/check/recording.ts';
import { bitrateKbpsOf, channelCount, channelsOf } from '../../core/setup/channels.ts';
import type { Track } from '../../core/setup/schema.ts';
import { diskTarget } from './diskFile.ts';
import { prepareMediaLibrary } from './library.ts';
import { isPlainPcm, packPcm } from './pcm.ts';
import { SoundEncoder } from './soundEncoder.ts';
import { STEM_RATE } from './stem.ts';

const FORMATS = {
  mkv: () => new MkvOutputFormat(),
  wav: (isLarge: boolean) => new WavOutputFormat({ large: isLarge }),
  flac: () => new FlacOutputFormat(),
};

/** A packet of plain PCM holds so many frames (0.1 s). */
const PCM_FRAMES = 4800;

/** What a written track looks like: a subset of the track sheet's. */
export type WrittenTrack = Pick<Track, 'name' | 'codec' | 'bitrateKbps' | 'layout' | 'channels'>;

/** What a track of a recording is written as where nothing of it is to be lost: floats as floats, all else with 24 bits. */
export function losslessly(
  { channels, codec }: Pick<AudioTrackInfo, 'channels' | 'codec'>,
  name: string,
  format: 'wav' | 'flac' = 'wav',
): WrittenTrack {
  return {
    name,
    codec: format === 'flac' ? 'flac' : codec === 'pcm-f32' ? 'pcm-f32' : 'pcm-s24',
    layout: channels === 1 ? 'mono' : channels === 2 ? 'stereo' : 'multichannel',
    channels: channels > 2 ? channelsOf(channels) : undefined,
  };
}

/** Options for writing. `spaceBytes` pretends that the disk is full beyond that many bytes. */
export interface WriteOptions {
  container?: keyof typeof FORMATS;
  /** A WAV may pass 4 GB: it is written as RF64. */
  isLarge?: boolean;
  spaceBytes?: number;
}

/** Writes tracks of sound at 48 kHz into one container file, portion by portion. */
export class TakeWriter {
  private readonly output: Output;
  private readonly tracks: TrackWriter[];

  private constructor(output: Output, tracks: TrackWriter[]) {
    this.output = output;
    this.tracks = tracks;
  }

  /** Creates the file and writes its beginning. */
  static async create(path: string, tracks: WrittenTrack[], options: WriteOptions = {}): Promise<TakeWriter> {
    prepareMediaLibrary();
    const format = FORMATS[options.container ?? 'mkv'](options.isLarge ?? false);
    const output = new Output({ format, target: diskTarget(path, options.spaceBytes) });
    const writers = tracks.map((track) => {
      const writer = new TrackWriter(track);
      output.addAudioTrack(writer.source, { name: track.name });
      return writer;
    });
    await output.start();
    return new TakeWriter(output, writers);
  }

  /**
   * Creates a file, has it filled, and ends it. When that fails, writing stops; what there is of the file is left for the caller to remove.
   * @returns what filling it gave
   */
  static async write<T>(
    path: string,
    tracks: WrittenTrack[],
    options: WriteOptions,
    fill: (writer: TakeWriter) => Promise<T>,
  ): Promise<T> {
    const writer = await TakeWriter.create(path, tracks, options);
    try {
      const filled = await fill(writer);
      await writer.finish();
      return filled;
    } catch (error) {
      await writer.cancel().catch(() => {});
      throw error;
    }
  }

  /**
   * Appends `frames` frames to every track.
   * @param planes for each track at least as many planes as it has channels
   * @throws {DiskFullError} when there is no room
   */
  async add(planes: (readonly Float32Array[])[], frames: number): Promise<void> {
    for (const [index, track] of this.tracks.entries()) await track.add(planes[index], frames);
  }

  /** Writes the end of the file and closes it. */
  async finish(): Promise<void> {
    try {
      for (const track of this.tracks) await track.finish();
      await this.output.finalize();
    } finally {
      this.close();
    }
  }

  /** Stops writing; the file is left as it is, for the caller to remove. */
  async cancel(): Promise<void> {
    this.close();
    await this.output.cancel();
  }

  private close(): void {
    for (const track of this.tracks) track.close();
  }
}

/** Gathers the sound of a track into portions of one length, as its coder takes them, and hands on the packets. */
class TrackWriter {
  readonly source: EncodedAudioPacketSource;
  private readonly codec: WrittenTrack['codec'];
  private readonly planes: Float32Array[];
  /** Null for plain PCM, which is packed here: the media library does it value by value. */
  private readonly encoder: SoundEncoder | null;
  private filled = 0;
  /** How many frames were handed on. */
  private frames = 0;
  private isClosed = false;

  constructor(track: WrittenTrack) {
    const channels = channelCount(track);
    const { codec } = track;
    this.codec = codec;
    this.source = new EncodedAudioPacketSource(codec);
    this.encoder = isPlainPcm(codec)
      ? null
      : new SoundEncoder(codec, channels, STEM_RATE, {
          bitrateKbps: codec === 'flac' ? undefined : bitrateKbpsOf(track),
        });
    const portion = this.encoder?.frames ?? PCM_FRAMES;
    this.planes = Array.from({ length: channels }, () => new Float32Array(portion));
  }

  async add(planes: readonly Float32Array[], frames: number): Promise<void> {
    const portion = this.planes[0].length;
    for (let from = 0; from < frames; ) {
      const count = Math.min(frames - from, portion - this.filled);
      for (const [channel, plane] of this.planes.entries())
        plane.set(planes[channel].subarray(from, from + count), this.filled);
      this.filled += count;
      from += count;
      if (this.filled === portion) await this.handOn();
    }
  }

  async finish(): Promise<void> {
    if (this.filled > 0) await this.handOn();
    if (this.encoder) await this.addPackets(this.encoder.flush());
  }

  close(): void {
    if (this.isClosed) return;
    this.isClosed = true;
    this.encoder?.close();
  }

  private async handOn(): Promise<void> {
    const { encoder, planes, filled } = this;
    await this.addPackets(encoder ? encoder.encode(planes, filled) : [this.pcmPacket()]);
    this.frames += filled;
    this.filled = 0;
  }

  private async addPackets(packets: EncodedPacket[]): Promise<void> {
    if (packets.length === 0) return;
    const decoderConfig = this.encoder?.decoderConfig ?? {
      codec: this.codec,
      numberOfChannels: this.planes.length,
      sampleRate: STEM_RATE,
    };
    for (const packet of packets) await this.source.add(packet, { decoderConfig });
  }

  private pcmPacket(): EncodedPacket {
    const { codec, planes, filled, frames } = this;
    return new EncodedPacket(
      packPcm(codec, planes, 0, filled),
      'key',
      frames / STEM_RATE,
      filled / STEM_RATE,
    );
  }
}
