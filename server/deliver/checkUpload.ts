import { rm } from 'node:fs/promises';
import type { Stereo } from '../../core/audio/planes.ts';
import type { Verification } from '../../core/check/verification.ts';
import { toMono } from '../../core/signal/mono.ts';
import type { TaskRunner } from '../jobs/runner.ts';
import { verifyRecording } from '../jobs/verify.ts';
import { AudioFile } from '../media/audioFile.ts';
import { pass } from '../media/pass.ts';
import type { Reference } from '../media/references.ts';
import { STEM_RATE, Stem } from '../media/stem.ts';
import { TakeWriter } from '../media/takeWriter.ts';

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
  onProgress: (share: number) => void = () => {},
): Promise<Verification> {
  const written: string[] = [];
  try {
    const asked: Reference[] = [];
    for (const [at, reference] of references.entries()) {
      if (reference.track === null) asked.push({ ...reference, forbiddenIn: [0] });
      else {
        const beside = `${outPath}.${at + 1}.part`;
        written.push(beside);
        await writeStretch({ path, track: reference.track, fromS, lengthS }, beside);
        asked.push({ ...reference, track: null, path: beside, forbiddenIn: [0] });
      }
      onProgress((0.3 * (at + 1)) / references.length);
    }
    return await verifyRecording(runner, outPath, asked, {
      onProgress: (share) => onProgress(0.3 + 0.7 * share),
    });
  } finally {
    await Promise.all(written.map((one) => rm(one, { force: true })));
  }
}

async function writeStretch(
  { path, track, fromS, lengthS }: { path: string; track: number; fromS: number; lengthS: number },
  outPath: string,
): Promise<void> {
  const file = await AudioFile.open(path, { allowCut: true });
  const stem = Stem.of(file, track, { fromS });
  try {
    await TakeWriter.write(
      outPath,
      [{ name: 'Alone', codec: 'flac', layout: 'mono', channels: undefined }],
      { container: 'flac' },
      (writer) =>
        pass(
          [stem],
          ([[left, right]]: Stereo[], frames) =>
            writer.add([[toMono([left.subarray(0, frames), right.subarray(0, frames)])]], frames),
          { mostFrames: Math.round(lengthS * STEM_RATE) },
        ),
    );
  } finally {
    await stem.close();
    file.close();
  }
}
