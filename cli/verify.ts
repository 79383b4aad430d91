import { basename, dirname, resolve } from 'node:path';
import { reachOf } from '../core/reach/reach.ts';
import { forbiddenUses } from '../core/setup/clearance.ts';
import type { Setup } from '../core/setup/schema.ts';
import { tracksOf } from '../core/sounding/sounding.ts';
import { AudioFile } from '../server/media/audioFile.ts';
import { type Reference, type Verification, verifyRecording } from '../server/media/verifyRecording.ts';
import { clock, figure, printJson, printLines } from './print.ts';
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

/** Checks a recording for sounds that must not be in it. */
export async function verify(path: string, options: VerifyOptions): Promise<Verification['verdict']> {
  const file = await AudioFile.open(path, { allowCut: true });
  const names = file.tracks.map(({ name }) => ({ name }));
  file.close();
  const references = await referencesOf(names, options);
  if (references.length === 0)
    throw new Error(
      'nothing is said that must not be in it. Name music files (--reference), tracks of the file (--forbid), or a setup whose sources are not cleared for everything (--setup).',
    );
  const found = await verifyRecording(path, references);
  if (options.json) printJson(found);
  else
    printLines([
      `${basename(path)}: ${found.verdict}`,
      ...found.leaks.map(
        (one) =>
          `  ${one.reference} is in track ${one.track} from ${clock(one.startS)} to ${clock(one.endS)}, at ${figure(one.levelDb, 'dB')}`,
      ),
      ...found.untested.map(
        (one) => `  ${one.reference} in track ${one.track}: nothing can be said, since ${one.reason}.`,
      ),
    ]);
  return found.verdict;
}

async function referencesOf(names: { name: string | null }[], options: VerifyOptions): Promise<Reference[]> {
  const forbidden = (options.forbid ?? []).map((track) => track - 1);
  const all = names.map((_, track) => track);
  const given = options.in?.map((track) => track - 1) ?? all.filter((track) => !forbidden.includes(track));
  const fromSetup = options.setup ? await fromSetupFile(options.setup, names, options) : [];
  return [
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
    ...fromSetup,
  ].filter(({ forbiddenIn }) => forbiddenIn.length > 0);
}

/** The sources of a setup that are not cleared for some track, by their recordings and by tracks that carry them alone. */
async function fromSetupFile(
  path: string,
  names: { name: string | null }[],
  options: VerifyOptions,
): Promise<Reference[]> {
  const setup = await loadSetup(path);
  const tracks = tracksOf(setup, names);
  const media = await findMedia(setup, dirname(resolve(path)), { anywhere: options.mediaAnywhere });
  const references: Reference[] = [];
  for (const source of setup.sources) {
    const forbiddenIn = tracks.flatMap((track, at) => {
      if (!track || (options.in && !options.in.includes(at + 1))) return [];
      const uses = forbiddenUses(source.clearance, track, today()).filter((use) => use !== 'edit');
      return uses.length > 0 ? [at] : [];
    });
    const alone = tracks.findIndex(
      (track, at) => track && !forbiddenIn.includes(at) && carriesAlone(setup, source.id, track.id),
    );
    if (alone >= 0) references.push({ name: source.name, track: alone, path: null, forbiddenIn });
    else if (media[source.id])
      references.push({ name: source.name, track: null, path: media[source.id], forbiddenIn });
  }
  return references;
}

function carriesAlone(setup: Setup, source: string, track: string): boolean {
  const reach = reachOf(setup);
  return setup.sources.every(({ id }) => (reach.onTrack(id, track) !== null) === (id === source));
}
