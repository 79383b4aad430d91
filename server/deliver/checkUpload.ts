import { rm } from 'node:fs/promises';
import type { Verification } from '../../core/check/verification.ts';
import type { RunOptions, TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import type { Reference } from '../media/references.ts';

/** An upload that was written, and the stretch of the recording that it was made of (s). */
export interface CheckedUpload {
  path: string;
  outPath: string;
  fromS: number;
  lengthS: number;
}

/**
 * Checks an upload as it will be heard, for every sound that must not be in it. Tracks of the recording are looked for in step with it: the stretch
 * that the upload was made of is written beside it for as long as the check takes.
 * @param references with the tracks of the recording; all of them must not be in the upload
 */
export async function checkUpload(
  runner: TaskRunner,
  { path, outPath, fromS, lengthS }: CheckedUpload,
  references: Reference[],
  { onProgress = () => {}, signal }: RunOptions = {},
): Promise<Verification> {
  const written: string[] = [];
  try {
    const asked: Reference[] = [];
    for (const [at, reference] of references.entries()) {
      if (reference.track === null) asked.push({ ...reference, forbiddenIn: [0] });
      else {
        const beside = `${outPath}.${at + 1}.part`;
        written.push(beside);
        await runner.run(
          'writeStretch',
          { path, track: reference.track, fromS, lengthS, outPath: beside },
          { signal },
        );
        asked.push({ ...reference, track: null, path: beside, forbiddenIn: [0], isInStep: true });
      }
      onProgress((0.3 * (at + 1)) / references.length);
    }
    return await verifyRecording(runner, outPath, asked, {
      onProgress: (share) => onProgress(0.3 + 0.7 * share),
      signal,
    });
  } finally {
    await Promise.all(written.map((one) => rm(one, { force: true })));
  }
}
