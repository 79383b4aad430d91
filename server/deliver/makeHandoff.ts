import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { NOTHING_TO_COMPARE, verdictOf } from '../../core/check/verification.ts';
import type { MadeFindings, MadeHandoff } from '../../core/deliver/records.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import { AudioFile } from '../media/audioFile.ts';
import type { Forbidden } from './checkSources.ts';
import { extractAll } from './extractAll.ts';
import { type HandoffRequest, refuseExisting, stretchesOf, TRACKS_FOLDER, writeHandoff } from './handoff.ts';

/** A handoff for which the recording is checked first. */
export interface CheckedHandoffRequest extends Omit<HandoffRequest, 'references' | 'found' | 'extracted'> {
  format?: 'wav' | 'flac';
  forbidden: Forbidden;
}

/**
 * Looks in every track for what must not go out, and writes what an editor needs of the recording.
 * @throws {MediaError} where the folder holds a handoff already, there is no room, or a track does not decode
 */
export async function makeHandoff(
  runner: TaskRunner,
  { forbidden, format, ...request }: CheckedHandoffRequest,
  { onProgress = () => {}, signal }: RunOptions = {},
): Promise<MadeHandoff & MadeFindings> {
  const { path, folder } = request;
  const file = await AudioFile.open(path, { allowCut: true });
  const { tracks } = file;
  file.close();
  await mkdir(folder, { recursive: true });
  await refuseExisting(folder, request.name);
  // What carries nothing but such a sound is off anyway; all others are looked at.
  const others = tracks
    .map(({ index }) => index)
    .filter((at) => forbidden.sounds.every(({ track }) => track !== at));
  const references =
    others.length > 0 ? forbidden.sounds.map((sound) => ({ ...sound, forbiddenIn: others })) : [];
  const cannotBe = forbidden.unknown.flatMap((reference) =>
    others.map((track) => ({ reference, track: track + 1, reason: NOTHING_TO_COMPARE })),
  );
  const { leaks, untested: silent } = await verifyRecording(runner, path, references, {
    onProgress: (share) => onProgress(0.5 * share),
    signal,
  });
  const untested = [...silent, ...cannotBe];
  const isAsked = references.length + untested.length > 0;
  const found: MadeFindings = { verdict: isAsked ? verdictOf(leaks, untested) : null, leaks, untested };
  const extracted = await extractAll(
    runner,
    path,
    join(folder, TRACKS_FOLDER),
    {
      format,
      marks: stretchesOf({ marks: request.marks, found }).map(({ name, fromS }) => ({ atS: fromS, name })),
    },
    { onProgress: (share) => onProgress(0.5 + 0.5 * share), signal },
  );
  const written = await writeHandoff({ ...request, extracted, references: forbidden.sounds, found });
  return { ...written, ...found };
}
