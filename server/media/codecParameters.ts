import {
  AV_PIX_FMT_YUV420P,
  AV_PIX_FMT_YUV420P10LE,
  AV_PIX_FMT_YUV420P12LE,
  AV_PIX_FMT_YUV422P,
  AV_PIX_FMT_YUV422P10LE,
  AV_PIX_FMT_YUV422P12LE,
  AV_PIX_FMT_YUV444P,
  AV_PIX_FMT_YUV444P10LE,
  AV_PIX_FMT_YUV444P12LE,
  AV_PKT_DATA_DISPLAYMATRIX,
  AVCOL_PRI_BT470BG,
  AVCOL_PRI_BT709,
  AVCOL_PRI_BT2020,
  AVCOL_PRI_SMPTE170M,
  AVCOL_PRI_SMPTE432,
  AVCOL_PRI_UNSPECIFIED,
  AVCOL_RANGE_JPEG,
  AVCOL_RANGE_MPEG,
  AVCOL_SPC_BT470BG,
  AVCOL_SPC_BT709,
  AVCOL_SPC_BT2020_NCL,
  AVCOL_SPC_RGB,
  AVCOL_SPC_SMPTE170M,
  AVCOL_SPC_UNSPECIFIED,
  AVCOL_TRC_ARIB_STD_B67,
  AVCOL_TRC_BT709,
  AVCOL_TRC_IEC61966_2_1,
  AVCOL_TRC_LINEAR,
  AVCOL_TRC_SMPTE170M,
  AVCOL_TRC_SMPTE2084,
  AVCOL_TRC_UNSPECIFIED,
  type AVColorPrimaries,
  type AVColorSpace,
  type AVColorTransferCharacteristic,
  AVMEDIA_TYPE_AUDIO,
  AVMEDIA_TYPE_VIDEO,
  type AVPixelFormat,
  type AVProfile,
  type CodecParameters,
  FFmpegError,
  Rational,
} from 'node-av';
import { bytesOf } from './bytesOf.ts';
import { CHANNEL_LAYOUTS } from './channelLayouts.ts';
import { type Container, codecIdIn } from './containerCodecs.ts';
import { opusPreSkip } from './opus.ts';
import type { NewTrack } from './packetWriter.ts';

/** Colours, curves and matrices by what WebCodecs calls them. */
const PRIMARIES: Record<string, AVColorPrimaries> = {
  bt709: AVCOL_PRI_BT709,
  bt470bg: AVCOL_PRI_BT470BG,
  smpte170m: AVCOL_PRI_SMPTE170M,
  bt2020: AVCOL_PRI_BT2020,
  smpte432: AVCOL_PRI_SMPTE432,
};
const TRANSFERS: Record<string, AVColorTransferCharacteristic> = {
  bt709: AVCOL_TRC_BT709,
  smpte170m: AVCOL_TRC_SMPTE170M,
  linear: AVCOL_TRC_LINEAR,
  'iec61966-2-1': AVCOL_TRC_IEC61966_2_1,
  pq: AVCOL_TRC_SMPTE2084,
  hlg: AVCOL_TRC_ARIB_STD_B67,
};
const MATRICES: Record<string, AVColorSpace> = {
  rgb: AVCOL_SPC_RGB,
  bt709: AVCOL_SPC_BT709,
  bt470bg: AVCOL_SPC_BT470BG,
  smpte170m: AVCOL_SPC_SMPTE170M,
  'bt2020-ncl': AVCOL_SPC_BT2020_NCL,
};

/** How VP9's pictures lie in memory, by subsampling (as its codec string numbers it) and bits. */
const VP9_FORMATS: Record<number, Record<number, AVPixelFormat>> = {
  0: { 8: AV_PIX_FMT_YUV420P, 10: AV_PIX_FMT_YUV420P10LE, 12: AV_PIX_FMT_YUV420P12LE },
  1: { 8: AV_PIX_FMT_YUV420P, 10: AV_PIX_FMT_YUV420P10LE, 12: AV_PIX_FMT_YUV420P12LE },
  2: { 8: AV_PIX_FMT_YUV422P, 10: AV_PIX_FMT_YUV422P10LE, 12: AV_PIX_FMT_YUV422P12LE },
  3: { 8: AV_PIX_FMT_YUV444P, 10: AV_PIX_FMT_YUV444P10LE, 12: AV_PIX_FMT_YUV444P12LE },
};
/** A header of FLAC begins with its mark and the head of its first block (RFC 9639); MP4 keeps the block alone. */
const FLAC_HEAD_BYTES = 8;
const FLAC_BLOCK_BYTES = 34;

/** Pictures of these begin with what describes them, at each key frame. */
const BEGIN_DESCRIBED = ['av1', 'avc', 'hevc'];

/** Fills in what a container is told of a track. */
export function describeTrack(parameters: CodecParameters, track: NewTrack, container: Container): void {
  const { config, first } = track;
  if (track.parameters) {
    FFmpegError.throwIfError(track.parameters.copy(parameters), 'describe a track');
    // Each container has names of its own for codecs.
    parameters.codecTag = 0;
    return;
  }
  parameters.codecId = codecIdIn(container, track.codec);
  const described = config.description ? bytesOf(config.description) : null;
  if ('numberOfChannels' in config) {
    parameters.codecType = AVMEDIA_TYPE_AUDIO;
    parameters.sampleRate = config.sampleRate;
    const layout = CHANNEL_LAYOUTS[config.numberOfChannels];
    if (layout) parameters.channelLayout = layout;
    else parameters.channels = config.numberOfChannels;
    parameters.extradata = track.codec === 'flac' ? flacBlock(described) : described;
    // Matroska is told what the decoder gives before the sound; the other containers are told by when the first packet comes.
    if (container === 'matroska' && track.codec === 'opus')
      parameters.initialPadding = opusPreSkip(described);
  } else {
    parameters.codecType = AVMEDIA_TYPE_VIDEO;
    // Where nothing else describes it, the first picture begins with that.
    parameters.extradata =
      described ?? (BEGIN_DESCRIBED.includes(track.codec) ? Buffer.from(first.data) : null);
    describePicture(parameters, track, config as VideoDecoderConfig);
  }
}

function describePicture(parameters: CodecParameters, track: NewTrack, config: VideoDecoderConfig): void {
  const { codedWidth = 0, codedHeight = 0, displayAspectWidth, displayAspectHeight, colorSpace } = config;
  parameters.width = codedWidth;
  parameters.height = codedHeight;
  parameters.sampleAspectRatio =
    displayAspectWidth && displayAspectHeight
      ? reduced(displayAspectWidth * codedHeight, displayAspectHeight * codedWidth)
      : new Rational(1, 1);
  // Apple's players know HEVC by this name only.
  if (track.codec === 'hevc') parameters.codecTag = 'hvc1';
  if (track.codec === 'prores') parameters.codecTag = config.codec;
  if (track.codec === 'vp9') {
    const [, profile, level, bits, subsampling = 1] = config.codec.split('.').map(Number);
    parameters.profile = profile as AVProfile;
    parameters.level = level;
    parameters.format = VP9_FORMATS[subsampling]?.[bits] ?? AV_PIX_FMT_YUV420P;
  }
  if (colorSpace) {
    parameters.colorPrimaries = PRIMARIES[colorSpace.primaries ?? ''] ?? AVCOL_PRI_UNSPECIFIED;
    parameters.colorTrc = TRANSFERS[colorSpace.transfer ?? ''] ?? AVCOL_TRC_UNSPECIFIED;
    parameters.colorSpace = MATRICES[colorSpace.matrix ?? ''] ?? AVCOL_SPC_UNSPECIFIED;
    if (typeof colorSpace.fullRange === 'boolean')
      parameters.colorRange = colorSpace.fullRange ? AVCOL_RANGE_JPEG : AVCOL_RANGE_MPEG;
  }
  if (track.rotation !== 0)
    FFmpegError.throwIfError(
      parameters.addCodedSideData(AV_PKT_DATA_DISPLAYMATRIX, turned(track.rotation)),
      'turn the picture',
    );
}

/** The matrix of a picture that is turned clockwise (ISO/IEC 14496-12): 16.16, the last column 2.30, all in this machine's order of bytes. */
function turned(degrees: number): Buffer {
  const one = 1 << 16;
  const sine = Math.round(Math.sin((degrees * Math.PI) / 180)) * one;
  const cosine = Math.round(Math.cos((degrees * Math.PI) / 180)) * one;
  return Buffer.from(Int32Array.of(cosine, sine, 0, -sine, cosine, 0, 0, 0, 1 << 30).buffer);
}

function flacBlock(described: Buffer | null): Buffer | null {
  return described?.subarray(FLAC_HEAD_BYTES, FLAC_HEAD_BYTES + FLAC_BLOCK_BYTES) ?? null;
}

function reduced(numerator: number, denominator: number): Rational {
  let [a, b] = [numerator, denominator];
  while (b > 0) [a, b] = [b, a % b];
  return new Rational(numerator / a, denominator / a);
}
