import { basename } from 'node:path';
import { extractAll } from '../server/deliver/extractAll.ts';
import { cutAmong, cutLines } from './cut.ts';
import { clock, printJson, printLines } from './print.ts';
import { working } from './runner.ts';

/** Writes tracks of a recording into files of their own and says which. */
export async function extract(
  path: string,
  options: { out: string; format: 'wav' | 'flac'; track?: number[]; json?: boolean },
): Promise<void> {
  const what = { format: options.format, tracks: options.track?.map((track) => track - 1) };
  const files = await working(`Tracks of ${basename(path)}`, (runner, run) =>
    extractAll(runner, path, options.out, what, run),
  );
  const written = files.map((one) => ({ ...one, track: one.track + 1 }));
  const cut = await cutAmong([path]);
  if (options.json) printJson({ out: options.out, files: written, cut });
  else
    printLines([
      ...written.map(({ track, file, lengthS }) => `${track}  ${file} (${clock(lengthS)})`),
      ...cutLines(cut),
    ]);
}
