import { rename, rm, stat, writeFile } from 'node:fs/promises';
import { basename, dirname, extname, resolve } from 'node:path';
import {
  type LeakInterval,
  NOTHING_TO_COMPARE,
  type UntestedPair,
  type Verdict,
  verdictOf,
} from '../../core/check/verification.ts';
import { proofOfDelivery, proofPage } from '../../core/deliver/proofPage.ts';
import type { MadeFindings, MadeVideo } from '../../core/deliver/records.ts';
import { clockText, gainText, listed } from '../../core/words/figures.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { allOrNone } from '../jobs/together.ts';
import { AudioFile } from '../media/audioFile.ts';
import { refuseOver } from '../media/keepOriginals.ts';
import type { Forbidden } from './checkTracks.ts';
import { checkUpload } from './checkUpload.ts';
import { needRoom } from './needRoom.ts';
import { foundWithin, type SourceFindings } from './sources.ts';
import type { UploadRequest } from './writeUpload.ts';

/** An upload that is to be made and checked. */
export interface CheckedUploadRequest {
  upload: UploadRequest;
  forbidden: Forbidden;
  /** Finds out what is known of the tracks that it is made of, in the time of the recording, while it is written. */
  sources: (signal: AbortSignal) => Promise<SourceFindings>;
  /** Verdicts with which it is written all the same. */
  evenIf: Verdict[];
  /** How the recording is called in the proof; `YYYY-MM-DD` for when it was made. */
  recording: string;
  today: string;
}

/** What came of it: the proof is null where the upload was not written. */
export interface UploadOutcome extends MadeVideo, MadeFindings {
  isWritten: boolean;
  proof: string | null;
}

/**
 * Writes a video for an upload, checks it as it will be heard, and gives it its name only where its verdict is clean, nothing was to be looked
 * for, or the verdict was allowed for. The proof is written beside it, as JSON and as a page.
 * @throws {MediaError} as `writeUpload` does, or where there is no room
 */
export async function makeUpload(
  runner: TaskRunner,
  { upload, forbidden, sources, evenIf, recording, today }: CheckedUploadRequest,
  { onProgress = () => {}, signal }: RunOptions = {},
): Promise<UploadOutcome> {
  const outPath = resolve(upload.outPath);
  // Whatever it is made of: a track that is chosen may be what must not be in it.
  const references = forbidden.sounds.map((sound) => ({ ...sound, forbiddenIn: [0] }));
  await refuseOver(outPath, [upload.path, ...references.map(({ path }) => path)]);
  await needRoom(dirname(outPath), await bytesOf(upload));
  // Its kind is told by the end of its name, also while nobody is to take it for done.
  const end = extname(outPath);
  const unchecked = `${outPath.slice(0, outPath.length - end.length)}.unchecked${end}`;
  try {
    const [made, ofSources] = await allOrNone<[MadeVideo, SourceFindings]>(
      [
        (either) =>
          runner.run(
            'writeUpload',
            { ...upload, outPath: unchecked },
            { onProgress: (share) => onProgress(0.6 * share), signal: either },
          ),
        sources,
      ],
      signal,
    );
    const checked = { path: upload.path, outPath: unchecked, fromS: made.fromS };
    const cannotBe = forbidden.unknown.map((reference) => ({
      reference,
      track: 1,
      reason: NOTHING_TO_COMPARE,
    }));
    const isAsked = references.length + cannotBe.length > 0;
    const { leaks: heard, untested: silent } =
      references.length > 0
        ? await checkUpload(runner, checked, references, {
            onProgress: (share) => onProgress(0.6 + 0.4 * share),
            signal,
          })
        : { leaks: [], untested: [] };
    const known = foundWithin(ofSources, made);
    // What was found in the file itself says more; what it is made of may show what is hidden there.
    const leaks = [...heard, ...known.leaks.filter((one) => heard.every((other) => !isSame(one, other)))];
    // A sound may be too short in a short piece to be looked for there; over the whole recording it was.
    const notKnown = silent.filter(({ reference }) => !ofSources.tested.includes(reference));
    const untested = distinct([...notKnown, ...known.untested, ...cannotBe], leaks);
    const verdict = isAsked ? verdictOf(leaks, untested) : null;
    const found: MadeFindings = { verdict, leaks, untested };
    if (verdict !== null && verdict !== 'clean' && !evenIf.includes(verdict))
      return { ...made, ...found, isWritten: false, proof: null };
    const proof = `${outPath}.proof.json`;
    const page = proofOfDelivery({
      file: basename(outPath),
      recording,
      made: today,
      found,
      references,
      facts: factsOf(upload, made),
    });
    const report = { out: outPath, from: basename(upload.path), tracks: upload.tracks, ...made, ...found };
    await writeFile(proof, `${JSON.stringify(report, null, 2)}\n`);
    await writeFile(`${outPath}.proof.html`, proofPage(page));
    await rename(unchecked, outPath);
    return { ...made, ...found, isWritten: true, proof };
  } finally {
    await rm(unchecked, { force: true });
  }
}

/** How large a video is at most, by how much of the recording it is (bytes). */
async function bytesOf({ path, fromS = 0, untilS }: UploadRequest): Promise<number> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  const lengthS = Math.max(0.001, ...file.tracks.map(({ durationS }) => durationS));
  const share = Math.min(1, Math.max(0, (untilS ?? lengthS) - fromS) / lengthS);
  return share * (await stat(path)).size;
}

/** Tells whether two findings are of one sound at one time. */
function isSame(one: LeakInterval, other: LeakInterval): boolean {
  return one.reference === other.reference && one.startS < other.endS && other.startS < one.endS;
}

/** Each sound that nothing can be said of, once; one that was found is none of them. */
function distinct(untested: UntestedPair[], leaks: LeakInterval[]): UntestedPair[] {
  return untested.filter(
    ({ reference }, at) =>
      untested.findIndex((one) => one.reference === reference) === at &&
      leaks.every((leak) => leak.reference !== reference),
  );
}

/** What a proof says of the video beside its verdict. */
function factsOf({ tracks }: UploadRequest, made: MadeVideo): [string, string][] {
  const level = (value: number | null, unit: string) =>
    value === null ? 'nothing sounds' : `${value.toFixed(1).replace('-', '−')} ${unit}`;
  const parts = tracks.map(
    ({ track, gainDb, path }) =>
      `${path ? basename(path) : `track ${track + 1}`}${tracks.length > 1 ? ` at ${gainText(gainDb)} dB` : ''}`,
  );
  return [
    ['Piece', `${clockText(made.lengthS)} from ${clockText(made.fromS)} on`],
    ['Sound made of', listed(parts)],
    ['Loudness', level(made.lufs, 'LUFS')],
    ['True peak', `${level(made.truePeakDbtp, 'dBTP')}${made.isLimited ? ', peaks held down' : ''}`],
    ['Picture', made.hasPicture ? 'copied as it is' : 'none'],
  ];
}
