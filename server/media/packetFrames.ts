import { bytesOf } from './bytesOf.ts';
import { opusFrames } from './opus.ts';

/** Sample rates by their numbers (ISO/IEC 14496-3, table 1.18). */
const AAC_RATES = [
  96_000, 88_200, 64_000, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 12_000, 11_025, 8_000, 7_350,
];

/** Containers round times to this (s). */
export const ROUNDED_S = 0.0011;

/** Tells how many frames a packet of sound holds (at the rate of the sound), given how long its container says that it lasts (frames). */
export type PacketFrames = (packet: Uint8Array, lasts: number) => number;

/**
 * How many frames packets of a codec hold: containers that round times do not say so, and the last packet is shorter than the others.
 * @param usual how many FFmpeg says that there are, where it was asked; 0 where they vary
 */
export function packetFrames(codec: string, config: AudioDecoderConfig, usual = 0): PacketFrames {
  const described = config.description ? bytesOf(config.description) : null;
  if (codec.startsWith('pcm-')) return pcmFrames(codec, config.numberOfChannels);
  if (codec === 'opus') return (packet, lasts) => (opusFrames(packet) * config.sampleRate) / 48_000 || lasts;
  if (codec === 'flac') return (packet, lasts) => flacFrames(packet) ?? lasts;
  const always = usual || alwaysFrames(codec, described, config.sampleRate);
  const rounded = ROUNDED_S * config.sampleRate;
  return (_packet, lasts) => (always !== null && Math.abs(always - lasts) <= rounded ? always : lasts);
}

function alwaysFrames(codec: string, described: Buffer | null, sampleRate: number): number | null {
  if (codec === 'aac') return aacFrames(described, sampleRate);
  if (codec === 'mp3') return sampleRate >= 32_000 ? 1152 : 576;
  return codec === 'ac3' ? 1536 : null;
}

/** Frames of AAC by its description (ISO/IEC 14496-3, 1.6.2.1): 1024 or 960 of the coder's own rate, which may be half of the sound's. */
function aacFrames(described: Buffer | null, sampleRate: number): number | null {
  if (!described || described.length < 2) return null;
  const head = described.readUInt16BE(0);
  const kind = head >> 11;
  const rate = AAC_RATES[(head >> 7) & 15];
  if (![2, 5, 29].includes(kind) || !rate) return null;
  const own = kind === 2 && (head & 4) !== 0 ? 960 : 1024;
  return (own * sampleRate) / rate;
}

function pcmFrames(codec: string, channels: number): PacketFrames {
  const bits = Number(/\d+/.exec(codec)?.[0]);
  const bytes = (bits / 8) * channels;
  return ({ length }, lasts) => (bytes > 0 && Math.floor(length / bytes)) || lasts;
}

/** Frames of a block of FLAC by its head (RFC 9639, 9.1.1). */
function flacFrames(packet: Uint8Array): number | null {
  if (packet.length < 8 || packet[0] !== 0xff || (packet[1] & 0xfc) !== 0xf8) return null;
  const size = packet[2] >> 4;
  if (size === 1) return 192;
  if (size >= 2 && size <= 5) return 144 << size;
  if (size >= 8) return 1 << size;
  if (size === 0) return null;
  // The number of the block comes first: one byte, or as many as its first bits say.
  const ones = Math.clz32(~packet[4] << 24);
  const at = 4 + Math.max(1, ones);
  if (at + 1 >= packet.length) return null;
  return size === 6 ? packet[at] + 1 : packet[at] * 256 + packet[at + 1] + 1;
}
