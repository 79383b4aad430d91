import { basename, resolve } from 'node:path';
import { leakNotes, limitWords, type Verdict, verdictOf } from '../core/check/verification.ts';
import { verifyRecording } from '../server/jobs/verify.ts';
import { AudioFile } from '../server/media/audioFile.ts';
import { commandPrints } from '../server/settings.ts';
import { tidyPrints } from '../server/tidy.ts';
import { askedFor, type VerifyOptions } from './asked.ts';
import { clock, figure, printJson, printLines } from './print.ts';
import { withRunner } from './runner.ts';

/** Checks a recording for sounds that must not be in it. */
export async function verify(path: string, options: VerifyOptions): Promise<Verdict> {
  const file = await AudioFile.open(path, { allowCut: true });
  const names = file.tracks.map(({ name }) => ({ name }));
  file.close();
  const { references, untested: unknown } = await askedFor(names, options);
  if (references.length === 0 && unknown.length === 0)
    throw new Error(
      'nothing is said that must not be in it. Name music files (--reference), tracks of the file (--forbid), or a setup whose sources are not cleared for everything (--setup).',
    );
  const { leaks, untested: silent } = await withRunner((runner) =>
    verifyRecording(runner, resolve(path), references, { keepIn: commandPrints() }),
  );
  tidyPrints(commandPrints());
  const untested = [...silent, ...unknown];
  const found = { verdict: verdictOf(leaks, untested), leaks, untested };
  const lookedFor = {
    tracks: references.some(({ track }) => track !== null),
    files: references.some(({ path: file }) => file !== null),
  };
  if (options.json) printJson(found);
  else
    printLines([
      `${basename(path)}: ${found.verdict}`,
      ...found.leaks.map((one) =>
        [
          `  ${one.reference} is in track ${one.track} from ${clock(one.startS)} to ${clock(one.endS)}, at ${figure(one.levelDb, 'dB')}.`,
          ...leakNotes(one),
        ].join(' '),
      ),
      ...found.untested.map(
        (one) => `  ${one.reference} in track ${one.track}: nothing can be said, since ${one.reason}.`,
      ),
      ...[limitWords(lookedFor)].filter(Boolean).map((limits) => `  ${limits}`),
    ]);
  return found.verdict;
}
