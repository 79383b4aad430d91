/** The bytes of what the media library hands on for decoders, where they lie. */
export function bytesOf(data: AllowSharedBufferSource): Buffer {
  return ArrayBuffer.isView(data)
    ? Buffer.from(data.buffer as ArrayBuffer, data.byteOffset, data.byteLength)
    : Buffer.from(data as ArrayBuffer);
}
