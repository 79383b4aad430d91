import {
  AV_CODEC_ID_AAC,
  AV_CODEC_ID_AC3,
  AV_CODEC_ID_AV1,
  AV_CODEC_ID_DTS,
  AV_CODEC_ID_EAC3,
  AV_CODEC_ID_FLAC,
  AV_CODEC_ID_H264,
  AV_CODEC_ID_HEVC,
  AV_CODEC_ID_MP3,
  AV_CODEC_ID_OPUS,
  AV_CODEC_ID_PCM_ALAW,
  AV_CODEC_ID_PCM_F32BE,
  AV_CODEC_ID_PCM_F32LE,
  AV_CODEC_ID_PCM_F64BE,
  AV_CODEC_ID_PCM_F64LE,
  AV_CODEC_ID_PCM_MULAW,
  AV_CODEC_ID_PCM_S8,
  AV_CODEC_ID_PCM_S16BE,
  AV_CODEC_ID_PCM_S16LE,
  AV_CODEC_ID_PCM_S24BE,
  AV_CODEC_ID_PCM_S24LE,
  AV_CODEC_ID_PCM_S32BE,
  AV_CODEC_ID_PCM_S32LE,
  AV_CODEC_ID_PCM_U8,
  AV_CODEC_ID_PRORES,
  AV_CODEC_ID_VORBIS,
  AV_CODEC_ID_VP8,
  AV_CODEC_ID_VP9,
  type AVCodecID,
} from 'node-av';

/** Codecs by the media library's name for them. */
const COMMON: Record<string, AVCodecID> = {
  avc: AV_CODEC_ID_H264,
  hevc: AV_CODEC_ID_HEVC,
  aac: AV_CODEC_ID_AAC,
  mp3: AV_CODEC_ID_MP3,
  ac3: AV_CODEC_ID_AC3,
  eac3: AV_CODEC_ID_EAC3,
};
const MP4: Record<string, AVCodecID> = {
  ...COMMON,
  vp9: AV_CODEC_ID_VP9,
  av1: AV_CODEC_ID_AV1,
  opus: AV_CODEC_ID_OPUS,
  vorbis: AV_CODEC_ID_VORBIS,
  flac: AV_CODEC_ID_FLAC,
  dts: AV_CODEC_ID_DTS,
};
const PCM: Record<string, AVCodecID> = {
  'pcm-u8': AV_CODEC_ID_PCM_U8,
  'pcm-s16': AV_CODEC_ID_PCM_S16LE,
  'pcm-s16be': AV_CODEC_ID_PCM_S16BE,
  'pcm-s24': AV_CODEC_ID_PCM_S24LE,
  'pcm-s24be': AV_CODEC_ID_PCM_S24BE,
  'pcm-s32': AV_CODEC_ID_PCM_S32LE,
  'pcm-s32be': AV_CODEC_ID_PCM_S32BE,
  'pcm-f32': AV_CODEC_ID_PCM_F32LE,
  'pcm-f64': AV_CODEC_ID_PCM_F64LE,
  ulaw: AV_CODEC_ID_PCM_MULAW,
  alaw: AV_CODEC_ID_PCM_ALAW,
};
const MOV: Record<string, AVCodecID> = {
  ...COMMON,
  ...PCM,
  prores: AV_CODEC_ID_PRORES,
  dts: AV_CODEC_ID_DTS,
  'pcm-s8': AV_CODEC_ID_PCM_S8,
  'pcm-f32be': AV_CODEC_ID_PCM_F32BE,
  'pcm-f64be': AV_CODEC_ID_PCM_F64BE,
};
const MATROSKA: Record<string, AVCodecID> = {
  ...MP4,
  ...PCM,
  vp8: AV_CODEC_ID_VP8,
  prores: AV_CODEC_ID_PRORES,
};
/** What each container holds. Plain PCM in MP4 is allowed, but read wrongly by many programs. */
const CODECS = { mp4: MP4, mov: MOV, matroska: MATROSKA };
/** A container, by FFmpeg's name for it. */
export type Container = keyof typeof CODECS;

/** What MP4 and MOV hold of codecs that the media library does not know, by FFmpeg's names. */
const MP4_ALSO = ['alac', 'mp2', 'mpeg4', 'mpeg2video', 'mpeg1video', 'mjpeg', 'png'];
const MOV_ALSO = [
  ...['alac', 'mp2'],
  ...['mpeg4', 'mpeg2video', 'mpeg1video', 'mjpeg', 'png', 'dnxhd', 'ffv1', 'qtrle', 'dvvideo'],
  ...['h263', 'flv1', 'huffyuv', 'ffvhuff', 'utvideo', 'theora', 'cinepak', 'cfhd', 'hap'],
];
/** Matroska has a way to hold all of them but these, of which it would not keep all that their decoders need. */
const NOT_MATROSKA = ['rawvideo', 'qtrle'];

/** Tells whether a container holds a codec. @param isOther whether the media library does not know it, so that it goes by FFmpeg's name */
export function canHold(container: Container, codec: string, isOther: boolean): boolean {
  if (codec in CODECS[container]) return true;
  if (!isOther) return false;
  if (container === 'matroska') return !NOT_MATROSKA.includes(codec);
  return (container === 'mp4' ? MP4_ALSO : MOV_ALSO).includes(codec);
}

/** FFmpeg's number of a codec that a container holds. */
export function codecIdIn(container: Container, codec: string): AVCodecID {
  return CODECS[container][codec];
}
