import { basename, resolve } from 'node:path';
import { roleByName } from '../core/check/proposals.ts';
import { limitWords, type Verdict } from '../core/check/verification.ts';
import { mixLevels } from '../core/deliver/mixLevels.ts';
import { gainText, listed } from '../core/words/figures.ts';
import { checkTracks, NOTHING_KNOWN } from '../server/deliver/checkTracks.ts';
import { makeUpload, type UploadOutcome } from '../server/deliver/makeUpload.ts';
import { sourceFindings } from '../server/deliver/sources.ts';
import type { TaskRunner } from '../server/jobs/runner.ts';
import type { Reference } from '../server/media/references.ts';
import { restrictedSounds, trackNames, uploadTracksOf } from './asked.ts';
import { cutAmong, cutLines } from './cut.ts';
import { type EvenIf, evenIfLine, verdictsAllowed } from './evenIf.ts';
import { clock, figure, printJson, printLines } from './print.ts';
import { working } from './runner.ts';
import { today } from './setupFile.ts';

/** What is asked of an upload. Tracks count from one, times are seconds. */
export interface UploadOptions extends EvenIf {
  out: string;
  track?: number[];
  /** Mixes tracks as they were recorded, instead of bringing them to the levels that Balance aims for. */
  asRecorded?: boolean;
  setup?: string;
  lufs: number;
  peak: number;
  from?: number;
  to?: number;
  fade?: number;
  forbid?: number[];
  reference?: string[];
  mediaAnywhere?: boolean;
  json?: boolean;
}

/** Writes a video for an upload, checks it, and gives it its name where it may go out. @returns what the check says */
export async function upload(path: string, options: UploadOptions): Promise<Verdict | null> {
  const names = await trackNames(path);
  const tracks = await chosenTracks(names, options);
  const { sounds, unknown } = await restrictedSounds(names, options);
  const references = sounds.map((sound) => ({ ...sound, forbiddenIn: [0] }));
  const forbidden = { sounds: references, unknown };
  const wanted = {
    upload: {
      path: resolve(path),
      outPath: resolve(options.out),
      targetLufs: options.lufs,
      ceilingDbtp: options.peak,
      fromS: options.from,
      untilS: options.to,
      fadeS: options.fade,
    },
    forbidden,
    evenIf: verdictsAllowed(options),
    recording: basename(path),
    today: today(),
  };
  const { levelsDb, ...made } = await working(`Video of ${basename(path)}`, async (runner, run) => {
    const levels = await levelsOf(runner, path, names, tracks, options, run.signal);
    const sources = async (signal: AbortSignal) =>
      sourceFindings(
        tracks.map((track) => ({ track, rescued: null })),
        references,
        await checkTracks(runner, resolve(path), tracks, references, NOTHING_KNOWN, { signal }),
      );
    const mixed = tracks.map((track, at) => ({ track, gainDb: levels[at] }));
    const upload = { ...wanted.upload, tracks: mixed };
    return { ...(await makeUpload(runner, { ...wanted, upload, sources }, run)), levelsDb: levels };
  });
  const { isWritten, ...report } = made;
  const cut = await cutAmong([path]);
  if (options.json)
    printJson({
      out: isWritten ? resolve(options.out) : null,
      from: basename(path),
      tracks: tracks.map((one) => one + 1),
      levelsDb,
      ...report,
      cut,
    });
  else {
    const parts = tracks.map((track, at) => `track ${track + 1} at ${gainText(levelsDb[at])} dB`);
    const mix = tracks.length > 1 ? [`Mixed from ${listed(parts)}.`] : [];
    printLines([...mix, ...wordsOf(options, made, references), ...cutLines(cut)]);
  }
  return made.verdict;
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

/** The levels of what is mixed (dB): as Balance aims for by what their names say that they carry, or as they were recorded. */
async function levelsOf(
  runner: TaskRunner,
  path: string,
  names: { name: string | null }[],
  tracks: number[],
  { asRecorded, from, to }: UploadOptions,
  signal?: AbortSignal,
): Promise<number[]> {
  if (asRecorded || tracks.length < 2) return tracks.map(() => 0);
  const measured = { path: resolve(path), tracks, fromS: from, untilS: to };
  const loudness = await runner.run('loudnessOfTracks', measured, { signal });
  return mixLevels(
    tracks.map((track, at) => ({
      role: roleByName(names[track].name) ?? 'unknown',
      lufs: loudness[at],
    })),
  );
}

function wordsOf(
  { out, lufs, peak, evenIfNotClean, evenIfNotTestable }: UploadOptions,
  made: UploadOutcome,
  references: Reference[],
): string[] {
  const { verdict, leaks, untested, isWritten } = made;
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
    `${isWritten ? out : 'Not written'}: ${clock(made.lengthS)} from ${clock(made.fromS)} on, ${figure(made.lufs, 'LUFS')}, true peak ${figure(made.truePeakDbtp, 'dBTP')}${made.isLimited ? ', peaks held down' : ''}.`,
    ...(made.truePeakDbtp !== null && made.truePeakDbtp > peak
      ? [
          `Its peaks are above the ${peak} dBTP that were asked for: coding brings them up again. Try a lower loudness.`,
        ]
      : []),
    ...(Math.abs((made.lufs ?? lufs) - lufs) > 0.5
      ? [`It stays quieter than the ${lufs} LUFS that were asked for: its peaks would have to be crushed.`]
      : []),
    check,
    ...(leaks.length > 0 ? [`In it: ${names(leaks)}.`] : []),
    ...untested.map(({ reference, reason }) => `${reference} could not be checked: ${reason}.`),
    ...(isWritten && (evenIfNotClean || evenIfNotTestable) && verdict !== 'clean' && verdict !== null
      ? [`It was written although it is ${verdict}, as you said.`]
      : []),
    ...(isWritten ? [] : [evenIfLine(verdict)]),
  ];
}
