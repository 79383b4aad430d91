import { type FileHandle, open } from 'node:fs/promises';
import { CustomSource } from 'mediabunny';
import { signsOfReading } from './signOfLife.ts';

/** A file as the media library reads it; how far it was read is told as a sign of life. */
export function fileSource(path: string, maxCacheSize?: number): CustomSource {
  let handle: FileHandle | null = null;
  const onRead = signsOfReading();
  return new CustomSource({
    maxCacheSize,
    prefetchProfile: 'fileSystem',
    getSize: async () => {
      handle ??= await open(path, 'r');
      return (await handle.stat()).size;
    },
    read: async (start, end) => {
      const bytes = new Uint8Array(end - start);
      await handle?.read(bytes, 0, bytes.length, start);
      onRead(end);
      return bytes;
    },
    dispose: () => {
      void handle?.close();
      handle = null;
    },
  });
}
