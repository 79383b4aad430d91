import { basename, resolve } from 'node:path';
import type { Verdict } from '../core/check/verification.ts';
import { rescueTrack } from '../server/deliver/rescue.ts';
import { AudioFile } from '../server/media/audioFile.ts';
import { cutAmong, cutLines } from './cut.ts';
import { clock, figure, printJson, printLines } from './print.ts';
import { working } from './runner.ts';

/** Takes a sound out of a track and says how far down it went. @returns what a check of the new track says */
export async function rescue(
  path: string,
  options: { track: number; reference: string; out: string; json?: boolean },
): Promise<Verdict> {
  const file = await AudioFile.open(path, { allowCut: true });
  const { tracks } = file;
  file.close();
  const number = /^\d+$/.test(options.reference) ? Number(options.reference) : null;
  for (const one of [options.track, number ?? 1])
    if (one < 1 || one > tracks.length)
      throw new Error(`there is no audio track ${one}; the file has ${tracks.length}.`);
  if (number === options.track) throw new Error('a track cannot be taken out of itself; name another one.');
  const reference = {
    name: number === null ? basename(options.reference) : (tracks[number - 1].name ?? `track ${number}`),
    track: number === null ? null : number - 1,
    path: number === null ? resolve(options.reference) : null,
    forbiddenIn: [options.track - 1],
  };
  const wanted = {
    path: resolve(path),
    track: options.track - 1,
    reference,
    outPath: resolve(options.out),
  };
  const done = await working(`${reference.name} out of ${basename(path)}`, (runner, run) =>
    rescueTrack(runner, wanted, run),
  );
  const cut = await cutAmong(number === null ? [path, options.reference] : [path]);
  if (options.json) printJson({ out: options.out, ...done, cut });
  else
    printLines([
      done.intervals.length === 0
        ? `${reference.name} was not found in track ${options.track}; it is written as it was.`
        : `${reference.name} was taken out of track ${options.track}, ${figure(done.downDb, 'dB')} down.`,
      ...done.intervals.map(
        (one) =>
          `  ${clock(one.startS)} to ${clock(one.endS)}: was at ${figure(one.levelDb, 'dB')}, now ${figure(one.downDb, 'dB')} lower`,
      ),
      `Checked again: ${done.verdict}.`,
      ...cutLines(cut),
    ]);
  return done.verdict;
}
