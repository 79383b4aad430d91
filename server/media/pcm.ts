import { Kernels } from '../../core/kernels/kernels.ts';

const { ceil, floor, max, min, round } = Math;

/** Codecs of plain PCM, little-endian. */
export type PlainPcm = 'pcm-s16' | 'pcm-s24' | 'pcm-s32' | 'pcm-f32';

const FORMATS: Record<
  string,
  { bytes: number; unpacked: (packet: Uint8Array) => ArrayLike<number>; scale: number }
> = {
  'pcm-s16': { bytes: 2, unpacked: (packet) => new Int16Array(aligned(packet, 2)), scale: 2 ** -15 },
  'pcm-s24': { bytes: 3, unpacked: threeBytesEach, scale: 2 ** -23 },
  'pcm-s32': { bytes: 4, unpacked: (packet) => new Int32Array(aligned(packet, 4)), scale: 2 ** -31 },
  'pcm-f32': { bytes: 4, unpacked: (packet) => new Float32Array(aligned(packet, 4)), scale: 1 },
};

/** Tells whether packets of a codec can be unpacked here. */
export function isPlainPcm(codec: string): codec is PlainPcm {
  return codec in FORMATS;
}

/**
 * Unpacks a packet of plain PCM (little-endian, as the machine is) into planes. There is nothing to decode in it; the media
 * library's general conversion does it value by value, which costs more than mixing.
 * @param codec one that {@link isPlainPcm} accepts
 */
export function unpackPcm(codec: string, packet: Uint8Array, channels: number): Float32Array[] {
  if (channels === 2 && codec === 'pcm-s16') return dealt(packet, 4);
  if (channels === 2 && codec === 'pcm-f32') return dealt(packet, 8);
  const { bytes, unpacked, scale } = FORMATS[codec];
  const frames = floor(packet.byteLength / (bytes * channels));
  return planesOf(unpacked(packet), channels, frames, scale);
}

/** Deals interleaved values out to planes, one a channel, each value times a scale. */
function planesOf(
  packed: ArrayLike<number>,
  channels: number,
  frames: number,
  scale: number,
): Float32Array[] {
  return Array.from({ length: channels }, (_, channel) => {
    const plane = new Float32Array(frames);
    for (let frame = 0, at = channel; frame < frames; frame++, at += channels)
      plane[frame] = packed[at] * scale;
    return plane;
  });
}

/** Most files hold pairs of 16 bits or floats: the loops deal out so many pairs at a time. */
const PORTION_FRAMES = 4096;
const kernels = new Kernels(4 * PORTION_FRAMES + 80);
/** With room for what is written behind the last value. */
const packed = kernels.floats(2 * PORTION_FRAMES + 4);
const packedBytes = new Uint8Array(packed.buffer, packed.byteOffset, packed.byteLength);
const sides = [kernels.floats(PORTION_FRAMES), kernels.floats(PORTION_FRAMES)];

/** Deals out pairs of 16 bits (four bytes) or of floats (eight). */
function dealt(packet: Uint8Array, bytesAPair: 4 | 8): Float32Array[] {
  const { loops } = kernels;
  const [packedAt, leftAt, rightAt] = [packed, ...sides].map(({ byteOffset }) => byteOffset);
  const frames = floor(packet.byteLength / bytesAPair);
  const planes = [new Float32Array(frames), new Float32Array(frames)];
  for (let at = 0; at < frames; at += PORTION_FRAMES) {
    const count = min(PORTION_FRAMES, frames - at);
    packedBytes.set(packet.subarray(bytesAPair * at, bytesAPair * (at + count)));
    if (bytesAPair === 4) loops.unpackPairs(packedAt, count, 2 ** -15, leftAt, rightAt);
    else loops.dealPairs(packedAt, count, leftAt, rightAt);
    for (const side of [0, 1]) planes[side].set(sides[side].subarray(0, count), at);
  }
  return planes;
}

/** Writes two planes as pairs of whole numbers of 24 bits: in three bytes each, or in the upper part of four. */
export function wholePairs(
  [left, right]: readonly Float32Array[],
  from: number,
  frames: number,
  out: Uint8Array,
  bytesEach: 3 | 4,
): void {
  const { loops } = kernels;
  const [packedAt, leftAt, rightAt] = [packed, ...sides].map(({ byteOffset }) => byteOffset);
  const bytes = 2 * bytesEach;
  for (let at = 0; at < frames; at += PORTION_FRAMES) {
    const count = min(PORTION_FRAMES, frames - at);
    sides[0].set(left.subarray(from + at, from + at + count));
    sides[1].set(right.subarray(from + at, from + at + count));
    // The loops take four at a time; what they make of those behind the last is left there.
    const rounded = 4 * ceil(count / 4);
    if (bytesEach === 4) loops.wholePairs(leftAt, rightAt, rounded, packedAt);
    else loops.packPairs(leftAt, rightAt, rounded, packedAt);
    out.set(packedBytes.subarray(0, bytes * count), bytes * at);
  }
}

/** A copy of whole values of so many bytes, at an address that their arrays can begin at. */
function aligned(packet: Uint8Array, bytes: number): ArrayBuffer {
  return new Uint8Array(packet.subarray(0, packet.byteLength - (packet.byteLength % bytes))).buffer;
}

function threeBytesEach(packet: Uint8Array): Int32Array {
  const values = new Int32Array(floor(packet.byteLength / 3));
  for (let i = 0, at = 0; i < values.length; i++, at += 3)
    values[i] = ((packet[at] << 8) | (packet[at + 1] << 16) | (packet[at + 2] << 24)) >> 8;
  return values;
}

/**
 * Packs frames of planes into plain PCM, channel by channel in turn, rounded to the nearest value and held at full scale; floats as they are.
 * @param codec one that {@link isPlainPcm} accepts
 */
export function packPcm(
  codec: string,
  planes: readonly Float32Array[],
  from: number,
  frames: number,
): Uint8Array<ArrayBuffer> {
  const channels = planes.length;
  const { bytes, scale } = FORMATS[codec];
  if (codec === 'pcm-f32') return new Uint8Array(interleaved(planes, from, frames).buffer);
  const packet = new Uint8Array(bytes * channels * frames);
  if (codec === 'pcm-s24' && channels === 2) {
    wholePairs(planes, from, frames, packet, 3);
    return packet;
  }
  const most = 1 / scale - 1;
  const values =
    bytes === 2 ? new Int16Array(packet.buffer) : bytes === 4 ? new Int32Array(packet.buffer) : null;
  for (let channel = 0; channel < channels; channel++) {
    const plane = planes[channel];
    for (let i = 0, at = channel; i < frames; i++, at += channels) {
      const value = max(-most - 1, min(most, round(plane[from + i] / scale)));
      if (values) values[at] = value;
      else {
        packet[3 * at] = value;
        packet[3 * at + 1] = value >> 8;
        packet[3 * at + 2] = value >> 16;
      }
    }
  }
  return packet;
}

function interleaved(
  planes: readonly Float32Array[],
  from: number,
  frames: number,
): Float32Array<ArrayBuffer> {
  const values = new Float32Array(planes.length * frames);
  for (let channel = 0; channel < planes.length; channel++)
    for (let i = 0, at = channel; i < frames; i++, at += planes.length)
      values[at] = planes[channel][from + i];
  return values;
}
