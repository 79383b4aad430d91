import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { StalledError, threadRunner } from '../server/jobs/runner.ts';
import { MediaError } from '../server/media/mediaError.ts';
import { mutant, wholeFiles } from './mutants.ts';

/** What came of reading damaged files. */
export interface MediaOutcome {
  read: number;
  refused: number;
  /** Ended by the watchdog: told in words, but a place where the reader hangs. */
  stalled: string[];
  /** Ended in any other way. */
  faults: string[];
  /** The most memory that the process held beyond what it did before (bytes): other tests may have run in it. */
  mostBytes: number;
}

/** Of so much time without progress (s) the reading of a file of a second and a half never has need. */
const STALL_S = 10;

/**
 * Reads damaged copies of files of every format as an upload does, on worker threads.
 * @param count how many; the same number is the same damage
 * @param onStep told of each that is done
 */
export async function attackMedia(
  workerFile: string,
  count: number,
  onStep: (done: number, mostBytes: number) => void = () => {},
): Promise<MediaOutcome> {
  const folder = mkdtempSync(join(tmpdir(), 'northfen-attack-'));
  const runner = threadRunner(workerFile, { stallS: STALL_S });
  const outcome: MediaOutcome = { read: 0, refused: 0, stalled: [], faults: [], mostBytes: 0 };
  const heldBefore = process.memoryUsage().rss;
  const look = setInterval(() => {
    outcome.mostBytes = Math.max(outcome.mostBytes, process.memoryUsage().rss - heldBefore);
  }, 20);
  try {
    const wholes = await wholeFiles(folder);
    let next = 0;
    let done = 0;
    const work = async () => {
      while (next < count) {
        const { name, bytes } = mutant(wholes, next++);
        const path = join(folder, name);
        writeFileSync(path, bytes);
        try {
          await runner.run('inspect', { path, allowCut: true });
          outcome.read += 1;
        } catch (error) {
          if (error instanceof StalledError) outcome.stalled.push(name);
          else if (error instanceof MediaError) outcome.refused += 1;
          else outcome.faults.push(`${name}: ${(error as Error).message}`);
        }
        rmSync(path);
        done += 1;
        onStep(done, outcome.mostBytes);
      }
    };
    await Promise.all([work(), work()]);
    return outcome;
  } finally {
    clearInterval(look);
    await runner.close();
    rmSync(folder, { recursive: true, force: true });
  }
}
