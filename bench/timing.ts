import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { median } from '../core/median.ts';

/** NORTHFEN_BENCH=full times recordings of two hours and 300 records, as the bounds are meant, which takes hours; else a twelfth of that. */
const IS_FULL = process.env.NORTHFEN_BENCH === 'full';
/** How long recordings are (s), as so many pieces of ten minutes; how many records a library has, and how long each is (s). */
export const PIECE_S = 600;
export const PIECES = IS_FULL ? 12 : 1;
export const LIBRARY = IS_FULL
  ? { records: 300, recordS: 180, pieces: 6 }
  : { records: 24, recordS: 120, pieces: 1 };

/** Before it is timed, work is done so often, as it would have been in a session: the engine compiles what is run often. */
const WARM_UPS = 8;

/** How long some work takes (ms): the median of several runs. */
export function timed(runs: number, work: () => void): number {
  for (let i = 0; i < WARM_UPS; i++) work();
  const times = Array.from({ length: runs }, () => {
    const start = performance.now();
    work();
    return performance.now() - start;
  });
  return median(times);
}

/** What a command took. */
export interface Took {
  seconds: number;
  /** The most memory that it held (MB), as Linux tells; 0 elsewhere. */
  mostMb: number;
}

/** Memory is looked at so often (ms). */
const LOOK_EVERY_MS = 100;

/** Runs a command to its end. @param codes exit codes with which it has done its work @throws {Error} with what it said, after any other */
export function took(command: string, args: string[], codes: number[] = [0]): Promise<Took> {
  return new Promise((resolve, reject) => {
    const start = performance.now();
    const child = spawn(command, args, { stdio: ['ignore', 'ignore', 'pipe'] });
    let said = '';
    let mostMb = 0;
    child.stderr.on('data', (text: Buffer) => {
      said = `${said}${text.toString()}`.slice(-2000);
    });
    const look = setInterval(() => {
      mostMb = Math.max(mostMb, mostMbOf(child.pid));
    }, LOOK_EVERY_MS);
    child.on('error', reject);
    child.on('exit', (code) => {
      clearInterval(look);
      if (code !== null && codes.includes(code))
        resolve({ seconds: (performance.now() - start) / 1000, mostMb });
      else reject(new Error(`${command} failed: ${said}`));
    });
  });
}

function mostMbOf(pid: number | undefined): number {
  try {
    const kb = /VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1];
    return Number(kb ?? 0) / 1024;
  } catch {
    return 0;
  }
}

/** Writes a recording so many times one behind the other, nothing coded again. */
export async function repeated(path: string, out: string, times: number): Promise<void> {
  const looped = ['-v', 'error', '-y', '-stream_loop', `${times - 1}`, '-i', path];
  await took('ffmpeg', [...looped, '-map', '0', '-c', 'copy', out]);
}
