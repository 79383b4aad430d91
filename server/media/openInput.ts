import { open } from 'node:fs/promises';
import { ALL_FORMATS, type EncodedPacket, EncodedPacketSink, Input, type InputTrack, OGG } from 'mediabunny';
import { readAsCut } from './cutCluster.ts';
import { FileBytes } from './fileBytes.ts';
import { fileSource, type ReadAs } from './fileSource.ts';
import { refuseMistaken } from './foreign.ts';
import { Holes } from './holes.ts';
import { guarded } from './inputGuard.ts';
import { prepareMediaLibrary } from './library.ts';
import { codecDelaysOf } from './matroskaHead.ts';
import { opusFrames } from './opus.ts';

const OPUS_RATE_HZ = 48_000;

/** What files say of their tracks beyond what the media library reads. */
const delaysOf = new WeakMap<Input, Map<number, number>>();
const holesOf = new WeakMap<Input, Holes>();
const paths = new WeakMap<Input, string>();

/** How a file is opened: how much of it is kept at most (bytes), how much of it counts, and as what it is read where it has lost its index. */
export interface InputOptions {
  maxCacheSize?: number;
  lengthBytes?: number;
  readAs?: ReadAs;
}

/**
 * Opens a file with the media library, guarded, in whatever container it is. Dispose of it when done.
 * @throws {MediaError} where it is of a kind that the library would take for another
 */
export async function openInput(
  path: string,
  { maxCacheSize, lengthBytes, readAs }: InputOptions = {},
): Promise<Input> {
  prepareMediaLibrary();
  await refuseMistaken(path);
  const delays = await codecDelaysOf(path);
  const whole = fileSource(path, maxCacheSize, readAs ?? (await readAsCut(path)));
  const source = lengthBytes === undefined ? whole : whole.slice(0, lengthBytes);
  const input = guarded(new Input({ source, formats: ALL_FORMATS }));
  delaysOf.set(input, delays);
  holesOf.set(input, new Holes(path));
  paths.set(input, path);
  return input;
}

/** Where a file lies that is open. */
export function pathOf(input: Input): string | null {
  return paths.get(input) ?? null;
}

/** The last bytes of a file that is open: so many, or all there are. */
export async function tailOf(input: Input, count: number): Promise<Buffer> {
  const handle = await open(pathOf(input) ?? '');
  try {
    const { size } = await handle.stat();
    return await new FileBytes(handle, size).at(Math.max(0, size - count), count);
  } finally {
    await handle.close();
  }
}

/** Where a file that is open may have lost something in its middle. */
export function holesIn(input: Input): Holes | null {
  return holesOf.get(input) ?? null;
}

/**
 * When the packets of a track really come. Decoders give something before the sound itself begins; containers count it differently, and the media
 * library takes their times as they are.
 */
export class TrackClock {
  private readonly delayS: number;
  private readonly isOggOpus: boolean;

  private constructor(delayS: number, isOggOpus: boolean) {
    this.delayS = delayS;
    this.isOggOpus = isOggOpus;
  }

  static async of(track: InputTrack): Promise<TrackClock> {
    const delayS = delaysOf.get(track.input)?.get(track.id) ?? 0;
    const isOgg = (await track.input.getFormat()) === OGG;
    return new TrackClock(delayS, isOgg && (await track.getCodec()) === 'opus');
  }

  /** When what a packet holds begins (s, in the file's own time): before the start where decoders give something before the sound. */
  startS({ timestamp, duration, data }: EncodedPacket): number {
    // Ogg says when each ends; the library takes what comes before the start off the length of the first.
    if (this.isOggOpus && timestamp === 0) return duration - opusFrames(data) / OPUS_RATE_HZ;
    return this.ofContainer(timestamp);
  }

  /** When something comes (s), by the time that the container gives it. */
  ofContainer(atS: number): number {
    return atS - this.delayS;
  }

  /** What the container calls a time (s). */
  inContainer(atS: number): number {
    return atS + this.delayS;
  }
}

/** When the first of all tracks of a file begins (s, in its own time); not before its start. @throws where it cannot be read */
export async function beginningOf(input: Input): Promise<number> {
  const tracks = await input.getTracks();
  const starts = tracks.map(async (track) => {
    const first = await new EncodedPacketSink(track).getFirstPacket({ metadataOnly: true });
    const delayS = delaysOf.get(input)?.get(track.id) ?? 0;
    return first ? first.timestamp - delayS : Number.POSITIVE_INFINITY;
  });
  const firstS = Math.min(...(await Promise.all(starts)));
  return Number.isFinite(firstS) ? Math.max(0, firstS) : 0;
}
