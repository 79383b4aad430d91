import { basename, extname, join, resolve } from 'node:path';
import type { Verdict } from '../core/check/verification.ts';
import type { MadeFindings, MadeHandoff } from '../core/deliver/records.ts';
import { countText } from '../core/words/figures.ts';
import { checkTracks } from '../server/deliver/checkTracks.ts';
import { holdsHandoff } from '../server/deliver/handoff.ts';
import { handedTracks, makeHandoff } from '../server/deliver/makeHandoff.ts';
import type { TaskRunner } from '../server/jobs/runner.ts';
import { restrictedSounds, trackNames, type VerifyOptions } from './asked.ts';
import { type CutRecording, cutAmong, cutLines } from './cut.ts';
import { type OneOfMany, throughMany } from './many.ts';
import { printJson, printLines } from './print.ts';
import { isOneFile, type NamedRecording, namedRecordings } from './recordings.ts';
import { withRunner } from './runner.ts';
import { today } from './setupFile.ts';

/** What is asked of a handoff, of one recording or of many. */
export interface HandoffOptions extends Omit<VerifyOptions, 'in'> {
  out: string;
  format: 'wav' | 'flac';
}

/** What came of one of many recordings: what was written into its folder, or that it was there already. */
type ManyResult = OneOfMany<
  { out: string } & ({ verdict: Verdict | null; tracks: number; cut: CutRecording[] } | { isThere: true })
>;

/**
 * Writes what an editor needs of recordings, or of all in folders: of one into a folder, of many into a folder of its own each.
 * @returns false where one of many could not be handed over
 */
export async function handoff(paths: string[], options: HandoffOptions): Promise<boolean> {
  if (await isOneFile(paths)) {
    const written = await withRunner((runner) => handedOver(runner, paths[0], options, options.out));
    print(written, await cutAmong(paths), options);
    return true;
  }
  const recordings = await namedRecordings(paths);
  const folders = foldersOf(recordings);
  const results = await withRunner((runner) =>
    throughMany(
      recordings,
      recordings.length,
      async (one) => {
        const out = join(options.out, folders[recordings.indexOf(one)]);
        if (await holdsHandoff(resolve(out), basename(one.path))) return { out, isThere: true as const };
        const { verdict, tracks } = await handedOver(runner, one.path, options, out);
        const cut = await cutAmong([one.path]);
        return { out, verdict, tracks: tracks.length, cut };
      },
      (result: ManyResult) => {
        if (!options.json) printLines([lineOf(result)]);
      },
    ),
  );
  if (options.json) printJson({ recordings: results });
  return results.every((one) => !('error' in one));
}

/** A folder for each, called as the recording is without its ending; where that is taken, with the ending, or with a number. */
function foldersOf(recordings: NamedRecording[]): string[] {
  const taken = new Set<string>();
  return recordings.map(({ name }) => {
    const short = name.slice(0, name.length - extname(name).length);
    const isFree = (one: string) => !taken.has(one.toLowerCase());
    let folder = [short, name].find(isFree);
    for (let number = 2; !folder; number++) folder = [`${name} ${number}`].find(isFree);
    taken.add(folder.toLowerCase());
    return folder;
  });
}

function lineOf(result: ManyResult): string {
  if ('error' in result) return `${result.file}: not handed over: ${result.error}`;
  if ('isThere' in result) return `${result.file}: is in ${result.out} already`;
  const { file, out, tracks, verdict, cut } = result;
  const checked = verdict === null ? 'nothing was looked for' : `checked: ${verdict}`;
  return [`${file}: ${countText(tracks, 'track')} in ${out}, ${checked}`, ...cutLines(cut)].join('. ');
}

/** Writes what an editor needs of a recording into a folder. */
async function handedOver(
  runner: TaskRunner,
  path: string,
  options: HandoffOptions,
  out: string,
): Promise<MadeHandoff & MadeFindings> {
  const names = await trackNames(path);
  const { sounds, unknown } = await restrictedSounds(names, options);
  const forbidden = { sounds: sounds.map((sound) => ({ ...sound, forbiddenIn: [] })), unknown };
  const handed = handedTracks(names.length, forbidden);
  return makeHandoff(runner, handed, {
    path: resolve(path),
    name: basename(path),
    folder: resolve(out),
    format: options.format,
    forbidden,
    findings: await checkTracks(runner, resolve(path), handed, forbidden.sounds),
    today: today(),
  });
}

function print(written: MadeHandoff & MadeFindings, cut: CutRecording[], options: HandoffOptions): void {
  const { verdict } = written;
  const tracks = written.tracks.map((one) => ({ ...one, track: one.track + 1 }));
  if (options.json) printJson({ out: options.out, ...written, tracks, cut });
  else
    printLines([
      ...tracks.map(({ track, file, isOn }) => `${track}  ${file}${isOn ? '' : ' (off on the timeline)'}`),
      `Timeline: ${written.timeline}. Chapters: ${written.chapters}. Records heard: ${written.cues}. Proof: ${written.proof}.`,
      verdict === null
        ? 'Nothing was looked for: no track seems to carry music or friends. Say what must not be in others (--forbid, --reference, --setup).'
        : `Checked: ${verdict}.`,
      ...cutLines(cut),
    ]);
}
