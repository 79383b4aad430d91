import { setImmediate } from 'node:timers/promises';
import { BLOCK_FRAMES, newStereo, type Stereo } from '../../core/audio/planes.ts';
import { STEM_RATE, type Stem } from './stem.ts';

/** A pass reads so many frames at a time: whole blocks of the engine, 0.4 s. */
export const PORTION_FRAMES = BLOCK_FRAMES * 150;

/** What a pass reads from. */
export type Readable = Pick<Stem, 'read' | 'expectedS'>;

/** What is called with every portion: planes of each stem, of which the first `frames` frames count. */
export type Visit = (planes: Stereo[], frames: number) => void | Promise<void>;

export interface PassOptions {
  /** Whether it ends with the longest stem (the shorter ones are silent after their end) or the shortest. */
  endsWith?: 'longest' | 'shortest';
  /** Only so many stems, from the first on, decide where it ends; all when left out. */
  deciding?: number;
  /** No more frames than this are read. */
  mostFrames?: number;
  /** After the end it goes on in silence for so many frames: what is late still comes out. */
  tailFrames?: number;
  /** How long it will be (s), for the progress; as long as the stems say where it is missing. */
  expectedS?: number;
  /** Called with the share that is done, 0 to 1. */
  onProgress?: (share: number) => void;
}

/**
 * Goes through stems in step, portion by portion, and lets other work of the thread in between. Null stands for a source
 * without a recording, and is silent.
 * @returns how many frames were visited
 * @throws {MediaError} where a stem does not decode
 */
export async function pass(
  stems: readonly (Readable | null)[],
  visit: Visit,
  {
    endsWith = 'longest',
    deciding = stems.length,
    mostFrames = Number.POSITIVE_INFINITY,
    tailFrames = 0,
    ...options
  }: PassOptions = {},
): Promise<number> {
  const planes = stems.map(() => newStereo(PORTION_FRAMES));
  const expectedS = Math.max(
    options.expectedS ?? Math.max(...stems.map((stem) => stem?.expectedS ?? 0)),
    0.001,
  );
  let done = 0;
  for (let tail = tailFrames; done < mostFrames; ) {
    const counts = await readAll(stems, planes, Math.min(PORTION_FRAMES, mostFrames - done));
    const ends = counts.slice(0, deciding);
    let frames = endsWith === 'longest' ? Math.max(0, ...ends) : Math.min(mostFrames, ...ends);
    if (frames === 0) {
      frames = Math.min(tail, PORTION_FRAMES);
      tail -= frames;
    }
    if (frames === 0) break;
    await visit(planes, frames);
    done += frames;
    options.onProgress?.(Math.min(1, done / Math.min(mostFrames, STEM_RATE * expectedS)));
    await setImmediate();
  }
  return done;
}

/** Reads the next frames of every stem into its planes, with silence after its end. @returns how many came from each */
export async function readAll(
  stems: readonly (Readable | null)[],
  planes: Stereo[],
  frames: number,
): Promise<number[]> {
  const counts: number[] = [];
  for (const [index, stem] of stems.entries()) counts.push((await stem?.read(planes[index], frames)) ?? 0);
  return counts;
}

/** Passes over the next frames of a stem. */
export async function skip(stem: Readable, frames: number, onProgress?: () => void): Promise<void> {
  if (frames > 0) await pass([stem], () => onProgress?.(), { mostFrames: frames });
}
