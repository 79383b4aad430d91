import { basename, extname, join, resolve } from 'node:path';
import type { Verdict } from '../core/check/verification.ts';
import type { MadeFindings, MadeHandoff } from '../core/deliver/records.ts';
import { countText } from '../core/words/figures.ts';
import { checkTracks } from '../server/deliver/checkTracks.ts';
import { holdsHandoff } from '../server/deliver/handoff.ts';
import { handedTracks, makeHandoff } from '../server/deliver/makeHandoff.ts';
import type { TaskRunner } from '../server/jobs/runner.ts';
import { AudioFile } from '../server/media/audioFile.ts';
import { restrictedSounds, type VerifyOptions } from './asked.ts';
import { printJson, printLines, showProgress } from './print.ts';
import { isOneFile, type NamedRecording, namedRecordings } from './recordings.ts';
import { withRunner } from './runner.ts';
import { today } from './setupFile.ts';

/** What is asked of a handoff, of one recording or of many. */
export interface HandoffOptions extends Omit<VerifyOptions, 'in'> {
  out: string;
  format: 'wav' | 'flac';
}

/** What came of one of many recordings: what was written, that it was there already, or why it could not be. */
type ManyResult = { file: string; out: string } & (
  | { verdict: Verdict | null; tracks: number }
  | { isThere: true }
  | { error: string }
);

/** Writes what an editor needs of recordings, or of all in folders: of one into a folder, of many into a folder of its own each. */
export async function handoff(paths: string[], options: HandoffOptions): Promise<boolean> {
  if (await isOneFile(paths)) {
    const written = await withRunner((runner) => handedOver(runner, paths[0], options, options.out));
    print(written, options);
    return true;
  }
  const recordings = await namedRecordings(paths);
  if (recordings.length === 0)
    throw new Error('there is no recording in it. Name files, or folders with recordings in them.');
  const folders = foldersOf(recordings);
  const results: ManyResult[] = [];
  await withRunner(async (runner) => {
    for (const [at, { path, name }] of recordings.entries()) {
      const out = join(options.out, folders[at]);
      showProgress(`${at + 1} of ${recordings.length}: ${name}`);
      const result = { file: name, out, ...(await oneOf(runner, path, options, out)) };
      showProgress('');
      results.push(result);
      if (!options.json) printLines([lineOf(result)]);
    }
  });
  if (options.json) printJson({ recordings: results });
  return results.every((one) => !('error' in one));
}

/** Of many recordings, one that cannot be handed over does not keep the others from it; and what is there already stays. */
async function oneOf(runner: TaskRunner, path: string, options: HandoffOptions, out: string) {
  try {
    if (await holdsHandoff(resolve(out), basename(path))) return { isThere: true as const };
    const { verdict, tracks } = await handedOver(runner, path, options, out);
    return { verdict, tracks: tracks.length };
  } catch (error) {
    return { error: error instanceof Error ? error.message : String(error) };
  }
}

/** A folder for each, called as the recording is, without its ending; where two are called the same, with it. */
function foldersOf(recordings: NamedRecording[]): string[] {
  const short = recordings.map(({ name }) => name.slice(0, name.length - extname(name).length));
  const count = (one: string) => short.filter((other) => other.toLowerCase() === one.toLowerCase()).length;
  return recordings.map(({ name }, at) => (count(short[at]) > 1 ? name : short[at]));
}

function lineOf(result: ManyResult): string {
  if ('error' in result) return `${result.file}: not handed over: ${result.error}`;
  if ('isThere' in result) return `${result.file}: is in ${result.out} already`;
  const { file, out, tracks, verdict } = result;
  return `${file}: ${countText(tracks, 'track')} in ${out}, ${verdict === null ? 'nothing was looked for' : `checked: ${verdict}`}`;
}

/** Writes what an editor needs of a recording into a folder. */
async function handedOver(
  runner: TaskRunner,
  path: string,
  options: HandoffOptions,
  out: string,
): Promise<MadeHandoff & MadeFindings> {
  const file = await AudioFile.open(path, { allowCut: true });
  const names = file.tracks.map(({ name }) => ({ name }));
  file.close();
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

function print(written: MadeHandoff & MadeFindings, options: HandoffOptions): void {
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
}
