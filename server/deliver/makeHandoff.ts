import { mkdir } from 'node:fs/promises';
import { NOTHING_TO_COMPARE, verdictOf } from '../../core/check/verification.ts';
import type { MadeFindings, MadeHandoff } from '../../core/deliver/records.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import { AudioFile } from '../media/audioFile.ts';
import type { HandoffRequest } from './handoff.ts';
import type { Forbidden } from './makeUpload.ts';
import { needRoom } from './needRoom.ts';

/** A handoff for which the recording is checked first. */
export interface CheckedHandoffRequest extends Omit<HandoffRequest, 'references' | 'found'> {
  forbidden: Forbidden;
}

/**
 * Looks in every track for what must not go out, and writes what an editor needs of the recording.
 * @throws {MediaError} as `handOff` does, or where there is no room
 */
export async function makeHandoff(
  runner: TaskRunner,
  { forbidden, ...request }: CheckedHandoffRequest,
  { onProgress = () => {}, signal }: RunOptions = {},
): Promise<MadeHandoff & MadeFindings> {
  const { path, folder } = request;
  const file = await AudioFile.open(path, { allowCut: true });
  const { tracks } = file;
  file.close();
  await mkdir(folder, { recursive: true });
  await needRoom(`${folder}/tracks`, path, {
    soundTracks: tracks.length,
    lengthS: Math.max(...tracks.map(({ durationS }) => durationS)),
  });
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
  const written = await runner.run(
    'handOff',
    { ...request, references: forbidden.sounds, found },
    { onProgress: (share) => onProgress(0.5 + 0.5 * share), signal },
  );
  return { ...written, ...found };
}
