import { BitReader } from './bitReader.ts';

/** How the sound of a track is coded, as far as the length of its packets hangs on it. */
export interface AacLayout {
  rateHz: number;
  /** As the standard numbers it: 1 to 7. */
  channelConfiguration: number;
}

const RATES_HZ = [
  96_000, 88_200, 64_000, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 12_000, 11_025, 8_000, 7_350,
];
const RATE_FOLLOWS = 15;
const LOW_COMPLEXITY = 2;
/** With what is above half the rate described apart, and with two channels described by one: around low complexity, both. */
const AROUND = [5, 29];
const MORE_TYPES = 31;

/**
 * Reads what decoders of AAC are told of a track (AudioSpecificConfig of ISO/IEC 14496-3, 1.6.2.1).
 * @returns null where its packets are not of low complexity, or not of 1024 samples, or its channels are described elsewhere
 */
export function aacLayoutOf(description: Uint8Array): AacLayout | null {
  const bits = new BitReader(description);
  const type = readType(bits);
  const rateHz = readRate(bits);
  const channelConfiguration = bits.read(4);
  let coded = type;
  if (AROUND.includes(type)) {
    readRate(bits);
    coded = readType(bits);
  }
  const isShorter = bits.read(1) === 1;
  const isKnown = coded === LOW_COMPLEXITY && !isShorter && rateHz > 0;
  const hasChannels = channelConfiguration >= 1 && channelConfiguration <= 7;
  return isKnown && hasChannels ? { rateHz, channelConfiguration } : null;
}

function readType(bits: BitReader): number {
  const type = bits.read(5);
  return type === MORE_TYPES ? 32 + bits.read(6) : type;
}

function readRate(bits: BitReader): number {
  const index = bits.read(4);
  return index === RATE_FOLLOWS ? bits.read(24) : (RATES_HZ[index] ?? 0);
}
