import {
  EncodedAudioPacketSource,
  type EncodedPacket,
  EncodedPacketSink,
  EncodedVideoPacketSource,
  type InputTrack,
  type Output,
} from 'mediabunny';
import { DiskFullError, StorageError } from './diskFile.ts';

/** Which part of a track is copied (s, in the file's own time). */
export interface Cut {
  /** A picture is copied from the last key frame before this on: it cannot be cut elsewhere without coding it anew. */
  fromS: number;
  untilS: number;
}

/** What is told of a copied track: see the media library. */
interface CopiedMetadata {
  name?: string;
  languageCode?: string;
  disposition?: Awaited<ReturnType<InputTrack['getDisposition']>>;
  rotation?: 0 | 90 | 180 | 270;
  maximumPacketCount?: number;
}

/**
 * Whether a file that is written needs to know how many packets a track has at most: reckoned from its beginning, or counted one by one, which
 * takes reading all of it.
 */
export type PacketCount = 'not needed' | 'reckoned' | 'counted';

/** Thrown when a track has more packets than were reckoned: count them, and begin again. */
export class MorePacketsError extends Error {}

/** More packets than were counted on a stretch may come, by this factor and number. */
const SPARE_FACTOR = 1.5;
const SPARE_PACKETS = 64;
/** The rate of packets is counted over so many. */
const COUNTED_PACKETS = 500;

/** Reads the packets of one track and writes them as they are, until they end or break off: nothing is coded again. */
export class TrackCopy {
  readonly track: InputTrack;
  readonly codec: string;
  readonly name: string | null;
  /** The packet that is next; null at the end. */
  packet: EncodedPacket | null = null;
  /** How many packets were copied, and where the last of them ended (s, in the file's own time). */
  packets = 0;
  endS = 0;
  /** By how much all of it is moved (s). */
  laterS = 0;
  /** Whether players choose it by themselves; as in its own file where that is null. */
  isDefault: boolean | null = null;
  /** Why it broke off; null where it ended by itself. */
  brokeOff: string | null = null;
  private readonly sink: EncodedPacketSink;
  private source: EncodedAudioPacketSource | EncodedVideoPacketSource | null = null;
  private readonly untilS: number;
  private lastedS = 0;
  /** No more packets may come. */
  private most = Number.POSITIVE_INFINITY;

  private constructor(track: InputTrack, codec: string, name: string | null, untilS: number) {
    this.track = track;
    this.codec = codec;
    this.name = name;
    this.untilS = untilS;
    this.sink = new EncodedPacketSink(track);
  }

  /** Null for a track that is neither sound nor picture, or of which not even the first packet can be read. */
  static async open(track: InputTrack, cut: Cut | null = null): Promise<TrackCopy | null> {
    try {
      const codec = await track.getCodec();
      if (codec === null || (!track.isAudioTrack() && !track.isVideoTrack())) return null;
      const name = (await track.getName()) || null;
      const copy = new TrackCopy(track, codec, name, cut?.untilS ?? Number.POSITIVE_INFINITY);
      copy.packet = await copy.firstOf(cut);
      return copy.packet && (await copy.isUsable()) ? copy : null;
    } catch {
      return null;
    }
  }

  /** Tells whether what decoders are told of it makes sense. */
  private async isUsable(): Promise<boolean> {
    if (!this.track.isAudioTrack()) return true;
    const config = await this.track.getDecoderConfig();
    return config !== null && config.sampleRate > 0 && config.numberOfChannels > 0;
  }

  private async firstOf(cut: Cut | null): Promise<EncodedPacket | null> {
    const at = cut && cut.fromS > 0 ? await this.sink.getKeyPacket(cut.fromS) : null;
    return at ?? this.sink.getFirstPacket();
  }

  /** Adds a track like this one to a file. */
  async addTo(output: Output, count: PacketCount = 'not needed'): Promise<void> {
    const { track, codec } = this;
    this.most = await this.mostPackets(count);
    const metadata: CopiedMetadata = {
      name: this.name ?? undefined,
      languageCode: await track.getLanguageCode(),
      disposition: {
        ...(await track.getDisposition()),
        ...(this.isDefault === null ? {} : { default: this.isDefault }),
      },
      maximumPacketCount: this.most === Number.POSITIVE_INFINITY ? undefined : this.most,
    };
    if (track.isVideoTrack()) {
      this.source = new EncodedVideoPacketSource(codec as never);
      output.addVideoTrack(this.source, { ...metadata, rotation: await track.getRotation() });
    } else {
      this.source = new EncodedAudioPacketSource(codec as never);
      output.addAudioTrack(this.source, metadata);
    }
  }

  /** When the packet that is next comes in the new file (s). */
  get comesAtS(): number {
    return (this.packet?.timestamp ?? Number.POSITIVE_INFINITY) + this.laterS;
  }

  /** Leaves out the packet that is next. */
  async leaveOut(): Promise<void> {
    this.packet = this.packet && (await this.sink.getNextPacket(this.packet));
  }

  /** Copies the packet that is next, and reads on. @throws {MorePacketsError} where fewer were reckoned */
  async copy(): Promise<void> {
    const { packet, source, laterS } = this;
    if (!packet || !source) return;
    if (this.packets >= this.most) throw new MorePacketsError();
    const decoderConfig = this.packets === 0 ? await this.config() : undefined;
    // The last packet of some files is said to last for nothing: players would leave it out.
    const duration = packet.duration > 0 ? packet.duration : this.lastedS;
    this.lastedS = duration;
    const moved = packet.clone({ timestamp: packet.timestamp + laterS, duration });
    try {
      await source.add(moved, decoderConfig ? ({ decoderConfig } as never) : undefined);
    } catch (error) {
      if (error instanceof DiskFullError || error instanceof StorageError) throw error;
      // What the writer does not take is damaged: times that run backwards.
      this.breakOff('what comes next does not fit what came before');
      return;
    }
    this.packets += 1;
    this.endS = Math.max(this.endS, packet.timestamp + duration);
    try {
      const next = await this.sink.getNextPacket(packet);
      this.packet = next && next.timestamp < this.untilS ? next : null;
    } catch (error) {
      this.breakOff(error instanceof Error ? error.message : 'it cannot be read on');
    }
    if (!this.packet && this.brokeOff === null) source.close();
  }

  private breakOff(why: string): void {
    this.packet = null;
    this.brokeOff = why;
    this.source?.close();
  }

  private async mostPackets(count: PacketCount): Promise<number> {
    if (count === 'not needed') return Number.POSITIVE_INFINITY;
    if (count === 'counted') return Math.max(1, (await this.track.computePacketStats()).packetCount);
    const { averagePacketRate } = await this.track.computePacketStats(COUNTED_PACKETS);
    const lengthS = (await this.track.getDurationFromMetadata()) ?? (await this.track.computeDuration());
    return Math.ceil(SPARE_FACTOR * averagePacketRate * lengthS) + SPARE_PACKETS;
  }

  private config() {
    const { track } = this;
    return track.isAudioTrack() || track.isVideoTrack() ? track.getDecoderConfig() : null;
  }
}

/** Copies tracks side by side, what comes first first. @param onPacket is told where in its own file each packet lies (s) */
export async function copyAll(
  copies: TrackCopy[],
  onPacket: (atS: number) => void = () => {},
): Promise<void> {
  for (;;) {
    let next: TrackCopy | null = null;
    for (const copy of copies)
      if (copy.packet && (!next?.packet || copy.comesAtS < next.comesAtS)) next = copy;
    if (!next?.packet) return;
    onPacket(next.packet.timestamp);
    await next.copy();
  }
}
