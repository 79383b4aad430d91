import { rename, rm } from 'node:fs/promises';
import { basename, extname } from 'node:path';
import {
  MkvOutputFormat,
  MovOutputFormat,
  Mp4OutputFormat,
  Output,
  type OutputFormat,
  WavOutputFormat,
} from 'mediabunny';
import { diskTarget } from './diskFile.ts';
import { nameHandlers } from './handlerNames.ts';
import { refuseOver } from './keepOriginals.ts';
import { prepareMediaLibrary } from './library.ts';
import { MediaError } from './mediaError.ts';

/** How the index of a new file is laid: in front, as a player on the net wants it, needs the number of packets beforehand. */
type Index = 'in front' | 'at the end';

const FORMATS: Record<string, (index: Index) => OutputFormat> = {
  '.mkv': () => new MkvOutputFormat(),
  '.mp4': (index) => new Mp4OutputFormat({ fastStart: index === 'in front' ? 'reserve' : false }),
  '.mov': (index) => new MovOutputFormat({ fastStart: index === 'in front' ? 'reserve' : false }),
  '.wav': () => new WavOutputFormat({ large: true }),
};

/** Tells whether a file of this name has an index of its packets, in front or at the end. */
export function isIndexed(path: string): boolean {
  return ['.mp4', '.mov'].includes(extname(path).toLowerCase());
}

/** A file that is being written: beside its name at first, and under it once it is whole. */
export interface WrittenFile {
  output: Output;
  format: OutputFormat;
  /** Ends the file and gives it its name. @param names of its tracks, in their order */
  finish(names?: (string | null)[]): Promise<void>;
  /** Removes what there is of it; nothing after it was finished. */
  drop(): Promise<void>;
}

/**
 * Begins a file of the kind that its name says.
 * @param from a file that must not be written over
 * @throws {MediaError} when the name says no kind that can be written, or is that of the original
 */
export async function beginFile(
  outPath: string,
  from: string,
  index: Index = 'at the end',
): Promise<WrittenFile> {
  prepareMediaLibrary();
  const formatOf = FORMATS[extname(outPath).toLowerCase()];
  if (!formatOf)
    throw new MediaError(
      'unsupported',
      `${basename(outPath)} must end in ${Object.keys(FORMATS).join(', ')}: that says how it is written.`,
    );
  await refuseOver(outPath, [from]);
  const part = `${outPath}.part`;
  const format = formatOf(index);
  const output = new Output({ format, target: diskTarget(part) });
  return {
    output,
    format,
    async finish(names = []) {
      await output.finalize();
      if (isIndexed(outPath)) await nameHandlers(part, names);
      await rename(part, outPath);
    },
    async drop() {
      if (output.state === 'started' || output.state === 'pending') await output.cancel().catch(() => {});
      await rm(part, { force: true });
    },
  };
}
