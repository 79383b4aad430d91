import { basename, resolve } from 'node:path';
import type { Verdict } from '../core/check/verification.ts';
import { checkTracks } from '../server/deliver/checkTracks.ts';
import { handedTracks, makeHandoff } from '../server/deliver/makeHandoff.ts';
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
  const forbidden = { sounds: sounds.map((sound) => ({ ...sound, forbiddenIn: [] })), unknown };
  const handed = handedTracks(names.length, forbidden);
  const written = await withRunner(async (runner) =>
    makeHandoff(runner, handed, {
      path: resolve(path),
      name: basename(path),
      folder: resolve(options.out),
      format: options.format,
      forbidden,
      findings: await checkTracks(runner, resolve(path), handed, forbidden.sounds),
      today: today(),
    }),
  );
  const { verdict } = written;
  const tracks = written.tracks.map((one) => ({ ...one, track: one.track + 1 }));
  if (options.json) printJson({ out: options.out, ...written, tracks });
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
