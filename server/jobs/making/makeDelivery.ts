import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { madeOfCutWords } from '../../../core/check/recording.ts';
import { roleOf } from '../../../core/deliver/usual.ts';
import { HttpError } from '../../httpError.ts';
import { MediaError } from '../../media/mediaError.ts';
import { makeRepair, makeRewrap } from './copies.ts';
import { makeFiles } from './files.ts';
import type { DeliveryRequest, Made, MakingContext, RequestFor } from './making.ts';
import { makeJoin, makeRescue } from './tracks.ts';

/** Makes what was ordered of a recording, into its folder. @throws {MediaError} and others, as its parts do */
export async function makeDelivery(context: MakingContext, request: DeliveryRequest): Promise<Made> {
  const { check } = request;
  const path = await context.checking.fileOf(check);
  const { size } = await stat(path);
  if (size !== check.bytes)
    throw new HttpError(
      409,
      'changed',
      'The recording has changed since Northfen read it. Open it and read it again; then make this.',
    );
  const breakOff = request.order.kind === 'repair' ? null : check.inspected?.breakOff;
  const told = ({ result, message }: Made): Made => ({
    result,
    message: [message, breakOff && madeOfCutWords(breakOff)].filter(Boolean).join(' ') || null,
  });
  return make(context, path, request).then(told, (error: unknown) => {
    // What was uploaded lies under a name of its own.
    if (error instanceof MediaError) error.message = error.message.replaceAll(basename(path), check.name);
    throw error;
  });
}

async function make(context: MakingContext, path: string, request: DeliveryRequest): Promise<Made> {
  const { order } = request;
  switch (order.kind) {
    case 'files':
      return makeFiles(context, path, { ...request, order });
    case 'rescue':
      return makeRescue(context, path, { ...request, order });
    case 'join':
      return makeJoin(context, path, { ...request, order });
    case 'rewrap':
      return makeRewrap(context, path, { ...request, order });
    case 'repair':
      return makeRepair(context, path, { ...request, order });
    default:
      return suggestMarks(context, path, { ...request, order });
  }
}

async function suggestMarks(
  { runner }: MakingContext,
  path: string,
  { check, signal, onProgress }: RequestFor<'marks'>,
): Promise<Made> {
  const roles = (check.inspected?.tracks ?? []).map((_, track) => roleOf(check, track));
  const suggestions = await runner.run(
    'suggestMarks',
    { path, roles },
    { signal, onProgress: (share) => onProgress('Listening to every track', share) },
  );
  return { result: { kind: 'marks', suggestions }, message: null };
}
