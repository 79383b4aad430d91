import { open } from 'node:fs/promises';

/** Sizes from here on stand for "not known yet". */
const NOT_KNOWN = 0xffffff00;

/**
 * Which share of a WAV is there: a RIFF header says how long the file is to be; a shorter one was cut off while it was written or copied.
 * @param size of the file (bytes)
 * @returns 0 to 1; null where all is there, nothing is promised, or it is no WAV
 */
export async function shareOfWav(path: string, size: number): Promise<number | null> {
  const handle = await open(path);
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(12), 0, 12, 0);
    const promised = buffer.readUInt32LE(4) + 8;
    const isWav =
      bytesRead === 12 &&
      buffer.toString('latin1', 0, 4) === 'RIFF' &&
      buffer.toString('latin1', 8, 12) === 'WAVE';
    return !isWav || promised <= size + 1 || promised > NOT_KNOWN ? null : size / promised;
  } finally {
    await handle.close();
  }
}
