import { writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { median } from '../core/median.ts';
import { mixArguments } from './ffmpegMix.ts';
import { fullSetup } from './setups.ts';
import { took } from './timing.ts';

const RUNS = 3;

/**
 * Renders a take from files to a file by the command line, with its proof (each source looked for in each track), and has ffmpeg mix, measure
 * and write the same without a proof. Yields a line.
 * @param paths nine stems of so many seconds
 */
export async function* timeWholeRender(
  folder: string,
  paths: string[],
  seconds: number,
): AsyncGenerator<string> {
  const plain = fullSetup(paths.length, 7);
  const setup = {
    ...plain,
    sources: plain.sources.map((source, i) => ({ ...source, media: { path: basename(paths[i]) } })),
  };
  const file = join(folder, 'render.json');
  writeFileSync(file, JSON.stringify(setup));
  const [ours, theirs]: [number[], number[]] = [[], []];
  let mostMb = 0;
  for (let run = 0; run < RUNS; run++) {
    const render = ['bin/northfen.mjs', 'render', file, '--out', join(folder, 'take.mkv')];
    const made = await took(process.execPath, render);
    ours.push(made.seconds);
    mostMb = Math.max(mostMb, made.mostMb);
    const mixed = await took('ffmpeg', [
      ...mixArguments(setup, paths, 'ebur128=peak=true:framelog=verbose'),
      ...setup.tracks.flatMap((_, k) => ['-map', `[o${k}]`]),
      ...['-c:a', 'pcm_s24le', join(folder, 'theirs.mkv')],
    ]);
    theirs.push(mixed.seconds);
  }
  const ratio = median(theirs.map((time, run) => time / ours[run]));
  yield `whole render of ${paths.length} recordings into 7 tracks of 24 bits with loudness, true peak and proof, ${seconds} s: ${(seconds / median(ours)).toFixed(1)} times real time (bound 15), ${mostMb.toFixed(0)} MB at most (bound 600); ${ratio.toFixed(2)} times as fast as ffmpeg without a proof (bound 3 where neither proves)`;
}
