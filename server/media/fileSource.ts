import { type FileHandle, open } from 'node:fs/promises';
import { CustomSource } from 'mediabunny';
import type { ReadAs } from './cutCluster.ts';
import { signsOfReading } from './signOfLife.ts';

/** A file as the media library reads it; how far it was read is told as a sign of life. @param readAs how one is read that breaks off */
export function fileSource(path: string, maxCacheSize?: number, readAs: ReadAs | null = null): CustomSource {
  let handle: FileHandle | null = null;
  const onRead = signsOfReading();
  return new CustomSource({
    maxCacheSize,
    prefetchProfile: 'fileSystem',
    getSize: async () => {
      handle ??= await open(path, 'r');
      return readAs?.lengthBytes ?? (await handle.stat()).size;
    },
    read: async (start, end) => {
      const bytes = new Uint8Array(end - start);
      for (let done = 0; done < bytes.length; ) {
        const read = await handle?.read(bytes, done, bytes.length - done, start + done);
        // What is not there any more is no silence.
        if (!read?.bytesRead) throw new Error('the file became shorter while it was read');
        done += read.bytesRead;
      }
      readAs?.bytes.forEach((byte, i) => {
        if (readAs.at + i >= start && readAs.at + i < end) bytes[readAs.at + i - start] = byte;
      });
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
