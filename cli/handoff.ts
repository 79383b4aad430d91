import { basename, extname, join, resolve } from 'node:path';
import type { Verdict } from '../core/check/verification.ts';
import type { MadeFindings, MadeHandoff, MadeUpload } from '../core/deliver/records.ts';
import { firstUpload, titleOf } from '../core/deliver/usual.ts';
import { countText } from '../core/words/figures.ts';
import {
  checkTracks,
  type Forbidden,
  NOTHING_KNOWN,
  type TrackFindings,
} from '../server/deliver/checkTracks.ts';
import { holdsHandoff, refuseExisting } from '../server/deliver/handoff.ts';
import { editorFolder, type GoRequest, makeInOneGo } from '../server/deliver/inOneGo.ts';
import { handedTracks } from '../server/deliver/makeHandoff.ts';
import type { RunOptions, TaskRunner } from '../server/jobs/runner.ts';
import { restrictedSounds, trackNames, uploadPlanOf, type VerifyOptions } from './asked.ts';
import { type CutRecording, cutAmong, cutLines } from './cut.ts';
import { type EvenIf, evenIfLine, verdictsAllowed } from './evenIf.ts';
import { type OneOfMany, throughMany } from './many.ts';
import { figure, printJson, printLines } from './print.ts';
import { isOneFile, type NamedRecording, namedRecordings } from './recordings.ts';
import { withRunner, working } from './runner.ts';
import { today } from './setupFile.ts';

/** What is asked of a handoff, of one recording or of many. */
export interface HandoffOptions extends Omit<VerifyOptions, 'in'>, EvenIf {
  out: string;
  format: 'wav' | 'flac';
  /** The video for the upload is made as well. */
  video?: boolean;
  lufs: number;
}

/** What was written for one recording. */
interface Handed {
  handoff: MadeHandoff & MadeFindings;
  /** The video for the upload; null where none was asked for. */
  video: MadeUpload | null;
}

/** What came of one of many recordings: what was written into its folder, or that it was there already. */
type ManyResult = OneOfMany<
  { out: string } & (
    | { verdict: Verdict | null; tracks: number; video?: MadeUpload; cut: CutRecording[] }
    | { isThere: true }
  )
>;

/** Whether all was written: else what is the matter with a video that was not, or that something failed. */
export type HandoffOutcome = 'written' | 'failed' | Verdict;

/**
 * Writes what an editor needs of recordings, or of all in folders, and the video for the upload where it is asked for: of one into a folder, of
 * many into a folder of its own each.
 */
export async function handoff(paths: string[], options: HandoffOptions): Promise<HandoffOutcome> {
  if (await isOneFile(paths)) {
    const written = await working(`Handing over ${basename(paths[0])}`, (runner, run) =>
      handedOver(runner, paths[0], options, options.out, run),
    );
    print(written, await cutAmong(paths), options);
    return outcomeOf(written.video);
  }
  const recordings = await namedRecordings(paths);
  const folders = foldersOf(recordings);
  const results = await withRunner((runner, signal) =>
    throughMany(
      recordings,
      recordings.length,
      async (one, onProgress) => {
        const out = join(options.out, folders[recordings.indexOf(one)]);
        const into = editorFolder(resolve(out), options.video ?? false);
        if (await holdsHandoff(into, basename(one.path))) return { out, isThere: true as const };
        const { handoff: made, video } = await handedOver(runner, one.path, options, out, {
          onProgress,
          signal,
        });
        const cut = await cutAmong([one.path]);
        return { out, verdict: made.verdict, tracks: made.tracks.length, ...(video && { video }), cut };
      },
      (result: ManyResult) => {
        if (!options.json) printLines([lineOf(result)]);
      },
    ),
  );
  if (options.json) printJson({ recordings: results });
  if (results.some((one) => 'error' in one)) return 'failed';
  const outcomes = results.map((one) => outcomeOf(('video' in one && one.video) || null));
  return (
    outcomes.find((one) => one === 'not clean') ?? outcomes.find((one) => one !== 'written') ?? 'written'
  );
}

/** What is the matter with a video that was not written. */
function outcomeOf(video: MadeUpload | null): HandoffOutcome {
  return video?.file === null ? (video.verdict ?? 'written') : 'written';
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
  const { file, out, tracks, verdict, video, cut } = result;
  const checked = verdict === null ? 'nothing was looked for' : `checked: ${verdict}`;
  const filmed = video ? [videoWords(video)] : [];
  return [`${file}: ${countText(tracks, 'track')} in ${out}, ${checked}`, ...filmed, ...cutLines(cut)].join(
    '. ',
  );
}

function videoWords({ file, verdict, lufs }: MadeUpload): string {
  if (file === null) return `Video: not written, because it is ${verdict}`;
  return `Video: ${file}, ${verdict ?? 'nothing was looked for'}, ${figure(lufs, 'LUFS')}`;
}

/** Writes what an editor needs of a recording into a folder, and the video for the upload. */
async function handedOver(
  runner: TaskRunner,
  path: string,
  options: HandoffOptions,
  out: string,
  { onProgress, signal }: Required<RunOptions>,
): Promise<Handed> {
  const names = await trackNames(path);
  const { sounds, unknown } = await restrictedSounds(names, options);
  const forbidden = { sounds: sounds.map((sound) => ({ ...sound, forbiddenIn: [] })), unknown };
  const tracks = handedTracks(names.length, forbidden);
  const [folder, name] = [resolve(out), basename(path)];
  // Before anything is worked on that takes long.
  await refuseExisting(editorFolder(folder, options.video ?? false), name);
  const findings = await checkTracks(runner, resolve(path), tracks, forbidden.sounds, NOTHING_KNOWN, {
    onProgress: (share) => onProgress(0.4 * share),
    signal,
  });
  const videos = options.video ? await usualVideo(runner, path, forbidden, findings, options, signal) : null;
  const { uploads, handoff: made } = await makeInOneGo(
    runner,
    {
      ...{ path: resolve(path), name, folder, forbidden, findings, videos },
      handoff: { tracks, format: options.format },
      marks: [],
      today: today(),
    },
    (_, share) => onProgress(0.4 + 0.6 * share),
    { signal },
  );
  if (!made) throw new Error('nothing was written for the editor');
  return { handoff: made, video: uploads[0] ?? null };
}

/** The video that is usually made of a recording: of the track that is meant for it where it is clean, else of what may go out. */
async function usualVideo(
  runner: TaskRunner,
  path: string,
  forbidden: Forbidden,
  found: TrackFindings,
  options: HandoffOptions,
  signal: AbortSignal,
): Promise<GoRequest['videos']> {
  const inspected = await runner.run('inspectTracks', { path: resolve(path) }, { signal });
  const plan = await uploadPlanOf(inspected, forbidden, options);
  const upload = firstUpload({ inspected, plan, result: { ...found, plan } });
  if (upload.tracks.length === 0)
    throw new Error(
      'no track may go into a video: each carries something that must not be published, or nothing at all. Leave out --video to get the tracks and the timeline.',
    );
  return {
    order: {
      ...upload,
      targetLufs: options.lufs,
      evenIf: verdictsAllowed(options),
      pieces: [{ name: titleOf({ name: basename(path) }), fromS: 0, untilS: null }],
    },
    parts: upload.tracks.map(({ track, gainDb }) => ({
      track: { track, gainDb },
      source: { track, rescued: null },
    })),
  };
}

function print({ handoff: written, video }: Handed, cut: CutRecording[], options: HandoffOptions): void {
  const { verdict } = written;
  const tracks = written.tracks.map((one) => ({ ...one, track: one.track + 1 }));
  if (options.json) printJson({ out: options.out, ...written, tracks, ...(video && { video }), cut });
  else
    printLines([
      ...(video ? [`${videoWords(video)}.`] : []),
      ...tracks.map(({ track, file, isOn }) => `${track}  ${file}${isOn ? '' : ' (off on the timeline)'}`),
      `Timeline: ${written.timeline}. Chapters: ${written.chapters}. Records heard: ${written.cues}. Proof: ${written.proof}.`,
      verdict === null
        ? 'Nothing was looked for: no track seems to carry music or friends. Say what must not be in others (--forbid, --reference, --setup).'
        : `${video ? 'The tracks' : 'Checked'}: ${verdict}.`,
      ...(video?.file === null ? [evenIfLine(video.verdict)] : []),
      ...cutLines(cut),
    ]);
}
