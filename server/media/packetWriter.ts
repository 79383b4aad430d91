import {
  EncodedAudioPacketSource,
  type EncodedPacket,
  EncodedVideoPacketSource,
  type InputTrack,
  type Output,
} from 'mediabunny';
import type { CodecParameters } from 'node-av';

/** What a decoder is told of a track. */
export type DecoderConfig = AudioDecoderConfig | VideoDecoderConfig;

/** What a new file is told of a track. */
export interface NewTrack {
  kind: 'audio' | 'video';
  /** As the media library calls it; as FFmpeg does where the library does not know it. */
  codec: string;
  /** All that FFmpeg knows of it, where the media library does not know its codec; null elsewhere. */
  parameters: CodecParameters | null;
  name: string | null;
  /** Three letters (ISO 639-2). */
  languageCode: string;
  disposition: Awaited<ReturnType<InputTrack['getDisposition']>>;
  /** How far the picture is to be turned, clockwise (degrees). */
  rotation: 0 | 90 | 180 | 270;
  /** How long each of its pictures lasts (s), where they come evenly and their times are rounded, or will be; null elsewhere. */
  pace: number | null;
  /** What its decoder is told, and its first packet, in which some codecs describe themselves. */
  config: DecoderConfig;
  first: EncodedPacket;
}

/** When a packet comes in a new file, and how long it lasts (s). */
export interface PacketTime {
  atS: number;
  durationS: number;
}

/** Writes coded packets of several tracks into one file. All tracks are added first, then it is started. */
export interface PacketWriter {
  /** Whether it keeps times more exactly than to the millisecond: then it need not know how evenly pictures come, unless they were rounded before. */
  readonly isExact: boolean;
  /** Adds a track. @returns the number by which it is called from now on */
  addTrack(track: NewTrack): number;
  start(): Promise<void>;
  /**
   * Writes the packet of a track that is next, in the order in which decoders want them.
   * @returns nothing where it was done at once
   * @throws where its time runs back behind what a decoder can put in order; {DiskFullError} and {StorageError} of the disk
   */
  write(track: number, packet: EncodedPacket, time: PacketTime): Promise<void> | undefined;
  /** Says that no more packets of a track come. */
  close(track: number): void;
  /** @param onProgress told the share of the end that is done, 0 to 1 */
  finish(onProgress?: (share: number) => void): Promise<void>;
  /** Gives up; nothing after it was finished. What is on the disk stays. */
  drop(): Promise<void>;
}

/** A track of the library, and what goes with its first packet. */
interface LibraryTrack {
  source: EncodedAudioPacketSource | EncodedVideoPacketSource;
  config: DecoderConfig | null;
}

/** Writes with the media library: WAV. */
export class LibraryWriter implements PacketWriter {
  readonly isExact = false;
  private readonly output: Output;
  private readonly tracks: LibraryTrack[] = [];

  constructor(output: Output) {
    this.output = output;
  }

  addTrack({ kind, codec, name, languageCode, disposition, rotation, config }: NewTrack): number {
    const metadata = { name: name ?? undefined, languageCode, disposition };
    const source =
      kind === 'video'
        ? new EncodedVideoPacketSource(codec as never)
        : new EncodedAudioPacketSource(codec as never);
    if (source instanceof EncodedVideoPacketSource)
      this.output.addVideoTrack(source, { ...metadata, rotation });
    else this.output.addAudioTrack(source, metadata);
    this.tracks.push({ source, config });
    return this.tracks.length - 1;
  }

  start(): Promise<void> {
    return this.output.start();
  }

  write(at: number, packet: EncodedPacket, time: PacketTime): Promise<void> {
    const track = this.tracks[at];
    const { source, config } = track;
    track.config = null;
    const moved = packet.clone({ timestamp: time.atS, duration: time.durationS });
    return source.add(moved, config ? ({ decoderConfig: config } as never) : undefined);
  }

  close(track: number): void {
    this.tracks[track].source.close();
  }

  finish(): Promise<void> {
    return this.output.finalize();
  }

  async drop(): Promise<void> {
    if (this.output.state === 'started' || this.output.state === 'pending')
      await this.output.cancel().catch(() => {});
  }
}
