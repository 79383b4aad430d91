import { basename } from 'node:path';
import { breakOffWords } from '../core/check/recording.ts';
import { THRESHOLDS } from '../core/measure/presence/thresholds.ts';
import { breakOffOfFile } from '../server/media/breakOff.ts';
import { findPresence } from '../server/media/findPresence.ts';
import { clock, figure, printJson, printLines } from './print.ts';

/** Looks for one sound in a track of another file and prints what was found. */
export async function presence(options: {
  reference: string;
  in: string;
  track: number;
  wholeFile?: boolean;
  json?: boolean;
}): Promise<void> {
  const found = await findPresence({
    referencePath: options.reference,
    trackPath: options.in,
    trackIndex: options.track - 1,
    wholeFile: options.wholeFile ?? false,
  });
  const brokenOff = found.present ? null : await brokenOffOf([options.reference, options.in]);
  if (options.json) {
    printJson({
      present: found.present,
      levelDb: found.levelDb,
      offsetMs: found.offsetMs,
      confidence: found.confidence,
      testable: found.testable && brokenOff === null,
      intervals: found.intervals,
    });
    return;
  }
  const rate = `set for less than one false alarm in ${Math.round(1 / THRESHOLDS.falseAlarms)} unrelated pairs`;
  if (!found.testable) printLines(['Not testable: the reference is silent, or too short to compare.']);
  else if (brokenOff) printLines([`Not testable: ${brokenOff}. Repair it first, and look in what is there.`]);
  else if (!found.present) printLines([`Absent: the reference was not found. (${rate})`]);
  else {
    printLines([
      `Present at ${figure(found.levelDb, 'dB')}, ${figure(found.offsetMs, 'ms')} later than the reference (confidence ${found.confidence.toFixed(4)}; ${rate}):`,
      ...found.intervals.map(
        (one) =>
          `  ${clock(one.startS)} – ${clock(one.endS)}  ${figure(one.levelDb, 'dB')}, offset ${figure(one.offsetMs, 'ms')}`,
      ),
    ]);
  }
}

/** Says which of two files breaks off before its end, if one does: what is missing could hold the sound. */
async function brokenOffOf(paths: string[]): Promise<string | null> {
  for (const path of paths) {
    const breakOff = await breakOffOfFile(path);
    if (breakOff) return breakOffWords(breakOff, basename(path));
  }
  return null;
}
