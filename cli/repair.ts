import { repairWords } from '../core/deliver/repair.ts';
import { repairRecording } from '../server/media/repairRecording.ts';
import { printJson, printLines } from './print.ts';

/** Writes a damaged recording anew and says what was saved and what was lost. */
export async function repair(path: string, out: string, options: { json?: boolean }): Promise<void> {
  const repaired = await repairRecording(path, out);
  if (options.json) printJson({ out, ...repaired });
  else
    printLines([
      ...repaired.tracks.map((track, at) => `${at + 1}  ${repairWords(track)}`),
      ...repaired.left.map((one) => `lost: ${one}`),
    ]);
}
