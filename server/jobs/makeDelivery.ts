import { stat } from 'node:fs/promises';
import { basename, join as pathIn } from 'node:path';
import { restrictedFor, soundsOf } from '../../core/check/plan.ts';
import type { Check } from '../../core/check/records.ts';
import type { DeliveryOrder, DeliveryResult, MadeUpload, UploadOrder } from '../../core/deliver/records.ts';
import { repairWords } from '../../core/deliver/repair.ts';
import { titleOf } from '../../core/deliver/usual.ts';
import { dayOf } from '../../core/setup/day.ts';
import { allSources, checkSources, type Forbidden, type SourceFindings } from '../deliver/checkSources.ts';
import { joinRecordings } from '../deliver/join.ts';
import { makeHandoff } from '../deliver/makeHandoff.ts';
import { makeUpload } from '../deliver/makeUpload.ts';
import { needRoom } from '../deliver/needRoom.ts';
import { rescueTrack } from '../deliver/rescue.ts';
import type { UploadTrack } from '../deliver/uploadAudio.ts';
import { fileName } from '../fileName.ts';
import { HttpError } from '../httpError.ts';
import { plannedReferences } from '../media/plannedReferences.ts';
import type { Reference } from '../media/references.ts';
import type { CheckStore } from '../store/checks.ts';
import type { DeliveryStore } from '../store/deliveries.ts';
import type { MarkStore } from '../store/marks.ts';
import type { Checks } from './checks.ts';
import type { RunOptions, TaskRunner } from './runner.ts';

/** What making needs from the rest of the server. */
export interface MakingContext {
  dataDir: string;
  mediaDir: string | null;
  checks: CheckStore;
  checking: Pick<Checks, 'fileOf'>;
  deliveries: DeliveryStore;
  marks: MarkStore;
  runner: TaskRunner;
}

/** What is to be made of a recording, and where. */
interface DeliveryRequest<Order extends DeliveryOrder = DeliveryOrder> {
  check: Check;
  order: Order;
  folder: string;
  signal: AbortSignal;
  onProgress: (phase: string, share: number) => void;
}
type Request<Kind extends DeliveryOrder['kind']> = DeliveryRequest<Extract<DeliveryOrder, { kind: Kind }>>;

/** What was made, and what there is to say of it. */
export interface Made {
  result: DeliveryResult;
  message: string | null;
}

/** Makes what was ordered of a recording, into its folder. @throws {MediaError} and others, as its parts do */
export async function makeDelivery(context: MakingContext, request: DeliveryRequest): Promise<Made> {
  const { check, order } = request;
  const path = await context.checking.fileOf(check);
  const { size } = await stat(path);
  if (size !== check.bytes)
    throw new HttpError(
      409,
      'changed',
      'The recording has changed since Northfen read it. Open it and read it again; then make this.',
    );
  if (order.kind === 'files') return makeFiles(context, path, { ...request, order });
  if (order.kind === 'rescue') return makeRescue(context, path, { ...request, order });
  if (order.kind === 'join') return makeJoin(context, path, { ...request, order });
  if (order.kind === 'rewrap') return makeRewrap(context, path, { ...request, order });
  if (order.kind === 'repair') return makeRepair(context, path, { ...request, order });
  const roles = check.inspected?.proposals.map(({ role }) => role) ?? [];
  const suggestions = await context.runner.run(
    'suggestMarks',
    { path, roles },
    { signal: request.signal, onProgress: (share) => request.onProgress('Listening to every track', share) },
  );
  return { result: { kind: 'marks', suggestions }, message: null };
}

async function makeFiles(
  context: MakingContext,
  path: string,
  { check, order: { upload, handoff }, folder, signal, onProgress }: Request<'files'>,
): Promise<Made> {
  const forbidden = await forbiddenIn(context, check, path);
  const today = dayOf(new Date());
  const videos = upload?.pieces.length ?? 0;
  const steps = 1 + videos + (handoff ? 1 : 0);
  const phase = (name: string, done: number) => (share: number) => onProgress(name, (done + share) / steps);
  const uploads: MadeUpload[] = [];
  const sources = upload
    ? await sourcesOf(
        context,
        { path, tracks: upload.tracks, forbidden },
        {
          signal,
          onProgress: phase('Checking what it is made of', 0),
        },
      )
    : allSources([]);
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
        sources,
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
  const handed = handoff
    ? await makeHandoff(
        context.runner,
        {
          path,
          name: check.name,
          folder: videos > 0 ? pathIn(folder, 'editor') : folder,
          format: handoff,
          forbidden,
          marks: context.marks.list(check.id),
          today,
        },
        { signal, onProgress: phase('Tracks and timeline', 1 + videos) },
      )
    : null;
  const refused = uploads.filter(({ file }) => file === null);
  return {
    result: { kind: 'files', uploads, handoff: handed },
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

/** What must not be in the tracks that an upload is made of; of a rescued one, what was left in it. */
async function sourcesOf(
  context: MakingContext,
  { path, tracks, forbidden }: { path: string; tracks: UploadOrder['tracks']; forbidden: Forbidden },
  options: RunOptions,
): Promise<SourceFindings> {
  const plain = tracks.flatMap(({ track, rescueId }) => (rescueId === null ? [track] : []));
  const found = [await checkSources(context.runner, path, plain, forbidden, options)];
  for (const { track, rescueId } of tracks) {
    const result = rescueId === null ? null : context.deliveries.get(rescueId).result;
    if (result?.kind !== 'rescue') continue;
    // What was taken out was looked for once more; all else is as it is in the track itself.
    const others = forbidden.sounds.filter(({ name }) => name !== result.sound);
    const known = await checkSources(
      context.runner,
      path,
      [track],
      { sounds: others },
      { signal: options.signal },
    );
    found.push({ ...known, leaks: [...known.leaks, ...result.rescue.leaks] });
  }
  return allSources(found);
}

/** The track of the recording, or what a rescue made of it. */
function ingredient(
  { deliveries }: MakingContext,
  checkId: string,
  { track, rescueId, gainDb }: UploadOrder['tracks'][number],
): UploadTrack {
  if (rescueId === null) return { track, gainDb };
  const { result, folder, checkId: of } = deliveries.get(rescueId);
  if (of !== checkId || result?.kind !== 'rescue')
    throw new HttpError(422, 'no-rescue', 'The rescued track is not there any more. Choose another one.');
  return { track: 0, gainDb, path: pathIn(folder, result.file) };
}

async function makeRescue(
  context: MakingContext,
  path: string,
  { check, order, folder, signal, onProgress }: Request<'rescue'>,
): Promise<Made> {
  const { track, sound } = order;
  const planned = check.plan ? soundsOf(check.plan) : [];
  const chosen = planned.find((one) =>
    sound.track === null ? one.place !== null && one.name === sound.file : one.track === sound.track,
  );
  const [reference] = chosen ? await plannedReferences([{ ...chosen, forbiddenIn: [track] }], context) : [];
  if (!reference)
    throw new HttpError(
      422,
      'no-sound',
      'There is no such sound. Add it under “Other sounds to look for”, check, and try again.',
    );
  const name = fileName(check.inspected?.tracks[track]?.name || `Track ${track + 1}`);
  const file = `${name} without ${fileName(reference.name)}.wav`;
  const takenFile = `What was taken out of ${name}.wav`;
  const rescue = await rescueTrack(
    context.runner,
    {
      path,
      track,
      reference: { ...reference, path: reference.track === null ? reference.path : null },
      outPath: pathIn(folder, file),
      takenPath: pathIn(folder, takenFile),
    },
    { signal, onProgress: (share) => onProgress(`Taking ${reference.name} out`, share) },
  );
  return {
    result: { kind: 'rescue', track, sound: reference.name, file, takenFile, rescue },
    message:
      rescue.intervals.length === 0 ? `${reference.name} was not found there; the track is as it was.` : null,
  };
}

async function makeJoin(
  { runner, checks, checking }: MakingContext,
  path: string,
  { check, order, folder, signal, onProgress }: Request<'join'>,
): Promise<Made> {
  const others = await Promise.all(
    order.others.map(async (id) => {
      const other = checks.get(id);
      return { path: await checking.fileOf(other), name: other.name };
    }),
  );
  const file = `${fileName(titleOf(check))} joined.mkv`;
  const join = await joinRecordings(
    runner,
    { path, track: order.track, others, outPath: pathIn(folder, file) },
    {
      signal,
      onProgress: (share) => onProgress('Finding them in its sound, and laying them in place', share),
    },
  );
  return { result: { kind: 'join', file, join }, message: null };
}

async function makeRewrap(
  { runner }: MakingContext,
  path: string,
  { check, order, folder, signal, onProgress }: Request<'rewrap'>,
): Promise<Made> {
  const file = `${fileName(titleOf(check))}.${order.container}`;
  await needRoom(pathIn(folder, file), path, { copies: 1 });
  const { left } = await runner.run(
    'remux',
    { path, outPath: pathIn(folder, file) },
    { signal, onProgress: (share) => onProgress('Copying every packet', share) },
  );
  return { result: { kind: 'rewrap', file, left }, message: null };
}

async function makeRepair(
  { runner }: MakingContext,
  path: string,
  { check, folder, signal, onProgress }: Request<'repair'>,
): Promise<Made> {
  const file = `${fileName(titleOf(check))} repaired.mkv`;
  await needRoom(pathIn(folder, file), path, { copies: 1 });
  const { tracks, left } = await runner.run(
    'repair',
    { path, outPath: pathIn(folder, file) },
    { signal, onProgress: (share) => onProgress('Saving what can be read', share) },
  );
  const lines = [...tracks.map(repairWords), ...left.map((one) => `lost: ${one}`)];
  return { result: { kind: 'repair', file, lines }, message: null };
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
