import { remux } from '../server/deliver/remux.ts';
import { cutAmong, cutLines } from './cut.ts';
import { printJson, printLines } from './print.ts';

/** Puts a recording into another container and says what it holds. */
export async function rewrap(path: string, out: string, options: { json?: boolean }): Promise<void> {
  const { tracks, left } = await remux(path, out);
  const cut = await cutAmong([path]);
  if (options.json) printJson({ out, tracks, left, cut });
  else
    printLines([
      ...tracks.map(
        ({ kind, codec, name, packets }, at) =>
          `${at + 1}  ${kind}${name ? ` “${name}”` : ''} (${codec}): ${packets} packets, as they were`,
      ),
      ...left.map((one) => `not copied: ${one}`),
      ...cutLines(cut),
    ]);
}
