import { join as pathIn } from 'node:path';
import { restrictedFor } from '../../../core/check/plan.ts';
import type { Check } from '../../../core/check/records.ts';
import type { Delivery, UploadOrder } from '../../../core/deliver/records.ts';
import { dayOf } from '../../../core/setup/day.ts';
import { checkTracks, type Forbidden } from '../../deliver/checkTracks.ts';
import { makeInOneGo, type UploadPart } from '../../deliver/inOneGo.ts';
import { handedTracks } from '../../deliver/makeHandoff.ts';
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
  const steps = 1 + (upload?.pieces.length ?? 0) + (handoff ? 1 : 0);
  const parts = (upload?.tracks ?? []).map((one) => partOf(context, check.id, one));
  const handed = handoff ? handedTracks(check.inspected?.tracks.length ?? 0, forbidden) : [];
  // Each track is looked through once, for whatever is made of it.
  const findings = await checkTracks(
    context.runner,
    path,
    [...new Set([...parts.map(({ source }) => source.track), ...handed])],
    forbidden.sounds,
    await knownOf(context, check, path, forbidden.sounds),
    { signal, onProgress: (share) => onProgress('Checking the tracks', share / steps) },
  );
  const { uploads, handoff: written } = await makeInOneGo(
    context.runner,
    {
      ...{ path, folder, forbidden, findings, name: check.name },
      videos: upload && { order: upload, parts },
      handoff: handoff && { tracks: handed, format: handoff },
      marks: context.marks.list(check.id),
      today: dayOf(new Date()),
    },
    (phase, share) => onProgress(phase, (1 + share * (steps - 1)) / steps),
    { signal },
  );
  const refused = uploads.filter(({ file }) => file === null);
  return {
    result: { kind: 'files', uploads, handoff: written },
    message:
      refused.length === 0
        ? null
        : `Not written, because ${refused.length === 1 ? 'it is' : 'they are'} ${[...new Set(refused.map(({ verdict }) => verdict))].join(' or ')}: ${refused.map(({ piece }) => piece).join(', ')}.`,
  };
}

/** A track of the recording, or what a rescue made of it; and what is known of it. */
function partOf(
  { deliveries }: MakingContext,
  checkId: string,
  { track, rescueId, gainDb }: UploadOrder['tracks'][number],
): UploadPart {
  if (rescueId === null) return { track: { track, gainDb }, source: { track, rescued: null } };
  const { folder, result } = rescueOf(deliveries.get(rescueId), checkId);
  return {
    track: { track: 0, gainDb, path: pathIn(folder, result.file) },
    source: { track, rescued: { sound: result.sound, leaks: result.rescue.leaks } },
  };
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
