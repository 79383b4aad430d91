import { basename, join as pathIn } from 'node:path';
import { restrictedFor } from '../../../core/check/plan.ts';
import type { Check } from '../../../core/check/records.ts';
import type { Delivery, MadeUpload, UploadOrder } from '../../../core/deliver/records.ts';
import { dayOf } from '../../../core/setup/day.ts';
import { checkTracks, type Forbidden } from '../../deliver/checkTracks.ts';
import { handedTracks, makeHandoff } from '../../deliver/makeHandoff.ts';
import { makeUpload } from '../../deliver/makeUpload.ts';
import { sourceFindings, type UploadSource } from '../../deliver/sources.ts';
import type { UploadTrack } from '../../deliver/uploadAudio.ts';
import { fileName } from '../../fileName.ts';
import { HttpError } from '../../httpError.ts';
import { plannedReferences } from '../../media/plannedReferences.ts';
import type { Reference } from '../../media/references.ts';
import { knownOf } from './known.ts';
import type { Made, MakingContext, RequestFor } from './making.ts';

/** Makes videos, and what the editor gets. */
export async function makeFiles(
  context: MakingContext,
  path: string,
  { check, order: { upload, handoff }, folder, signal, onProgress }: RequestFor<'files'>,
): Promise<Made> {
  const forbidden = await forbiddenIn(context, check, path);
  const today = dayOf(new Date());
  const videos = upload?.pieces.length ?? 0;
  const steps = 1 + videos + (handoff ? 1 : 0);
  const phase = (name: string, done: number) => (share: number) => onProgress(name, (done + share) / steps);
  const used = (upload?.tracks ?? []).map((one) => sourceOf(context, check.id, one));
  const handed = handoff ? handedTracks(check.inspected?.tracks.length ?? 0, forbidden) : [];
  // Each track is looked through once, for whatever is made of it.
  const findings = await checkTracks(
    context.runner,
    path,
    [...new Set([...used.map(({ track }) => track), ...handed])],
    forbidden.sounds,
    await knownOf(context, check, path, forbidden.sounds),
    { signal, onProgress: phase('Checking the tracks', 0) },
  );
  const sources = sourceFindings(used, forbidden.sounds, findings);
  const uploads: MadeUpload[] = [];
  for (const [at, { name, fromS, untilS }] of (upload?.pieces ?? []).entries()) {
    const order = upload as UploadOrder;
    const file = `${numbered(fileName(name), uploads)}.${order.container}`;
    const { isWritten, proof, ...made } = await makeUpload(
      context.runner,
      {
        upload: {
          path,
          outPath: pathIn(folder, file),
          tracks: order.tracks.map((one) => ingredient(context, check.id, one)),
          targetLufs: order.targetLufs,
          ceilingDbtp: order.ceilingDbtp,
          fromS: fromS > 0 ? fromS : undefined,
          untilS: untilS ?? undefined,
          fadeS: order.fadeS,
        },
        forbidden,
        sources: async () => sources,
        evenIf: order.evenIf,
        recording: check.name,
        today,
      },
      {
        signal,
        onProgress: phase(videos > 1 ? `Video ${at + 1} of ${videos}: ${name}` : 'The video', 1 + at),
      },
    );
    uploads.push({
      ...made,
      piece: name,
      file: isWritten ? file : null,
      proof: proof && `${basename(file)}.proof.html`,
    });
  }
  const written = handoff
    ? await makeHandoff(
        context.runner,
        handed,
        {
          path,
          name: check.name,
          folder: videos > 0 ? pathIn(folder, 'editor') : folder,
          format: handoff,
          forbidden,
          findings,
          marks: context.marks.list(check.id),
          today,
        },
        { signal, onProgress: phase('Tracks and timeline', 1 + videos) },
      )
    : null;
  const refused = uploads.filter(({ file }) => file === null);
  return {
    result: { kind: 'files', uploads, handoff: written },
    message:
      refused.length === 0
        ? null
        : `Not written, because ${refused.length === 1 ? 'it is' : 'they are'} ${[...new Set(refused.map(({ verdict }) => verdict))].join(' or ')}: ${refused.map(({ piece }) => piece).join(', ')}.`,
  };
}

/** Two pieces of one name get different files. */
function numbered(name: string, made: MadeUpload[]): string {
  const isTaken = (one: string) =>
    made.some(
      ({ piece, file }) =>
        (file ?? fileName(piece)).replace(/\.[^.]+$/, '').toLowerCase() === one.toLowerCase(),
    );
  for (let number = 1; ; number++) {
    const tried = number === 1 ? name : `${name} ${number}`;
    if (!isTaken(tried)) return tried;
  }
}

/** What an upload is made of, with what was taken out of it before. */
function sourceOf(
  { deliveries }: MakingContext,
  checkId: string,
  { track, rescueId }: UploadOrder['tracks'][number],
): UploadSource {
  if (rescueId === null) return { track, rescued: null };
  const { sound, rescue } = rescueOf(deliveries.get(rescueId), checkId).result;
  return { track, rescued: { sound, leaks: rescue.leaks } };
}

/** The track of the recording, or what a rescue made of it. */
function ingredient(
  { deliveries }: MakingContext,
  checkId: string,
  { track, rescueId, gainDb }: UploadOrder['tracks'][number],
): UploadTrack {
  if (rescueId === null) return { track, gainDb };
  const { folder, result } = rescueOf(deliveries.get(rescueId), checkId);
  return { track: 0, gainDb, path: pathIn(folder, result.file) };
}

/** @throws {HttpError} 422 where it is no rescue of this recording that has come to its end */
function rescueOf({ result, folder, checkId }: Delivery, of: string) {
  if (checkId !== of || result?.kind !== 'rescue')
    throw new HttpError(422, 'no-rescue', 'The rescued track is not there any more. Choose another one.');
  return { folder, result };
}

/** What must not be in an upload of a recording, by its plan. */
async function forbiddenIn(context: MakingContext, { plan }: Check, path: string): Promise<Forbidden> {
  if (!plan) return { sounds: [], unknown: [] };
  const sounds: Reference[] = await plannedReferences(restrictedFor('upload', plan, []), context);
  return {
    sounds: sounds.map((sound) => ({ ...sound, path: sound.path === path ? null : sound.path })),
    unknown: plan.unknown.flatMap(({ name, notFor }) => (notFor.includes('upload') ? [name] : [])),
  };
}
