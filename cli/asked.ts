import { dirname, resolve } from 'node:path';
import { type CheckPlan, planFromSetup, proposedPlan, referencesOf } from '../core/check/plan.ts';
import { roleByName } from '../core/check/proposals.ts';
import type { InspectedTracks } from '../core/check/recording.ts';
import { NOTHING_TO_COMPARE, type UntestedPair } from '../core/check/verification.ts';
import type { Setup } from '../core/setup/schema.ts';
import { carries, type Forbidden } from '../server/deliver/checkTracks.ts';
import { AudioFile } from '../server/media/audioFile.ts';
import { type Reference, withOwnNames } from '../server/media/references.ts';
import { type NamedRecording, namedRecordings } from './recordings.ts';
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

/** A sound that must not be published, wherever it is: a track that carries it (counted from zero), or a file. */
export type RestrictedSound = Omit<Reference, 'forbiddenIn'>;

/** What must not be published, and the names of what cannot be looked for. */
export interface Restricted {
  sounds: RestrictedSound[];
  unknown: string[];
}

/** The names of a recording's audio tracks. @throws {MediaError} where it cannot be opened */
export async function trackNames(path: string): Promise<{ name: string | null }[]> {
  const file = await AudioFile.open(path, { allowCut: true });
  file.close();
  return file.tracks.map(({ name }) => ({ name }));
}

/** The sounds that were named as files, and as folders with all that is in them. @throws where a folder holds none */
async function soundFiles(paths: string[] = []): Promise<NamedRecording[]> {
  const found: NamedRecording[] = [];
  for (const path of paths) found.push(...(await namedRecordings([path])));
  const all = found.map(({ path }) => path);
  return found.filter(({ path }, at) => all.indexOf(path) === at);
}

/** What is to be looked for in a recording, and what cannot be. */
export async function askedFor(names: { name: string | null }[], options: VerifyOptions): Promise<Asked> {
  const forbidden = (options.forbid ?? []).map((track) => track - 1);
  const all = names.map((_, track) => track);
  const given = options.in?.map((track) => track - 1) ?? all.filter((track) => !forbidden.includes(track));
  const fromSetup = options.setup ? await fromSetupFile(options.setup, names, options) : NOTHING;
  const files = await soundFiles(options.reference);
  const references = [
    ...files.map(({ name, path }) => ({ name, track: null, path, forbiddenIn: given })),
    ...forbidden.map((track) => ({
      name: nameOf(names, track),
      track,
      path: null,
      forbiddenIn: given.filter((one) => one !== track),
    })),
    ...fromSetup.references,
  ].filter(({ forbiddenIn }) => forbiddenIn.length > 0);
  return { references: withOwnNames(references), untested: fromSetup.untested };
}

/**
 * Says what must not be in an upload, whichever tracks it is made of: what is named, and what a setup does not allow; where nothing is said, the
 * tracks whose names say that they carry music or friends.
 */
export async function restrictedSounds(
  names: { name: string | null }[],
  options: Omit<VerifyOptions, 'in'>,
): Promise<Restricted> {
  const isSaid = options.setup || options.forbid || options.reference;
  const tracks = isSaid ? (options.forbid ?? []).map((track) => track - 1) : restrictedByName(names);
  const beyond = tracks.find((track) => names[track] === undefined);
  if (beyond !== undefined)
    throw new Error(`there is no audio track ${beyond + 1}; the file has ${names.length}.`);
  const fromSetup = options.setup ? await restrictedBy(options.setup, names, options) : NOTHING_RESTRICTED;
  return {
    sounds: withOwnNames([
      ...tracks.map((track) => ({ name: nameOf(names, track), track, path: null })),
      ...(await soundFiles(options.reference)).map(({ name, path }) => ({ name, track: null, path })),
      ...fromSetup.sounds,
    ]),
    unknown: fromSetup.unknown,
  };
}
const NOTHING_RESTRICTED: Restricted = { sounds: [], unknown: [] };

/** The tracks of a recording that a setup means for the upload (counted from zero). */
export async function uploadTracksOf(path: string, names: { name: string | null }[]): Promise<number[]> {
  const plan = planOf(await loadSetup(path), names);
  return plan.tracks.flatMap(({ goesTo }, track) => (goesTo.includes('upload') ? [track] : []));
}

/**
 * The plan of a recording of which a video is to be made: by its setup, else by what its tracks seem to carry; with what must not be published.
 */
export async function uploadPlanOf(
  { tracks, proposals }: InspectedTracks,
  { sounds, unknown }: Forbidden,
  { setup }: VerifyOptions,
): Promise<CheckPlan> {
  const plan = setup
    ? planOf(await loadSetup(setup), tracks)
    : proposedPlan(
        tracks.map(({ name }) => name),
        proposals,
      );
  const notFor: CheckPlan['unknown'][number]['notFor'] = ['upload'];
  return {
    ...plan,
    tracks: plan.tracks.map((one, at) => {
      const own = sounds.find((sound) => carries(sound, at));
      if (own) return { ...one, carries: own.name, notFor };
      const isNamedSo = sounds.some(({ name }) => name === one.carries);
      return { ...one, carries: isNamedSo ? '' : one.carries, notFor: [] };
    }),
    files: sounds.flatMap(({ name, path }) =>
      path === null ? [] : [{ name, place: { kind: 'media', path }, notFor }],
    ),
    unknown: unknown.map((name) => ({ name, notFor })),
  };
}

/** How a track is called; where others are called so too, with its number. */
function nameOf(names: { name: string | null }[], track: number): string {
  const name = names[track]?.name;
  if (!name) return `track ${track + 1}`;
  return names.filter((one) => one.name === name).length > 1 ? `${name} (track ${track + 1})` : name;
}

/** Tracks whose names say that they carry music or friends (counted from zero). */
function restrictedByName(names: { name: string | null }[]): number[] {
  return names.flatMap(({ name }, at) =>
    ['music', 'voice chat'].includes(roleByName(name) ?? '') ? [at] : [],
  );
}

function planOf(setup: Setup, names: { name: string | null }[]): CheckPlan {
  return planFromSetup(
    null,
    setup,
    names.map(({ name }) => name),
    today(),
  );
}

/** Finds the recording of a source of a setup, by where the setup says that it is. */
async function recordingsOf(
  path: string,
  setup: Setup,
  options: Pick<VerifyOptions, 'mediaAnywhere'>,
): Promise<(place: string) => string | undefined> {
  const media = await findMedia(setup, dirname(resolve(path)), { anywhere: options.mediaAnywhere });
  return (place) => {
    const source = setup.sources.find((one) => one.media?.path === place);
    return source && media[source.id];
  };
}

/** What a setup does not allow in an upload. */
async function restrictedBy(
  path: string,
  names: { name: string | null }[],
  options: Pick<VerifyOptions, 'mediaAnywhere'>,
): Promise<Restricted> {
  const setup = await loadSetup(path);
  const recordingAt = await recordingsOf(path, setup, options);
  const plan = planOf(setup, names);
  const isRestricted = ({ notFor }: Pick<CheckPlan['unknown'][number], 'notFor'>) =>
    notFor.includes('upload');
  const found: Restricted = {
    sounds: plan.tracks.flatMap((one, track) =>
      isRestricted(one) ? [{ name: one.carries || nameOf(names, track), track, path: null }] : [],
    ),
    unknown: plan.unknown.filter(isRestricted).map(({ name }) => name),
  };
  for (const { name, place } of plan.files.filter(isRestricted)) {
    const file = recordingAt(place.path);
    if (file) found.sounds.push({ name, track: null, path: file });
    else found.unknown.push(name);
  }
  return found;
}

/** The sources of a setup that are not cleared for some track, by tracks that carry them alone and by their recordings. */
async function fromSetupFile(
  path: string,
  names: { name: string | null }[],
  options: VerifyOptions,
): Promise<Asked> {
  const setup = await loadSetup(path);
  const recordingAt = await recordingsOf(path, setup, options);
  const plan = planOf(setup, names);
  const isAsked = (track: number) => !options.in || options.in.includes(track + 1);
  const asked: Asked = { references: [], untested: [] };
  const cannotCompare = (reference: string, tracks: number[]) =>
    asked.untested.push(
      ...tracks.map((track) => ({ reference, track: track + 1, reason: NOTHING_TO_COMPARE })),
    );
  for (const { name, track, place, forbiddenIn: everywhere } of referencesOf(plan)) {
    const forbiddenIn = everywhere.filter(isAsked);
    const file = place === null ? undefined : recordingAt(place.path);
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
