import { type FileHandle, open } from 'node:fs/promises';
import { CustomSource } from 'mediabunny';
import { signsOfReading } from './signOfLife.ts';

/** A part of what is read in place of a file: bytes that are not in it, or some of its own (up to `to`). */
export type Piece = { bytes: Uint8Array } | { from: number; to: number };

/** How a file is read that breaks off: the parts of which it seems to consist. */
export type ReadAs = Piece[];

/** A file as the media library reads it; how far it was read is told as a sign of life. @param readAs how one is read that breaks off */
export function fileSource(path: string, maxCacheSize?: number, readAs: ReadAs | null = null): CustomSource {
  let handle: FileHandle | null = null;
  const onRead = signsOfReading();
  return new CustomSource({
    maxCacheSize,
    prefetchProfile: 'fileSystem',
    getSize: async () => {
      handle ??= await open(path, 'r');
      return readAs ? lengthOf(readAs) : (await handle.stat()).size;
    },
    read: async (start, end) => {
      const bytes = new Uint8Array(end - start);
      let at = 0;
      for (const piece of readAs ?? [{ from: 0, to: end }]) {
        const [from, to] = [Math.max(start, at), Math.min(end, at + lengthOf([piece]))];
        if (from < to) await readPiece(handle, piece, from - at, bytes.subarray(from - start, to - start));
        at += lengthOf([piece]);
      }
      onRead(end);
      return bytes;
    },
    // Of what was read ahead and is not asked for.
    handleUnhandledError: () => {},
    dispose: () => {
      void handle?.close();
      handle = null;
    },
  });
}

function lengthOf(pieces: Piece[]): number {
  return pieces.reduce(
    (sum, piece) => sum + ('bytes' in piece ? piece.bytes.length : piece.to - piece.from),
    0,
  );
}

/** Reads what a piece has from some byte on, as much as is asked for. */
async function readPiece(
  handle: FileHandle | null,
  piece: Piece,
  from: number,
  into: Uint8Array,
): Promise<void> {
  if ('bytes' in piece) return into.set(piece.bytes.subarray(from, from + into.length));
  for (let done = 0; done < into.length; ) {
    const read = await handle?.read(into, done, into.length - done, piece.from + from + done);
    // What is not there any more is no silence.
    if (!read?.bytesRead) throw new Error('the file became shorter while it was read');
    done += read.bytesRead;
  }
}
