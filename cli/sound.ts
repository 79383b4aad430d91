import { resolve } from 'node:path';
import { nameOf } from '../core/setup/edits.ts';
import { clocksApart } from '../core/sounding/clockWords.ts';
import { REPETITIONS } from '../core/sounding/code.ts';
import { soundRoom } from '../core/sounding/sounding.ts';
import { readSoundedTracks, writeCodes } from '../server/media/soundingFiles.ts';
import { figure, printJson, printLines } from './print.ts';
import { loadSetup, today } from './setupFile.ts';

/** Writes the test sounds of a setup. */
export async function writeTestSounds(path: string, options: { out: string; json?: boolean }): Promise<void> {
  const setup = await loadSetup(path);
  const files = await writeCodes(setup, resolve(options.out));
  if (options.json) {
    printJson({ out: options.out, files });
    return;
  }
  printLines([
    ...files.map(({ source, file }) => `${file}  ${nameOf(setup, source)}`),
    '',
    `Start your recording. Play each file in the app that it is named after, so that it comes out where that app does; a microphone’s out of a loudspeaker beside it. They may sound together, each for ${3 * REPETITIONS} s. Then: northfen sound ${path} --read RECORDING`,
  ]);
}

/** Reads a recording of test sounds. @returns how the command ends: 3 where the room differs, 4 where no test sound was heard */
export async function readRecording(
  path: string,
  options: { read: string; json?: boolean },
): Promise<0 | 3 | 4> {
  const setup = await loadSetup(path);
  const sounding = await soundRoom(setup, await readSoundedTracks(options.read), today());
  const { cells, differences, causes, unheard, heard } = sounding;
  if (options.json) printJson({ tracks: sounding.tracks, cells, differences, causes, heard, unheard });
  else
    printLines([
      ...cells.map(
        (cell) =>
          `${nameOf(setup, cell.source)} in ${nameOf(setup, cell.track)}: ${figure(cell.gainDb, 'dB')}, ${cell.channels}${cell.copies > 1 ? `, ${cell.copies} times` : ''}`,
      ),
      ...unheard.map(
        (id) =>
          `${nameOf(setup, id)}: its test sound is on no track. It was not played, or it arrives nowhere.`,
      ),
      '',
      heard.length === 0
        ? 'No test sound was heard, so nothing is known of the room. Start the recording first, then play them.'
        : differences.length === 0
          ? `The room does what the setup says, for ${heard.length} of ${setup.sources.length} sources.`
          : '',
      ...differences.map(({ message }) => message),
      ...clocksApart(setup, heard),
      ...causes.flatMap(({ name, handwork, label }) => [
        `In your room: ${name}.`,
        ...handwork.map((step) => `  To mend the room: ${step}`),
        `  Or let the setup say so: ${label}`,
      ]),
    ]);
  if (heard.length === 0) return 4;
  return differences.length > 0 ? 3 : 0;
}
