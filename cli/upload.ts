import { rename, rm, writeFile } from 'node:fs/promises';
import { basename, extname, resolve } from 'node:path';
import {
  limitWords,
  NOTHING_TO_COMPARE,
  type UntestedPair,
  type Verdict,
  verdictOf,
} from '../core/check/verification.ts';
import { checkUpload } from '../server/deliver/checkUpload.ts';
import { type Upload, writeUpload } from '../server/deliver/writeUpload.ts';
import { AudioFile } from '../server/media/audioFile.ts';
import { refuseOver } from '../server/media/keepOriginals.ts';
import type { Reference } from '../server/media/references.ts';
import { restrictedSounds, uploadTracksOf } from './asked.ts';
import { clock, figure, printJson, printLines } from './print.ts';
import { withRunner } from './runner.ts';

/** What is asked of an upload. Tracks count from one, times are seconds. */
export interface UploadOptions {
  out: string;
  track?: number[];
  setup?: string;
  lufs: number;
  peak: number;
  from?: number;
  to?: number;
  fade?: number;
  forbid?: number[];
  reference?: string[];
  evenIfNotClean?: boolean;
  evenIfNotTestable?: boolean;
  mediaAnywhere?: boolean;
  json?: boolean;
}

/** What was found in an upload; without a verdict where nothing was to be looked for. */
interface Findings {
  verdict: Verdict | null;
  leaks: unknown[];
  untested: UntestedPair[];
}

/** Writes a video for an upload, checks it, and gives it its name where it may go out. @returns what the check says */
export async function upload(path: string, options: UploadOptions): Promise<Verdict | null> {
  const file = await AudioFile.open(path, { allowCut: true });
  const names = file.tracks.map(({ name }) => ({ name }));
  file.close();
  const tracks = await chosenTracks(names, options);
  const { sounds, unknown } = await restrictedSounds(names, options);
  // Whatever it is made of: a track that is chosen may be what must not be in it.
  const references = sounds.map((sound) => ({ ...sound, forbiddenIn: [0] }));
  const untested = unknown.map((reference) => ({ reference, track: 1, reason: NOTHING_TO_COMPARE }));
  const outPath = resolve(options.out);
  await refuseOver(outPath, [resolve(path), ...references.map((one) => one.path)]);
  // Its kind is told by the end of its name, also while nobody is to take it for done.
  const end = extname(outPath);
  const unchecked = `${outPath.slice(0, outPath.length - end.length)}.unchecked${end}`;
  try {
    const made = await writeUpload({
      path: resolve(path),
      outPath: unchecked,
      tracks: tracks.map((track) => ({ track, gainDb: 0 })),
      targetLufs: options.lufs,
      ceilingDbtp: options.peak,
      fromS: options.from,
      untilS: options.to,
      fadeS: options.fade,
    });
    const checked = { path: resolve(path), outPath: unchecked, fromS: made.fromS, lengthS: made.lengthS };
    const found = await withRunner(async (runner): Promise<Findings> => {
      if (references.length === 0 && untested.length === 0) return { verdict: null, leaks: [], untested };
      const result = await checkUpload(runner, checked, references);
      const all = [...result.untested, ...untested];
      return { verdict: verdictOf(result.leaks, all), leaks: result.leaks, untested: all };
    });
    const isAllowed =
      found.verdict === null ||
      found.verdict === 'clean' ||
      (found.verdict === 'not clean' ? options.evenIfNotClean : options.evenIfNotTestable);
    const proof = `${outPath}.proof.json`;
    const report = {
      out: isAllowed ? outPath : null,
      from: basename(path),
      tracks: tracks.map((one) => one + 1),
      ...made,
      ...found,
    };
    if (isAllowed) {
      await rename(unchecked, outPath);
      await writeFile(proof, `${JSON.stringify(report, null, 2)}\n`);
    }
    if (options.json) printJson({ ...report, proof: isAllowed ? proof : null });
    else printLines(wordsOf(options, made, found, Boolean(isAllowed), references));
    return found.verdict;
  } finally {
    await rm(unchecked, { force: true });
  }
}

async function chosenTracks(names: { name: string | null }[], options: UploadOptions): Promise<number[]> {
  const given = (options.track ?? []).map((track) => track - 1);
  const beyond = given.find((track) => track >= names.length);
  if (beyond !== undefined)
    throw new Error(`there is no audio track ${beyond + 1}; the file has ${names.length}.`);
  if (given.length > 0) return given;
  if (!options.setup)
    throw new Error('say which track it is to have (--track), or by which setup (--setup).');
  const tracks = await uploadTracksOf(options.setup, names);
  if (tracks.length > 0) return tracks.slice(0, 1);
  throw new Error(
    'no track of this setup is for the upload. Say which tracks to mix (--track, again and again).',
  );
}

function wordsOf(
  { out, lufs, peak, evenIfNotClean, evenIfNotTestable }: UploadOptions,
  made: Upload,
  { verdict, leaks, untested }: Findings,
  isAllowed: boolean,
  references: Reference[],
): string[] {
  const limits = limitWords({
    tracks: references.some(({ track }) => track !== null),
    files: references.some(({ path }) => path !== null),
  });
  const check =
    verdict === null
      ? 'Nothing was looked for: no track seems to carry music or friends. Say what must not be in it (--forbid, --reference, --setup).'
      : `Checked: ${verdict}. ${limits}`;
  const names = (list: { reference?: string }[]) => [...new Set(list.map((one) => one.reference))].join(', ');
  return [
    `${isAllowed ? out : 'Not written'}: ${clock(made.lengthS)} from ${clock(made.fromS)} on, ${figure(made.lufs, 'LUFS')}, true peak ${figure(made.truePeakDbtp, 'dBTP')}${made.isLimited ? ', peaks held down' : ''}.`,
    ...(made.truePeakDbtp !== null && made.truePeakDbtp > peak
      ? [
          `Its peaks are above the ${peak} dBTP that were asked for: coding brings them up again. Try a lower loudness.`,
        ]
      : []),
    ...(Math.abs((made.lufs ?? lufs) - lufs) > 0.5
      ? [`It stays quieter than the ${lufs} LUFS that were asked for: its peaks would have to be crushed.`]
      : []),
    check,
    ...(leaks.length > 0 ? [`In it: ${names(leaks as { reference: string }[])}.`] : []),
    ...untested.map(({ reference, reason }) => `${reference} could not be checked: ${reason}.`),
    ...(isAllowed && (evenIfNotClean || evenIfNotTestable) && verdict !== 'clean' && verdict !== null
      ? [`It was written although it is ${verdict}, as you said.`]
      : []),
    ...(isAllowed
      ? []
      : [
          `To have it all the same, say --even-if-${verdict === 'not clean' ? 'not-clean' : 'not-testable'}.`,
        ]),
  ];
}
