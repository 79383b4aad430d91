import {
  type AudioSample,
  AudioSampleSink,
  type EncodedPacket,
  EncodedPacketSink,
  type InputAudioTrack,
} from 'mediabunny';
import { bytesOf } from './bytesOf.ts';
import type { Decoded } from './inTime.ts';
import { isEndLost, isLostBetween } from './lostPackets.ts';
import { TrackClock } from './openInput.ts';
import { isDecodedHere, PacketDecoder } from './packetDecoder.ts';
import { packetsFrom } from './packets.ts';
import { isPlainPcm, unpackPcm } from './pcm.ts';
import { codecOf, configOf, soundOf } from './trackCodec.ts';

/** What begins in the middle is decoded from a little before, since coders look back (s). */
const LEAD_S = 0.1;
/** No coder packs more frames than this together; a packet that claims more is damaged. */
const MOST_PACKET_FRAMES = 1 << 20;

/** Decodes a track of an open file, packet by packet. Close it when done. */
export interface TrackDecoder {
  /** Decodes the next packet: what came out of it, in order; null at the end. @throws where it is damaged */
  next(): Promise<Decoded[] | null>;
  close(): Promise<void>;
}

/**
 * Opens a track for decoding.
 * @param fromS from here on at least (s, in the file's own time)
 * @throws where its beginning cannot be read
 */
export async function decoderOf(
  track: InputAudioTrack,
  codec: string,
  channels: number,
  fromS: number,
): Promise<TrackDecoder> {
  const clock = await TrackClock.of(track);
  if (!isPlainPcm(codec) && !isDecodedHere(codec)) {
    const samples = new AudioSampleSink(track).samples(fromS > 0 ? clock.inContainer(fromS) : undefined);
    return new LibraryDecoder(samples, clock, channels);
  }
  const sink = new EncodedPacketSink(track);
  const leadS = clock.inContainer(Math.max(0, fromS - LEAD_S));
  const at = fromS > 0 ? await sink.getPacket(leadS) : null;
  const packets = wholly(track, sink, packetsFrom(sink, at ?? (await sink.getFirstPacket())));
  if (isPlainPcm(codec)) return new PcmDecoder(packets, clock, codec, channels);
  const { sampleRate } = await soundOf(track);
  return new CodedDecoder(packets, clock, await packetDecoderOf(track), sampleRate);
}

/** Opens FFmpeg's decoder for the packets of a track. @throws where there is none, or the track does not say what it needs */
export async function packetDecoderOf(track: InputAudioTrack): Promise<PacketDecoder> {
  const { codec, parameters } = await codecOf(track);
  const { channels, sampleRate } = await soundOf(track);
  const config = await configOf(track);
  const description = config?.description ? bytesOf(config.description) : null;
  return new PacketDecoder({ codec, channels, sampleRate, description, parameters });
}

type Packets = AsyncGenerator<EncodedPacket, void, undefined>;

/** Hands on packets. @throws where some were lost, which the media library passes over */
async function* wholly(track: InputAudioTrack, sink: EncodedPacketSink, packets: Packets): Packets {
  let before: EncodedPacket | null = null;
  for await (const packet of packets) {
    const isLost = before && isLostBetween(track, before, packet);
    if (isLost && (await isLost)) throw new Error('packets in the middle are lost');
    before = packet;
    yield packet;
  }
  if (await isEndLost(track, sink, before)) throw new Error('packets in the middle cannot be read');
}

/** Plain PCM is unpacked here. */
class PcmDecoder implements TrackDecoder {
  private readonly packets: Packets;
  private readonly clock: TrackClock;
  private readonly codec: string;
  private readonly channels: number;

  constructor(packets: Packets, clock: TrackClock, codec: string, channels: number) {
    this.packets = packets;
    this.clock = clock;
    this.codec = codec;
    this.channels = channels;
  }

  async next(): Promise<Decoded[] | null> {
    const { value: packet } = await this.packets.next();
    if (!packet) return null;
    const planes = unpackPcm(this.codec, packet.data, this.channels);
    return [{ planes, startS: this.clock.startS(packet) }];
  }

  async close(): Promise<void> {}
}

/** What FFmpeg's decoders decode. */
class CodedDecoder implements TrackDecoder {
  private readonly packets: Packets;
  private readonly clock: TrackClock;
  private readonly decoder: PacketDecoder;
  private readonly sampleRate: number;
  private endS = 0;
  private isFlushed = false;

  constructor(packets: Packets, clock: TrackClock, decoder: PacketDecoder, sampleRate: number) {
    this.packets = packets;
    this.clock = clock;
    this.decoder = decoder;
    this.sampleRate = sampleRate;
  }

  async next(): Promise<Decoded[] | null> {
    if (this.isFlushed) return null;
    const { value: packet } = await this.packets.next();
    if (packet) {
      this.endS = this.clock.startS(packet);
      return this.following(this.decoder.decode(packet.data));
    }
    this.isFlushed = true;
    return this.following(this.decoder.flush());
  }

  /** Portions that follow each other. */
  private following(portions: Float32Array[][]): Decoded[] {
    return portions.map((planes) => {
      const startS = this.endS;
      this.endS += planes[0].length / this.sampleRate;
      return { planes, startS };
    });
  }

  async close(): Promise<void> {
    this.decoder.close();
  }
}

/** Decodes with the media library: what is rare. */
class LibraryDecoder implements TrackDecoder {
  private readonly samples: AsyncGenerator<AudioSample, void, unknown>;
  private readonly clock: TrackClock;
  private readonly channels: number;
  private rate: number | null = null;

  constructor(samples: AsyncGenerator<AudioSample, void, unknown>, clock: TrackClock, channels: number) {
    this.samples = samples;
    this.clock = clock;
    this.channels = channels;
  }

  async next(): Promise<Decoded[] | null> {
    const { value: sample } = await this.samples.next();
    if (!sample) return null;
    this.rate ??= sample.sampleRate;
    const isSame = sample.numberOfChannels === this.channels && sample.sampleRate === this.rate;
    const planes = isSame && sample.numberOfFrames <= MOST_PACKET_FRAMES ? unpackSample(sample) : null;
    const startS = this.clock.ofContainer(sample.timestamp);
    sample.close();
    if (!planes) throw new Error('the sound changes its channels or its rate, or claims too many frames');
    return [{ planes, startS }];
  }

  async close(): Promise<void> {
    await this.samples.return();
  }
}

/** Interleaved whole numbers are unpacked here, all channels at once; the library does it value by value. */
function unpackSample(sample: AudioSample): Float32Array[] {
  const { format, numberOfChannels: channels, numberOfFrames: frames } = sample;
  if (format !== 's16' && format !== 's32') {
    return Array.from({ length: channels }, (_, planeIndex) => {
      const plane = new Float32Array(frames);
      sample.copyTo(plane, { planeIndex, format: 'f32-planar' });
      return plane;
    });
  }
  const bytes = new Uint8Array(frames * channels * (format === 's16' ? 2 : 4));
  sample.copyTo(bytes, { planeIndex: 0, format });
  return unpackPcm(`pcm-${format}`, bytes, channels);
}
