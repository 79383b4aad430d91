import { calibrate as calibrateSound } from '../core/measure/calibrate.ts';
import { withFft } from '../core/measure/fft.ts';
import { readMono } from '../server/media/readMono.ts';
import { figure, printJson, printLines } from './print.ts';

/** Reads floor, speech, gate threshold and hum from a recording of a voice, and prints them. */
export async function calibrate(file: string, options: { json?: boolean }): Promise<void> {
  const samples = await readMono(file);
  const found = await withFft((makeFft) => calibrateSound(makeFft, samples));
  if (options.json) {
    printJson(found);
    return;
  }
  printLines([
    `floor ${figure(found.floorDb, 'dBFS')}, speech ${figure(found.speechDb, 'dBFS')}, quietest speech ${figure(found.quietSpeechDb, 'dBFS')}`,
    `a gate opens at ${figure(found.gateDb, 'dBFS')}`,
    ...found.remarks,
  ]);
}
