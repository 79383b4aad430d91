import { basename, resolve } from 'node:path';
import { leftOutLine } from '../core/deliver/leftOut.ts';
import { joinRecordings } from '../server/deliver/join.ts';
import { cutAmong, cutLines } from './cut.ts';
import { clock, printJson, printLines } from './print.ts';
import { working } from './runner.ts';

/** Lays recordings where they are heard in the sound of a picture, and writes all of it into one file. */
export async function join(
  picture: string,
  files: string[],
  options: { out: string; track: number; json?: boolean },
): Promise<void> {
  if (options.track < 1) throw new Error('tracks count from 1.');
  const wanted = {
    path: resolve(picture),
    track: options.track - 1,
    others: files.map((file) => ({ path: resolve(file), name: basename(file) })),
    outPath: resolve(options.out),
  };
  const done = await working(`Joining with ${basename(picture)}`, (runner, run) =>
    joinRecordings(runner, wanted, run),
  );
  const cut = await cutAmong([picture, ...files]);
  if (options.json) return printJson({ out: options.out, ...done, cut });
  printLines([
    ...done.joined.map(
      ({ file, offsetMs, driftPpm, heardS, offMs, isSteady }) =>
        `${file} begins at ${offsetMs < 0 ? '−' : ''}${clock(Math.abs(offsetMs) / 1000)}; clocks apart by ${driftPpm.toFixed(1)} ppm, taken out; heard together for ${clock(heardS)}.${
          isSteady ? '' : ` Its clock does not run evenly: it may be ${Math.ceil(offMs)} ms off in places.`
        }`,
    ),
    `${options.out}: the picture and its sound as they were, and ${done.tracks.join(', ')}.`,
    ...(done.left ?? []).map(leftOutLine),
    ...cutLines(cut),
  ]);
}
