import { EncodedPacket } from 'mediabunny';
import {
  AV_CHANNEL_ORDER_UNSPEC,
  AV_CODEC_ID_FLAC,
  AV_SAMPLE_FMT_S32,
  AVERROR_EAGAIN,
  AVERROR_EOF,
  AVMEDIA_TYPE_AUDIO,
  Codec,
  CodecContext,
  FFmpegError,
  Frame,
  Packet,
  Rational,
} from 'node-av';
import { CHANNEL_LAYOUTS } from './channelLayouts.ts';

const MOST_CHANNELS = 8;
const BITS = 24;
/** Samples of 24 bits stand in the upper part of 32. */
const SCALE = 2 ** 23;
const SHIFT = 32 - BITS;
/** A header of the format, before its first block (RFC 9639). */
const MARK = [0x66, 0x4c, 0x61, 0x43, 0x80, 0, 0];

function layoutOf(channels: number) {
  return CHANNEL_LAYOUTS[channels] ?? { nbChannels: channels, order: AV_CHANNEL_ORDER_UNSPEC, mask: 0n };
}

/** Codes sound without loss at 24 bits (FFmpeg's encoder); the media library's own way keeps 16. Close it when done. */
export class FlacEncoder {
  /** How many frames each packet holds; the last may hold fewer. */
  readonly frames: number;
  private readonly context = new CodecContext();
  private readonly packet = new Packet();
  private readonly channels: number;
  private readonly sampleRate: number;
  private coded = 0;

  /** @throws where there are channels that FLAC has no order for */
  constructor(channels: number, sampleRate: number) {
    this.channels = channels;
    this.sampleRate = sampleRate;
    const codec = Codec.findEncoder(AV_CODEC_ID_FLAC);
    if (!codec || channels > MOST_CHANNELS)
      throw new Error(`FLAC cannot be written with ${channels} channels`);
    const { context } = this;
    context.allocContext3(codec);
    Object.assign(context, {
      sampleRate,
      channelLayout: layoutOf(channels),
      codecType: AVMEDIA_TYPE_AUDIO,
      codecId: AV_CODEC_ID_FLAC,
      sampleFormat: AV_SAMPLE_FMT_S32,
      bitsPerRawSample: BITS,
      timeBase: new Rational(1, sampleRate),
    });
    FFmpegError.throwIfError(context.open2Sync(codec), 'open the encoder');
    this.frames = context.frameSize;
    this.packet.alloc();
  }

  /** What containers keep for decoders. */
  get decoderConfig() {
    const info = this.context.extraData ?? Buffer.alloc(0);
    return {
      codec: 'flac',
      sampleRate: this.sampleRate,
      numberOfChannels: this.channels,
      description: Uint8Array.from([...MARK, info.length, ...info]),
    };
  }

  /** Codes planes of {@link frames} frames, or of fewer at the end; returns the packets that are ready. */
  encode(planes: readonly Float32Array[], frames: number): EncodedPacket[] {
    // A new one each time: the library does not make room in a frame that was used before for a longer one.
    const frame = new Frame();
    frame.alloc();
    try {
      frame.format = AV_SAMPLE_FMT_S32;
      frame.nbSamples = frames;
      frame.sampleRate = this.sampleRate;
      frame.channelLayout = layoutOf(this.channels);
      FFmpegError.throwIfError(frame.allocBuffer(), 'hold sound');
      frame.pts = BigInt(this.coded);
      this.fill(frame.data?.[0] ?? Buffer.alloc(0), planes, frames);
      FFmpegError.throwIfError(this.context.sendFrameSync(frame), 'code sound');
    } finally {
      frame.free();
    }
    this.coded += frames;
    return this.received();
  }

  /** Returns what the encoder held back. Nothing can be coded afterwards. */
  flush(): EncodedPacket[] {
    FFmpegError.throwIfError(this.context.sendFrameSync(null), 'end coding');
    return this.received();
  }

  close(): void {
    this.context.freeContext();
    this.packet.free();
  }

  private fill(bytes: Buffer, planes: readonly Float32Array[], frames: number): void {
    const values = new Int32Array(bytes.buffer, bytes.byteOffset, frames * this.channels);
    for (let channel = 0; channel < this.channels; channel++) {
      const plane = planes[channel];
      for (let i = 0, at = channel; i < frames; i++, at += this.channels)
        values[at] = Math.max(-SCALE, Math.min(SCALE - 1, Math.round(plane[i] * SCALE))) << SHIFT;
    }
  }

  private received(): EncodedPacket[] {
    const packets: EncodedPacket[] = [];
    for (;;) {
      const result = this.context.receivePacketSync(this.packet);
      if (result === AVERROR_EAGAIN || result === AVERROR_EOF) return packets;
      FFmpegError.throwIfError(result, 'code sound');
      const { data, pts, duration } = this.packet;
      // What comes at the end without sound corrects the header, which has gone out already.
      if (data && data.length > 0)
        packets.push(
          new EncodedPacket(
            Uint8Array.from(data),
            'key',
            Number(pts) / this.sampleRate,
            Number(duration) / this.sampleRate,
          ),
        );
      this.packet.unref();
    }
  }
}
