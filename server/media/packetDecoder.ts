import {
  AV_CODEC_ID_AAC,
  AV_CODEC_ID_AC3,
  AV_CODEC_ID_DTS,
  AV_CODEC_ID_EAC3,
  AV_CODEC_ID_FLAC,
  AV_CODEC_ID_MP3,
  AV_CODEC_ID_OPUS,
  AV_CODEC_ID_VORBIS,
  AV_SAMPLE_FMT_FLT,
  AV_SAMPLE_FMT_FLTP,
  AV_SAMPLE_FMT_S16,
  AV_SAMPLE_FMT_S16P,
  AV_SAMPLE_FMT_S32,
  AV_SAMPLE_FMT_S32P,
  type AVCodecID,
  AVERROR_EAGAIN,
  AVERROR_EOF,
  AVMEDIA_TYPE_AUDIO,
  Codec,
  CodecContext,
  type CodecParameters,
  FFmpegError,
  Frame,
  Packet,
  Rational,
} from 'node-av';
import { CHANNEL_LAYOUTS } from './channelLayouts.ts';
import { withoutPreSkip } from './opus.ts';
import { unpackPcm } from './pcm.ts';

const CODECS: Readonly<Record<string, AVCodecID>> = {
  aac: AV_CODEC_ID_AAC,
  opus: AV_CODEC_ID_OPUS,
  mp3: AV_CODEC_ID_MP3,
  vorbis: AV_CODEC_ID_VORBIS,
  flac: AV_CODEC_ID_FLAC,
  ac3: AV_CODEC_ID_AC3,
  eac3: AV_CODEC_ID_EAC3,
  dts: AV_CODEC_ID_DTS,
};
/** Codecs that the media library does not know, by FFmpeg's names. */
const OTHER_CODECS = ['alac', 'mp1', 'mp2', 'mlp', 'pcm_mulaw', 'pcm_alaw', 'adpcm_ms', 'adpcm_ima_wav'];
/** Shorter packets may be zeros by chance (bytes). */
const LEAST_BLANK_BYTES = 8;
/** No coder packs more frames than this together; a packet that claims more is damaged. */
const MOST_PACKET_FRAMES = 1 << 20;
/** The package copies no more planes of a frame together; it would read past them. */
const MOST_COPIED_PLANES = 8;

/** What a decoder is told of a track. */
export interface PacketDecoderOptions {
  codec: string;
  channels: number;
  sampleRate: number;
  /** What the container keeps for the decoder. */
  description: Uint8Array | null;
  /** All that FFmpeg knows of the track, where the media library does not know its codec. */
  parameters?: CodecParameters | null;
}

/** Tells whether packets of a codec can be decoded here. */
export function isDecodedHere(codec: string): boolean {
  return codec in CODECS || OTHER_CODECS.includes(codec);
}

/** Tells whether a packet of such a codec was lost: no coder makes nothing but zeros. */
export function isBlank(data: Uint8Array): boolean {
  return data.length >= LEAST_BLANK_BYTES && data.every((byte) => byte === 0);
}

/**
 * Decodes packets of one track into planes, one packet after the other, with FFmpeg's decoders. The media library does the same by way of
 * objects for every packet, which takes three times as long. Close it when done.
 */
export class PacketDecoder {
  private readonly context = new CodecContext();
  private readonly frame = new Frame();
  private readonly packet = new Packet();
  private readonly channels: number;
  private rate: number | null = null;

  /** @throws where the codec cannot be opened */
  constructor({ codec, channels, sampleRate, description, parameters = null }: PacketDecoderOptions) {
    this.channels = channels;
    const codecId = parameters?.codecId ?? CODECS[codec];
    const found = Codec.findDecoder(codecId);
    if (!found) throw new Error(`there is no decoder for ${codec}`);
    this.frame.alloc();
    this.packet.alloc();
    this.context.allocContext3(found);
    if (parameters)
      FFmpegError.throwIfError(this.context.parametersToContext(parameters), 'describe the sound');
    this.context.sampleRate = sampleRate;
    if (CHANNEL_LAYOUTS[channels]) this.context.channelLayout = CHANNEL_LAYOUTS[channels];
    this.context.timeBase = new Rational(1, sampleRate);
    this.context.codecType = AVMEDIA_TYPE_AUDIO;
    this.context.codecId = codecId;
    const told = description && codec === 'opus' ? withoutPreSkip(description) : description;
    this.context.extraData = told ? Buffer.from(told) : null;
    FFmpegError.throwIfError(this.context.open2Sync(), 'open the decoder');
  }

  /** Decodes a packet; returns what comes out of it, in order. @throws where it is damaged */
  decode(data: Uint8Array): Float32Array[][] {
    // Some decoders take it for sound.
    if (isBlank(data)) throw new Error('a packet holds zeros alone');
    this.packet.data = Buffer.from(data.buffer, data.byteOffset, data.byteLength);
    try {
      FFmpegError.throwIfError(this.context.sendPacketSync(this.packet), 'decode a packet');
    } finally {
      this.packet.unref();
    }
    return this.received();
  }

  /** Returns what the decoder held back. */
  flush(): Float32Array[][] {
    FFmpegError.throwIfError(this.context.sendPacketSync(null), 'end decoding');
    return this.received();
  }

  close(): void {
    this.context.freeContext();
    this.frame.free();
    this.packet.free();
  }

  private received(): Float32Array[][] {
    const portions: Float32Array[][] = [];
    for (;;) {
      const result = this.context.receiveFrameSync(this.frame);
      if (result === AVERROR_EAGAIN || result === AVERROR_EOF) return portions;
      FFmpegError.throwIfError(result, 'decode a packet');
      if (this.frame.nbSamples > 0) portions.push(this.planes());
    }
  }

  /** The planes of the frame that was decoded last. @throws where it is not like those before */
  private planes(): Float32Array[] {
    const { frame, channels } = this;
    this.rate ??= frame.sampleRate;
    const frames = frame.nbSamples;
    if (frame.channels !== channels || frame.sampleRate !== this.rate || frames > MOST_PACKET_FRAMES)
      throw new Error('the sound changes its channels or its rate, or claims too many frames');
    switch (frame.format) {
      case AV_SAMPLE_FMT_FLTP:
        return this.floats(frames);
      case AV_SAMPLE_FMT_S16P:
        return this.split(2 * frames).map((plane) => unpackPcm('pcm-s16', plane, 1)[0]);
      case AV_SAMPLE_FMT_S32P:
        return this.split(4 * frames).map((plane) => unpackPcm('pcm-s32', plane, 1)[0]);
      case AV_SAMPLE_FMT_FLT:
        return unpackPcm('pcm-f32', part(frame.toBuffer(), 0, 4 * frames * channels), channels);
      case AV_SAMPLE_FMT_S16:
        return unpackPcm('pcm-s16', part(frame.toBuffer(), 0, 2 * frames * channels), channels);
      case AV_SAMPLE_FMT_S32:
        return unpackPcm('pcm-s32', part(frame.toBuffer(), 0, 4 * frames * channels), channels);
      default:
        throw new Error('the sound is in a form that is not known');
    }
  }

  /** A copy of the frame's planes of floats. */
  private floats(frames: number): Float32Array[] {
    const { frame, channels } = this;
    if (channels > MOST_COPIED_PLANES) return this.split(4 * frames).map((plane) => floatsOf(plane, frames));
    // One copy of all: to be handed each plane where it lies takes the package far longer.
    const data = part(frame.toBuffer(), 0, 4 * frames * channels);
    const { buffer, byteOffset } = data.byteOffset % 4 === 0 ? data : new Uint8Array(data);
    return Array.from(
      { length: channels },
      (_, channel) => new Float32Array(buffer, byteOffset + 4 * frames * channel, frames),
    );
  }

  /** A copy of the frame's planes, each of so many bytes. */
  private split(bytes: number): Uint8Array[] {
    const { frame, channels } = this;
    if (channels > MOST_COPIED_PLANES)
      return (frame.extendedData ?? [])
        .slice(0, channels)
        .map((plane) => new Uint8Array(part(plane, 0, bytes)));
    // One copy of all: to be handed each plane where it lies takes the package far longer.
    const data = frame.toBuffer();
    return Array.from({ length: channels }, (_, channel) => part(data, channel * bytes, bytes));
  }
}

/** Bytes of a frame. @throws where it is shorter than it says */
function part(data: Uint8Array, from: number, bytes: number): Uint8Array {
  if (data.byteLength < from + bytes) throw new Error('a packet holds less than it says');
  return data.subarray(from, from + bytes);
}

function floatsOf(bytes: Uint8Array, frames: number): Float32Array {
  return bytes.byteOffset % 4 === 0
    ? new Float32Array(bytes.buffer, bytes.byteOffset, frames)
    : new Float32Array(new Uint8Array(bytes).buffer);
}
