import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { extractAll } from '../server/deliver/extractAll.ts';
import { makeUpload } from '../server/deliver/makeUpload.ts';
import { StalledError, type TaskRunner, threadRunner } from '../server/jobs/runner.ts';
import { verifyRecording } from '../server/jobs/verify.ts';
import { MediaError } from '../server/media/mediaError.ts';
import { repairRecording } from '../server/media/repairRecording.ts';
import { mutant, type Whole, wholeFiles } from './mutants.ts';

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
 * Reads damaged copies of files of every format as an upload does, checks them, checks others against them, repairs them, and makes files of them.
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
        const number = next++;
        const { name, bytes } = mutant(wholes, number);
        const path = join(folder, name);
        const made = `${path}.made`;
        writeFileSync(path, bytes);
        mkdirSync(made);
        const all = uses(runner, path, folder, wholes);
        if (number % MAKE_EVERY === 0) all.push(...makings(runner, path, made));
        const ends = await Promise.all(
          all.map(async ([use, run]) => {
            try {
              await run();
              return 'read';
            } catch (error) {
              if (error instanceof StalledError) outcome.stalled.push(`${use}: ${name}`);
              else if (error instanceof MediaError) return 'refused';
              else outcome.faults.push(`${use}: ${name}: ${(error as Error).message}`);
              return 'broken';
            }
          }),
        );
        if (ends[0] === 'read') outcome.read += 1;
        if (ends[0] === 'refused') outcome.refused += 1;
        rmSync(path);
        rmSync(`${path}.repaired.mkv`, { force: true });
        const half = readdirSync(made, { recursive: true }).filter((one) =>
          /part|unchecked/.test(String(one)),
        );
        if (half.length > 0) outcome.faults.push(`left half-made: ${half.join(', ')} of ${name}`);
        rmSync(made, { recursive: true });
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

/** All that is done with a file that somebody brings: the first is what an upload does, and decides whether it is read. */
function uses(
  runner: TaskRunner,
  path: string,
  folder: string,
  wholes: Whole[],
): [use: string, run: () => Promise<unknown>][] {
  const whole = join(folder, wholes[0].name);
  return [
    ['inspect', () => runner.run('inspect', { path, allowCut: true })],
    ['tracks', () => runner.run('inspectTracks', { path })],
    [
      'check',
      () => verifyRecording(runner, path, [{ name: 'x', track: null, path: whole, forbiddenIn: [0] }]),
    ],
    ['reference', () => verifyRecording(runner, whole, [{ name: 'x', track: null, path, forbiddenIn: [0] }])],
    ['repair', () => inTime(repairRecording(path, `${path}.repaired.mkv`))],
  ];
}

/** Files are made of one damaged file in so many: it takes longer than all else. */
const MAKE_EVERY = 4;

/** All that is made of a file that somebody brings. */
function makings(
  runner: TaskRunner,
  path: string,
  folder: string,
): [use: string, run: () => Promise<unknown>][] {
  const upload = {
    path,
    outPath: join(folder, 'upload.mp4'),
    tracks: [{ track: 0, gainDb: 0 }],
    targetLufs: -14,
    ceilingDbtp: -1,
  };
  const asked = {
    upload,
    forbidden: { sounds: [], unknown: [] },
    sources: async () => ({ leaks: [], untested: [], tested: [] }),
    evenIf: [],
    recording: 'x',
    today: '2026-05-01',
  };
  return [
    ['copy', () => runner.run('remux', { path, outPath: join(folder, 'copy.mp4') })],
    ['extract', () => extractAll(runner, path, join(folder, 'tracks'), { format: 'flac' })],
    ['upload', () => makeUpload(runner, asked)],
    ['marks', () => runner.run('suggestMarks', { path, roles: ['voice', 'voice chat'] })],
  ];
}

/** What is not done on a worker thread has nobody who watches over it. */
async function inTime<T>(work: Promise<T>): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new StalledError(STALL_S)), STALL_S * 1000);
  });
  return Promise.race([work, late]).finally(() => clearTimeout(timer));
}
