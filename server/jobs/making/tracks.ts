import { join as pathIn } from 'node:path';
import { soundsOf } from '../../../core/check/plan.ts';
import { madeOfCutWords } from '../../../core/check/recording.ts';
import { titleOf } from '../../../core/deliver/usual.ts';
import { joinRecordings } from '../../deliver/join.ts';
import { rescueTrack } from '../../deliver/rescue.ts';
import { fileName } from '../../fileName.ts';
import { HttpError } from '../../httpError.ts';
import { plannedReferences } from '../../media/plannedReferences.ts';
import type { Made, MakingContext, RequestFor } from './making.ts';

/** Takes a sound out of a track. */
export async function makeRescue(
  context: MakingContext,
  path: string,
  { check, order, folder, signal, onProgress }: RequestFor<'rescue'>,
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

/** Joins other recordings with this one. */
export async function makeJoin(
  { runner, checks, checking }: MakingContext,
  path: string,
  { check, order, folder, signal, onProgress }: RequestFor<'join'>,
): Promise<Made> {
  const others = await Promise.all(
    order.others.map(async (id) => {
      const other = checks.get(id);
      return { path: await checking.fileOf(other), name: other.name, breakOff: other.inspected?.breakOff };
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
  const cut = others.flatMap(({ name, breakOff }) => (breakOff ? [madeOfCutWords(breakOff, name)] : []));
  return { result: { kind: 'join', file, join }, message: cut.join(' ') || null };
}
