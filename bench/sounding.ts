import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { median } from '../core/median.ts';
import type { Setup } from '../core/setup/schema.ts';
import { recordTestSounds } from '../server/media/simulatedRecording.ts';
import { fullSetup } from './setups.ts';
import { took } from './timing.ts';

const RUNS = 3;
const SOURCES = 16;
const TRACKS = 6;
/** Each test sound takes 30 s; they are started one after the other. */
const SECONDS = 42;

/** Times reading a recording of test sounds by the command line, beside ffmpeg decoding it. Yields a line. */
export async function* timeSoundings(folder: string): AsyncGenerator<string> {
  const room = partlySent(fullSetup(SOURCES, TRACKS));
  const [setupFile, outPath] = ['sounded.json', 'sounded.mkv'].map((name) => join(folder, name));
  writeFileSync(setupFile, JSON.stringify(room));
  await recordTestSounds({ room, outPath, seconds: SECONDS, seed: 4 });
  const [ours, theirs]: [number[], number[]] = [[], []];
  for (let run = 0; run < RUNS; run++) {
    const read = ['bin/northfen.mjs', 'sound', setupFile, '--read', outPath];
    ours.push((await took(process.execPath, read, [0, 3])).seconds);
    const decode = ['-v', 'error', '-i', outPath, '-map', '0:a', '-f', 'null', '-'];
    theirs.push((await took('ffmpeg', decode)).seconds);
  }
  const ratio = median(theirs.map((time, run) => time / ours[run]));
  yield `reading a sounding of ${SOURCES} sources on ${TRACKS} tracks, ${SECONDS} s: ${median(ours).toFixed(1)} s (bound 3 s); ffmpeg decodes it in ${ratio.toFixed(2)} of that time`;
}

/** The same room with every second way. */
function partlySent(setup: Setup): Setup {
  return { ...setup, sends: setup.sends.filter((_, i) => (i + Math.floor(i / TRACKS)) % 2 === 0) };
}
