import { basename, dirname, resolve } from 'node:path';
import { planFromSetup, referencesOf } from '../core/check/plan.ts';
import { roleByName } from '../core/check/proposals.ts';
import {
  leakNotes,
  limitWords,
  NOTHING_TO_COMPARE,
  type UntestedPair,
  type Verdict,
  verdictOf,
} from '../core/check/verification.ts';
import { verifyRecording } from '../server/jobs/verify.ts';
import { AudioFile } from '../server/media/audioFile.ts';
import type { Reference } from '../server/media/references.ts';
import { clock, figure, printJson, printLines } from './print.ts';
import { withRunner } from './runner.ts';
import { findMedia, loadSetup, today } from './setupFile.ts';

/** What is asked of a recording: which sounds must not be in which tracks. Tracks count from one. */
export interface VerifyOptions {
  setup?: string;
  reference?: string[];
  forbid?: number[];
  in?: number[];
  json?: boolean;
  mediaAnywhere?: boolean;
}

/** What is to be looked for, and what is asked for but cannot be. */
export interface Asked {
  references: Reference[];
  untested: UntestedPair[];
}
const NOTHING: Asked = { references: [], untested: [] };

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
    verifyRecording(runner, resolve(path), references),
  );
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

/** What is to be looked for in a recording, and what cannot be. */
export async function askedFor(names: { name: string | null }[], options: VerifyOptions): Promise<Asked> {
  const forbidden = (options.forbid ?? []).map((track) => track - 1);
  const all = names.map((_, track) => track);
  const given = options.in?.map((track) => track - 1) ?? all.filter((track) => !forbidden.includes(track));
  const fromSetup = options.setup ? await fromSetupFile(options.setup, names, options) : NOTHING;
  const references = [
    ...(options.reference ?? []).map((path) => ({
      name: basename(path),
      track: null,
      path: resolve(path),
      forbiddenIn: given,
    })),
    ...forbidden.map((track) => ({
      name: names[track]?.name ?? `track ${track + 1}`,
      track,
      path: null,
      forbiddenIn: given.filter((one) => one !== track),
    })),
    ...fromSetup.references,
  ].filter(({ forbiddenIn }) => forbiddenIn.length > 0);
  return { references, untested: fromSetup.untested };
}

/** Tracks whose names say that they carry music or friends (counted from one). */
export function restrictedByName(names: { name: string | null }[]): number[] {
  return names.flatMap(({ name }, at) =>
    ['music', 'voice chat'].includes(roleByName(name) ?? '') ? [at + 1] : [],
  );
}

/** The tracks of a recording that a setup means for the upload (counted from zero). */
export async function uploadTracksOf(path: string, names: { name: string | null }[]): Promise<number[]> {
  const plan = planFromSetup(
    null,
    await loadSetup(path),
    names.map(({ name }) => name),
    today(),
  );
  return plan.tracks.flatMap(({ goesTo }, track) => (goesTo.includes('upload') ? [track] : []));
}

/** The sources of a setup that are not cleared for some track, by tracks that carry them alone and by their recordings. */
async function fromSetupFile(
  path: string,
  names: { name: string | null }[],
  options: VerifyOptions,
): Promise<Asked> {
  const setup = await loadSetup(path);
  const media = await findMedia(setup, dirname(resolve(path)), { anywhere: options.mediaAnywhere });
  const plan = planFromSetup(
    null,
    setup,
    names.map(({ name }) => name),
    today(),
  );
  const isAsked = (track: number) => !options.in || options.in.includes(track + 1);
  const asked: Asked = { references: [], untested: [] };
  const cannotCompare = (reference: string, tracks: number[]) =>
    asked.untested.push(
      ...tracks.map((track) => ({ reference, track: track + 1, reason: NOTHING_TO_COMPARE })),
    );
  for (const { name, track, place, forbiddenIn: everywhere } of referencesOf(plan)) {
    const forbiddenIn = everywhere.filter(isAsked);
    const source = setup.sources.find((one) => place !== null && one.media?.path === place.path);
    const file = source ? media[source.id] : undefined;
    if (place === null || file) asked.references.push({ name, track, path: file ?? null, forbiddenIn });
    else cannotCompare(name, forbiddenIn);
  }
  for (const { name, notFor } of plan.unknown)
    cannotCompare(
      name,
      plan.tracks.flatMap(({ goesTo }, track) =>
        isAsked(track) && goesTo.some((use) => notFor.includes(use)) ? [track] : [],
      ),
    );
  return asked;
}
