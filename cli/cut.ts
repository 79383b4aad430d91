import { basename } from 'node:path';
import { type BreakOff, madeOfCutWords } from '../core/check/recording.ts';
import { breakOffOfFile } from '../server/media/breakOff.ts';

/** A recording that breaks off, although it says that it goes on. */
export interface CutRecording {
  file: string;
  breakOff: BreakOff;
}

/** Those of some recordings that break off. */
export async function cutAmong(paths: string[]): Promise<CutRecording[]> {
  const looked = await Promise.all(
    paths.map(async (path) => ({ file: basename(path), breakOff: await breakOffOfFile(path) })),
  );
  return looked.flatMap(({ file, breakOff }) => (breakOff ? [{ file, breakOff }] : []));
}

/** Says so of what was made of them, a line for each. */
export function cutLines(cut: CutRecording[]): string[] {
  return cut.map(({ file, breakOff }) => madeOfCutWords(breakOff, file));
}
