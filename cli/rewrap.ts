import { basename, resolve } from 'node:path';
import { leftOutLine } from '../core/deliver/leftOut.ts';
import { cutAmong, cutLines } from './cut.ts';
import { printJson, printLines } from './print.ts';
import { working } from './runner.ts';

/** Puts a recording into another container and says what it holds. */
export async function rewrap(path: string, out: string, options: { json?: boolean }): Promise<void> {
  const task = { path: resolve(path), outPath: resolve(out) };
  const { tracks, left } = await working(`Copying ${basename(path)}`, (runner, options) =>
    runner.run('remux', task, options),
  );
  const cut = await cutAmong([path]);
  if (options.json) printJson({ out, tracks, left, cut });
  else
    printLines([
      ...tracks.map(
        ({ kind, codec, name, packets }, at) =>
          `${at + 1}  ${kind}${name ? ` “${name}”` : ''} (${codec}): ${packets} packets, as they were`,
      ),
      ...left.map(leftOutLine),
      ...cutLines(cut),
    ]);
}
