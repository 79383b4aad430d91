import { type RepairedTrack, repairRecording } from '../server/media/repairRecording.ts';
import { clock, printJson, printLines } from './print.ts';

/** Writes a damaged recording anew and says what was saved and what was lost. */
export async function repair(path: string, out: string, options: { json?: boolean }): Promise<void> {
  const repaired = await repairRecording(path, out);
  if (options.json) printJson({ out, ...repaired });
  else
    printLines([
      ...repaired.tracks.map((track, at) => `${at + 1}  ${sentence(track)}`),
      ...repaired.left.map((one) => `lost: ${one}`),
    ]);
}

/** A track counts as whole when no more than this is missing (s). */
const WHOLE_S = 0.2;

function sentence({ kind, codec, name, savedS, promisedS, brokeOff }: RepairedTrack): string {
  const what = `${kind}${name ? ` “${name}”` : ''} (${codec}): ${clock(savedS)} saved`;
  const lostS = promisedS === null ? 0 : promisedS - savedS;
  const lost = lostS > WHOLE_S ? `, ${clock(lostS)} lost of what it was to have` : '';
  return `${what}${lost}${brokeOff ? '; the rest cannot be read' : ''}`;
}
