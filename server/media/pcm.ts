/** Reads one little-endian sample at a byte offset, as −1 to 1. */
type ReadSample = (view: DataView, at: number) => number;

const FORMATS: Record<string, { bytes: number; read: ReadSample }> = {
  'pcm-s16': { bytes: 2, read: (view, at) => view.getInt16(at, true) / 2 ** 15 },
  'pcm-s24': {
    bytes: 3,
    read: (view, at) => (view.getUint16(at, true) + view.getInt8(at + 2) * 65_536) / 2 ** 23,
  },
  'pcm-s32': { bytes: 4, read: (view, at) => view.getInt32(at, true) / 2 ** 31 },
  'pcm-f32': { bytes: 4, read: (view, at) => view.getFloat32(at, true) },
};

/** Tells whether packets of a codec can be unpacked here. */
export function isPlainPcm(codec: string): boolean {
  return codec in FORMATS;
}

/**
 * Unpacks a packet of plain PCM into planes. There is nothing to decode in it; the media library's general conversion
 * does it value by value, which costs more than mixing.
 * @param codec one that {@link isPlainPcm} accepts
 */
export function unpackPcm(codec: string, packet: Uint8Array, channels: number): Float32Array[] {
  const { bytes, read } = FORMATS[codec];
  const view = new DataView(packet.buffer, packet.byteOffset, packet.byteLength);
  const frames = Math.floor(packet.byteLength / (bytes * channels));
  const stride = bytes * channels;
  return Array.from({ length: channels }, (_, channel) => {
    const plane = new Float32Array(frames);
    for (let frame = 0, at = channel * bytes; frame < frames; frame++, at += stride)
      plane[frame] = read(view, at);
    return plane;
  });
}
