import { type EncodedPacket, EncodedPacketSink, type InputTrack } from 'mediabunny';
import { DiskFullError, StorageError } from './diskFile.ts';
import { isEndLost, isLostBetween } from './lostPackets.ts';
import { MediaError } from './mediaError.ts';
import { TrackClock } from './openInput.ts';
import { LOOKED_AT, paceOf } from './pace.ts';
import { isBlank, isDecodedHere } from './packetDecoder.ts';
import { PacketTester } from './packetTester.ts';
import type { DecoderConfig, PacketWriter } from './packetWriter.ts';
import { codecOf, configOf, type TrackCodec } from './trackCodec.ts';

/** A part of a track that is not there (s). */
export interface LostPart {
  fromS: number;
  toS: number;
}

/** Which part of a track is copied (s, in the file's own time). */
export interface Cut {
  /** A picture is copied from the last key frame before this on: it cannot be cut elsewhere without coding it anew. */
  fromS: number;
  untilS: number;
}

/** What is lost within so long of each other is told as one (s). */
const TOGETHER_S = 0.5;
/** Times in Matroska are whole milliseconds, mostly. */
const MILLISECONDS = 1000;

/** Reads the packets of one track and writes them as they are, until they end or break off: nothing is coded again. */
export class TrackCopy {
  readonly track: InputTrack;
  readonly codec: string;
  /** See {@link TrackCodec}. */
  readonly parameters: TrackCodec['parameters'];
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
  /** Places where packets were lost or left out (s, in the file's own time). */
  readonly lost: LostPart[] = [];
  private isRepaired = false;
  private tester: PacketTester | null = null;
  private readonly sink: EncodedPacketSink;
  private readonly clock: TrackClock;
  private into: { writer: PacketWriter; track: number } | null = null;
  private readonly untilS: number;
  private lastedS = 0;

  private constructor(
    track: InputTrack,
    clock: TrackClock,
    { codec, parameters }: TrackCodec,
    name: string | null,
    untilS: number,
  ) {
    this.track = track;
    this.clock = clock;
    this.codec = codec;
    this.parameters = parameters;
    this.name = name;
    this.untilS = untilS;
    this.sink = new EncodedPacketSink(track);
  }

  /** Null for a track that is neither sound nor picture, or of which not even the first packet can be read. */
  static async open(track: InputTrack, cut: Cut | null = null): Promise<TrackCopy | null> {
    try {
      const codec = await codecOf(track);
      if (!codec.isKnown || (!track.isAudioTrack() && !track.isVideoTrack())) return null;
      const name = (await track.getName()) || null;
      const clock = await TrackClock.of(track);
      const copy = new TrackCopy(track, clock, codec, name, cut?.untilS ?? Number.POSITIVE_INFINITY);
      copy.packet = await copy.firstOf(cut);
      return copy.packet && (await copy.isUsable()) ? copy : null;
    } catch {
      return null;
    }
  }

  /** Tells whether what decoders are told of it makes sense. @throws where it cannot be read at all */
  private async isUsable(): Promise<boolean> {
    const config = await configOf(this.track);
    if (!config || !('numberOfChannels' in config)) return config !== null;
    return config.sampleRate > 0 && config.numberOfChannels > 0;
  }

  private async firstOf(cut: Cut | null): Promise<EncodedPacket | null> {
    const at = cut && cut.fromS > 0 ? await this.sink.getKeyPacket(this.clock.inContainer(cut.fromS)) : null;
    return at ?? this.sink.getFirstPacket();
  }

  /** From now on it goes on behind places where packets were lost, and leaves out those that cannot be decoded. Close it when done. */
  async repair(): Promise<void> {
    this.isRepaired = true;
    this.tester = await PacketTester.of(this.track);
  }

  close(): void {
    this.tester?.close();
    this.tester = null;
  }

  /** Adds a track like this one to a file. */
  async addTo(writer: PacketWriter): Promise<void> {
    const { track, codec, parameters, name } = this;
    const own = await track.getDisposition();
    const disposition = this.isDefault === null ? own : { ...own, default: this.isDefault };
    const languageCode = await track.getLanguageCode();
    const kind = track.isVideoTrack() ? 'video' : 'audio';
    const rotation = track.isVideoTrack() ? await track.getRotation() : 0;
    const pace = await this.pace(writer);
    const config = await configOf(track);
    const first = config && (await this.describing(config));
    if (!config || !first) throw new Error('a track that cannot be read is copied');
    const described = { kind, codec, parameters, name, languageCode, disposition } as const;
    this.into = { writer, track: writer.addTrack({ ...described, rotation, pace, config, first }) };
  }

  /** When the packet that is next begins (s, in the file's own time). */
  get startS(): number {
    return this.packet ? this.clock.startS(this.packet) : Number.POSITIVE_INFINITY;
  }

  /** When the packet that is next comes in the new file (s). */
  get comesAtS(): number {
    return this.startS + this.laterS;
  }

  /** Leaves out the packet that is next. */
  async leaveOut(): Promise<void> {
    this.packet = this.packet && (await this.sink.getNextPacket(this.packet));
  }

  /** Copies the packet that is next, and reads on. */
  async copy(): Promise<void> {
    const { packet, into, laterS } = this;
    if (!packet || !into) return;
    // The last packet of some files is said to last for nothing: players would leave it out.
    const durationS = packet.duration > 0 ? packet.duration : this.lastedS;
    this.lastedS = durationS;
    const startS = this.clock.startS(packet);
    const time = { atS: startS + laterS, durationS };
    if (!this.isRepaired && isDecodedHere(this.codec) && isBlank(packet.data))
      return this.breakOff('a packet holds zeros alone');
    const isUsable = this.tester === null || this.tester.takes(packet.data);
    if (!isUsable) this.addLost(startS, startS + durationS);
    else {
      try {
        const writing = into.writer.write(into.track, packet, time);
        if (writing) await writing;
      } catch (error) {
        const isOwn =
          error instanceof DiskFullError || error instanceof StorageError || error instanceof MediaError;
        if (isOwn) throw error;
        // What the writer does not take is damaged: times that run backwards.
        this.breakOff('what comes next does not fit what came before');
        return;
      }
      this.packets += 1;
      this.endS = Math.max(this.endS, startS + durationS);
    }
    try {
      const next = await this.sink.getNextPacket(packet);
      const isLost = next && isLostBetween(this.track, packet, next);
      if (next && isLost && (await isLost)) {
        this.addLost(this.endS, this.clock.startS(next));
        if (!this.isRepaired) return this.breakOff('packets in the middle are lost');
      }
      if (!next && (await isEndLost(this.track, this.sink, packet)))
        return this.breakOff('packets in the middle cannot be read');
      this.packet = next && this.clock.startS(next) < this.untilS ? next : null;
    } catch (error) {
      this.breakOff(error instanceof Error ? error.message : 'it cannot be read on');
    }
    if (!this.packet && this.brokeOff === null) into.writer.close(into.track);
  }

  /** The packet that says how the track is decoded, where nothing else does: the first that stands for itself. */
  private async describing({ description }: DecoderConfig): Promise<EncodedPacket | null> {
    if (description || this.packet?.type === 'key') return this.packet;
    return (await this.sink.getFirstKeyPacket().catch(() => null)) ?? this.packet;
  }

  /** How long each picture lasts, where they come evenly, and their times are or will be rounded to the millisecond. */
  private async pace({ isExact }: PacketWriter): Promise<number | null> {
    if (!this.track.isVideoTrack()) return null;
    if (isExact && (await this.track.getTimeResolution()) > MILLISECONDS) return null;
    const times: number[] = [];
    try {
      for (let { packet } = this; packet && times.length < LOOKED_AT; ) {
        times.push(packet.timestamp);
        packet = await this.sink.getNextPacket(packet);
      }
    } catch {
      // Where it cannot be read on is told when it is copied.
    }
    return paceOf(times);
  }

  private addLost(fromS: number, toS: number): void {
    const last = this.lost.at(-1);
    if (last && fromS <= last.toS + TOGETHER_S) last.toS = Math.max(last.toS, toS);
    else this.lost.push({ fromS, toS });
  }

  private breakOff(why: string): void {
    this.packet = null;
    this.brokeOff = why;
    this.into?.writer.close(this.into.track);
  }
}

/**
 * Lets each file begin when its first track does, as everything that is measured counts. What lies before that (sound that decoders leave out) stays
 * there where the container can say so; else all of them move.
 * @param files the tracks of each file
 */
export function beginTogether(files: TrackCopy[][], keepsEarly: boolean): void {
  for (const copies of files) {
    const firstS = Math.min(...copies.map(({ packet, startS }) => (packet ? startS : 0)));
    for (const copy of copies) copy.laterS = -Math.max(0, firstS);
  }
  const earlyS = Math.max(0, ...files.flat().map(({ comesAtS }) => -comesAtS));
  if (!keepsEarly) for (const copy of files.flat()) copy.laterS += earlyS;
}

/** Copies tracks side by side, what comes first first. @param onPacket is told how far in its own file it has come (s) */
export async function copyAll(
  copies: TrackCopy[],
  onPacket: (atS: number) => void = () => {},
): Promise<void> {
  // Pictures do not come in the order in which they are shown.
  for (let latestS = Number.NEGATIVE_INFINITY; ; ) {
    let next: TrackCopy | null = null;
    for (const copy of copies)
      if (copy.packet && (!next?.packet || copy.comesAtS < next.comesAtS)) next = copy;
    if (!next?.packet) return;
    latestS = Math.max(latestS, next.startS);
    onPacket(latestS);
    await next.copy();
  }
}
