import { basename, resolve } from 'node:path';
import {
  leakNotes,
  limitWords,
  type UntestedPair,
  type Verdict,
  type Verification,
  verdictOf,
} from '../core/check/verification.ts';
import { countText } from '../core/words/figures.ts';
import type { RunOptions, TaskRunner } from '../server/jobs/runner.ts';
import { verifyRecording } from '../server/jobs/verify.ts';
import { commandPrints } from '../server/settings.ts';
import { tidyPrints } from '../server/tidy.ts';
import { type Asked, askedFor, trackNames, type VerifyOptions } from './asked.ts';
import { KeptChecks, keyOf } from './keptChecks.ts';
import { type OneOfMany, throughMany } from './many.ts';
import { clock, figure, printJson, printLines } from './print.ts';
import { arrivingRecordings, isOneFile, type NamedRecording, namedRecordings } from './recordings.ts';
import { stopSignal, withRunner, working } from './runner.ts';

/** What is asked of many recordings beside what is asked of each. */
export interface ManyOptions extends VerifyOptions {
  keep?: string;
  watch?: boolean;
}

type ManyResult = OneOfMany<Verification>;

/** Checks recordings, or folders of them, for sounds that must not be in them. @returns the worst that was found */
export async function verify(paths: string[], options: ManyOptions): Promise<Verdict> {
  if ((await isOneFile(paths)) && !options.keep && !options.watch) return verifyOne(paths[0], options);
  const kept = options.keep ? await KeptChecks.open(options.keep) : null;
  const say = (result: ManyResult) => {
    if (!options.json) printLines([lineOf(result)]);
    else if (options.watch) printLines([JSON.stringify(result)]);
  };
  const results = await withRunner(async (runner, stop) => {
    // While folders are watched, what is being checked is brought to its end.
    const signal = options.watch ? undefined : stop;
    const check = ({ path }: NamedRecording, onProgress: (share: number) => void) =>
      keptOrFound(runner, path, options, kept, { onProgress, signal });
    if (options.watch) return throughMany(arrivingRecordings(paths, stopSignal()), null, check, say);
    const recordings = await namedRecordings(paths);
    return throughMany(recordings, recordings.length, check, say);
  });
  tidyPrints(commandPrints());
  const verdict = worstOf(results);
  if (options.json && !options.watch) printJson({ verdict, recordings: results });
  if (!options.json) printLines([sumOf(results)]);
  return verdict;
}

/** Checks one of many recordings, where it was not kept already what is in it. */
async function keptOrFound(
  runner: TaskRunner,
  path: string,
  options: VerifyOptions,
  kept: KeptChecks | null,
  run: RunOptions,
): Promise<Verification> {
  const asked = await askedOf(path, options);
  if (!kept) return foundIn(runner, path, asked, run);
  const key = await keyOf(path, asked);
  const known = kept.get(key);
  if (known) return { verdict: known.verdict, leaks: known.leaks, untested: known.untested };
  const found = await foundIn(runner, path, asked, run);
  await kept.add(key, path, found);
  return found;
}

async function askedOf(path: string, options: VerifyOptions): Promise<Asked> {
  const names = await trackNames(path);
  const asked = await askedFor(names, options);
  if (asked.references.length === 0 && asked.untested.length === 0)
    throw new Error(
      'nothing is said that must not be in it. Name music files (--reference), tracks of the file (--forbid), or a setup whose sources are not cleared for everything (--setup).',
    );
  return asked;
}

async function foundIn(
  runner: TaskRunner,
  path: string,
  { references, untested: unknown }: Asked,
  options: RunOptions,
): Promise<Verification> {
  const { leaks, untested: silent } = await verifyRecording(runner, resolve(path), references, {
    keepIn: commandPrints(),
    ...options,
  });
  const untested = [...silent, ...unknown];
  return { verdict: verdictOf(leaks, untested), leaks, untested };
}

/** The worst of all: what could not be read was not tested. */
function worstOf(results: ManyResult[]): Verdict {
  const verdicts = results.map((one) => ('error' in one ? 'not testable' : one.verdict));
  return (['not clean', 'not testable'] as const).find((verdict) => verdicts.includes(verdict)) ?? 'clean';
}

function lineOf(result: ManyResult): string {
  const column = (verdict: string) => verdict.padEnd('not testable'.length + 2);
  if ('error' in result) return `${column('not read')}${result.file}: ${result.error}`;
  const { file, verdict, leaks, untested } = result;
  const named = (list: { reference: string; track: number }[]) =>
    [...new Set(list.map(({ reference, track }) => `${reference} in track ${track}`))].join(', ');
  const why = verdict === 'not clean' ? named(leaks) : verdict === 'not testable' ? named(untested) : '';
  return `${column(verdict)}${file}${why && `: ${why}`}`;
}

function sumOf(results: ManyResult[]): string {
  const count = (verdict: string) =>
    results.filter((one) => ('error' in one ? 'not read' : one.verdict) === verdict).length;
  const parts = ['clean', 'not clean', 'not testable', 'not read']
    .map((verdict) => [count(verdict), verdict] as const)
    .filter(([many]) => many > 0)
    .map(([many, verdict]) => `${many} ${verdict}`);
  return `${countText(results.length, 'recording')}: ${parts.join(', ') || 'nothing checked'}.`;
}

/** Checks a recording for sounds that must not be in it. */
async function verifyOne(path: string, options: VerifyOptions): Promise<Verdict> {
  const asked = await askedOf(path, options);
  const { references } = asked;
  const found = await working(`Checking ${basename(path)}`, (runner, run) =>
    foundIn(runner, path, asked, run),
  );
  tidyPrints(commandPrints());
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
      ...untestedLines(found.untested),
      ...[limitWords(lookedFor)].filter(Boolean).map((limits) => `  ${limits}`),
    ]);
  return found.verdict;
}

/** What nothing can be said of, and why; what has the same reason together. */
function untestedLines(untested: UntestedPair[]): string[] {
  const reasons = [...new Set(untested.map(({ reason }) => reason))];
  return reasons.map((reason) => {
    const pairs = untested.filter((one) => one.reason === reason);
    const named = pairs.map(({ reference, track }) => `${reference} in track ${track}`).join(', ');
    return `  ${named}: nothing can be said, since ${reason}.`;
  });
}
