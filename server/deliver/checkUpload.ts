import type { Verification } from '../../core/check/verification.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import type { Reference } from '../media/references.ts';

/** An upload that was written, and where the stretch of the recording begins that it was made of (s). */
export interface CheckedUpload {
  path: string;
  outPath: string;
  fromS: number;
}

/**
 * Checks an upload as it will be heard, for every sound that must not be in it. Tracks of the recording are looked for in step with it.
 * @param references with the tracks of the recording; all of them must not be in the upload
 */
export function checkUpload(
  runner: TaskRunner,
  { path, outPath, fromS }: CheckedUpload,
  references: Reference[],
  options: RunOptions = {},
): Promise<Verification> {
  const asked = references.map((reference): Reference => {
    const { track } = reference;
    if (track === null) return { ...reference, forbiddenIn: [0] };
    return { ...reference, track: null, path, piece: { track, fromS }, forbiddenIn: [0] };
  });
  return verifyRecording(runner, outPath, asked, options);
}
