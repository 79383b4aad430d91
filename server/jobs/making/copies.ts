import { stat } from 'node:fs/promises';
import { basename, join as pathIn } from 'node:path';
import { leftOutLine } from '../../../core/deliver/leftOut.ts';
import { repairLines } from '../../../core/deliver/repair.ts';
import { titleOf } from '../../../core/deliver/usual.ts';
import { needRoom } from '../../deliver/needRoom.ts';
import { fileName } from '../../fileName.ts';
import { MediaError } from '../../media/mediaError.ts';
import type { Made, MakingContext, RequestFor } from './making.ts';

/** Copies a recording into another container. */
export async function makeRewrap(
  { runner }: MakingContext,
  path: string,
  { check, order, folder, signal, onProgress }: RequestFor<'rewrap'>,
): Promise<Made> {
  const file = `${fileName(titleOf(check))}.${order.container}`;
  await needRoom(folder, (await stat(path)).size);
  const { left } = await runner.run(
    'remux',
    { path, outPath: pathIn(folder, file) },
    { signal, onProgress: (share) => onProgress('Copying every packet', share) },
  );
  return { result: { kind: 'rewrap', file, left }, message: null };
}

/** Writes a damaged recording anew. */
export async function makeRepair(
  { runner, checks, checking }: MakingContext,
  path: string,
  { check, order, folder, signal, onProgress }: RequestFor<'repair'>,
): Promise<Made> {
  const file = `${fileName(titleOf(check))} repaired.mkv`;
  await needRoom(folder, (await stat(path)).size);
  const like = order.like === undefined ? null : checks.get(order.like);
  const likePath = like ? await checking.fileOf(like) : undefined;
  // What was uploaded lies under a name of its own.
  const named = (words: string) =>
    like && likePath ? words.replaceAll(basename(likePath), like.name) : words;
  const { tracks, left, notes } = await runner
    .run(
      'repair',
      { path, outPath: pathIn(folder, file), likePath },
      { signal, onProgress: (share) => onProgress('Saving what can be read', share) },
    )
    .catch((error: unknown) => {
      if (error instanceof MediaError) error.message = named(error.message);
      throw error;
    });
  const lines = [...repairLines(tracks), ...left.map(named).map(leftOutLine), ...notes.map(named)];
  return { result: { kind: 'repair', file, lines }, message: null };
}
