import type { Proposal } from '../../core/check/recording.ts';
import type { Suggestion } from '../../core/deliver/records.ts';
import { suggestMarks as fromCourses, STEP_S } from '../../core/marks/suggest.ts';
import { AudioFile } from '../media/audioFile.ts';
import { pass } from '../media/pass.ts';
import { STEM_RATE, Stem } from '../media/stem.ts';
import { UntilDamage } from '../media/untilDamage.ts';

/** A recording, and what each of its tracks carries. */
export interface SuggestRequest {
  path: string;
  roles: Proposal['role'][];
}

const STEP_FRAMES = STEP_S * STEM_RATE;

/**
 * Goes through all tracks of a recording and returns moments that may be worth a mark.
 * @throws {MediaError} when it does not decode
 */
export async function suggestMarks(
  { path, roles }: SuggestRequest,
  onProgress: (share: number) => void,
): Promise<Suggestion[]> {
  const file = await AudioFile.open(path, { allowCut: true });
  const stems = file.tracks.map(({ index }) => new UntilDamage(Stem.of(file, index)));
  const powers = stems.map((): number[] => []);
  const sums = new Float64Array(stems.length);
  let done = 0;
  try {
    await pass(
      stems,
      (planes, frames) => {
        for (let from = 0; from < frames; ) {
          const until = Math.min(frames, from + STEP_FRAMES - (done % STEP_FRAMES));
          for (const [at, [left, right]] of planes.entries())
            for (let i = from; i < until; i++) sums[at] += left[i] * left[i] + right[i] * right[i];
          done += until - from;
          from = until;
          if (done % STEP_FRAMES !== 0) continue;
          for (const [at, sum] of sums.entries()) powers[at].push(sum / 2 / STEP_FRAMES);
          sums.fill(0);
        }
      },
      { onProgress },
    );
  } finally {
    for (const stem of stems) await stem.close();
    file.close();
  }
  return fromCourses(powers.map((course, at) => ({ role: roles[at] ?? 'unknown', powers: course })));
}
