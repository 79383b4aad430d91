import { resolve } from 'node:path';
import { NOTHING_TO_COMPARE, type Verdict, verdictOf } from '../core/check/verification.ts';
import { handOff } from '../server/deliver/handoff.ts';
import { verifyRecording } from '../server/jobs/verify.ts';
import { AudioFile } from '../server/media/audioFile.ts';
import { restrictedSounds, type VerifyOptions } from './asked.ts';
import { printJson, printLines } from './print.ts';
import { withRunner } from './runner.ts';
import { today } from './setupFile.ts';

/** Writes what an editor needs of a recording into a folder. @returns what the check of it says */
export async function handoff(
  path: string,
  options: Omit<VerifyOptions, 'in'> & { out: string; format: 'wav' | 'flac' },
): Promise<Verdict | null> {
  const file = await AudioFile.open(path, { allowCut: true });
  const names = file.tracks.map(({ name }) => ({ name }));
  file.close();
  const { sounds, unknown } = await restrictedSounds(names, options);
  // What carries nothing but such a sound is off anyway; all others are looked at.
  const others = names.flatMap((_, at) => (sounds.some(({ track }) => track === at) ? [] : [at]));
  const references = others.length > 0 ? sounds.map((sound) => ({ ...sound, forbiddenIn: others })) : [];
  const cannotBe = unknown.flatMap((reference) =>
    others.map((track) => ({ reference, track: track + 1, reason: NOTHING_TO_COMPARE })),
  );
  const { leaks, untested: silent } = await withRunner((runner) =>
    verifyRecording(runner, resolve(path), references),
  );
  const untested = [...silent, ...cannotBe];
  const isAny = references.length > 0 || untested.length > 0;
  const verdict = isAny ? verdictOf(leaks, untested) : null;
  const written = await handOff({
    path: resolve(path),
    folder: resolve(options.out),
    format: options.format,
    references,
    found: { verdict, leaks, untested },
    today: today(),
  });
  const tracks = written.tracks.map((one) => ({ ...one, track: one.track + 1 }));
  if (options.json) printJson({ out: options.out, ...written, tracks, verdict, leaks, untested });
  else
    printLines([
      ...tracks.map(({ track, file, isOn }) => `${track}  ${file}${isOn ? '' : ' (off on the timeline)'}`),
      `Timeline: ${written.timeline}. Chapters: ${written.chapters}. Records heard: ${written.cues}. Proof: ${written.proof}.`,
      verdict === null
        ? 'Nothing was looked for: no track seems to carry music or friends. Say what must not be in others (--forbid, --reference, --setup).'
        : `Checked: ${verdict}.`,
    ]);
  return verdict;
}
