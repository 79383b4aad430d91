import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Stereo } from '../core/audio/planes.ts';
import { seededRandom } from '../core/audio/random.ts';
import { recordSound } from '../core/demo/records.ts';
import { twoMachinesWithFaults } from '../core/demo/twoMachines.ts';
import { drillsOf, runDrills } from '../core/drills/drills.ts';
import { compile } from '../core/engine/compile.ts';
import { Renderer } from '../core/engine/renderer.ts';
import { findingsOf } from '../core/findings/findings.ts';
import { LoudnessMeter } from '../core/measure/loudness.ts';
import { median } from '../core/median.ts';
import { planRoom } from '../core/plan/room.ts';
import { reachOf } from '../core/reach/reach.ts';
import { causesOf } from '../core/repair/causes.ts';
import type { Setup } from '../core/setup/schema.ts';
import { findPresence } from '../server/media/findPresence.ts';
import { Stem } from '../server/media/stem.ts';
import { TakeWriter } from '../server/media/takeWriter.ts';
import { timeChecks } from './checking.ts';
import { timeDeliveries } from './delivering.ts';
import { intoNothing, mixArguments } from './ffmpegMix.ts';
import { largeWithFaults } from './largeRoom.ts';
import { timeProcessedRender } from './processedRender.ts';
import { rehearsalLoad, timeWhatIf } from './rehearsing.ts';
import { measureRepaint } from './repaint.ts';
import { fullSetup, wiredSetup } from './setups.ts';
import { timeSoundings } from './sounding.ts';
import { timed } from './timing.ts';
import { timeWholeRender } from './wholeRender.ts';

async function writeStems(folder: string, count: number, seconds: number): Promise<string[]> {
  const paths: string[] = [];
  for (let index = 0; index < count; index++) {
    const random = seededRandom(index + 1);
    const plane = () => Float32Array.from({ length: 48_000 }, () => (random() - 0.5) * 0.2);
    const second: Stereo = [plane(), plane()];
    const path = join(folder, `stem-${index}.wav`);
    const writer = await TakeWriter.create(path, [{ name: 'Stem', codec: 'pcm-s16', layout: 'stereo' }], {
      container: 'wav',
    });
    for (let i = 0; i < seconds; i++) await writer.add([second], 48_000);
    await writer.finish();
    paths.push(path);
  }
  return paths;
}

/** Mixes the stems into every track of the setup, measures each track's loudness, and returns the figures. */
async function renderAndMeasure(setup: Setup, paths: string[]): Promise<(number | null)[]> {
  const portion = 48_000 - (48_000 % 128);
  const renderer = new Renderer(compile(setup, { only: 'tracks' }), portion);
  const meters = setup.tracks.map(() => new LoudnessMeter(48_000, 2));
  const stems = await Promise.all(paths.map((path) => Stem.open(path)));
  const inputs = stems.map((): Stereo => [new Float32Array(portion), new Float32Array(portion)]);
  for (;;) {
    const frames = Math.max(
      ...(await Promise.all(stems.map((stem, index) => stem.read(inputs[index], portion)))),
    );
    if (frames === 0) break;
    renderer.render(inputs, frames);
    meters.forEach((meter, index) => {
      meter.add(renderer.outputs[index], frames);
    });
  }
  return meters.map((meter) => meter.result().integratedLufs);
}

const folder = mkdtempSync(join(tmpdir(), 'northfen-bench-'));
try {
  const board = fullSetup(40, 16);
  const recompute = timed(60, () => findingsOf(board, '2026-05-01', reachOf(board)));
  console.log(
    `reach and findings, 40 sources by 16 destinations: ${recompute.toFixed(2)} ms a recomputation (bound 10 ms: ${(10 / recompute).toFixed(1)} times inside)`,
  );

  const wired = wiredSetup();
  const demo = twoMachinesWithFaults();
  const demoCauses = timed(12, () => causesOf(demo, '2026-05-01').map(({ remedies }) => remedies[0]?.label));
  console.log(
    `causes with their first remedies, the two-machine demo: ${demoCauses.toFixed(0)} ms (bound 150 ms: ${(150 / demoCauses).toFixed(1)} times inside)`,
  );
  const large = largeWithFaults();
  const causes = causesOf(large, '2026-05-01').length;
  const largeCauses = timed(8, () => causesOf(large, '2026-05-01'));
  console.log(
    `  40 sources, 12 devices, 6 mixes, ${reachOf(large).destinations.length} destinations, 4 scenes, ${causes} causes: ${largeCauses.toFixed(0)} ms (bound 1000 ms: ${(1000 / largeCauses).toFixed(1)} times inside)`,
  );
  const plain = timed(30, () => findingsOf(wired, '2026-05-01', reachOf(wired)));
  console.log(`  reach and findings alone: ${plain.toFixed(1)} ms`);
  const drills = drillsOf(wired);
  const drilled = timed(3, () => {
    runDrills(wired, drills, '2026-05-01');
  });
  console.log(`  all ${drills.length} drills: ${drilled.toFixed(0)} ms (bound 2000 ms)`);
  const repaints = await measureRepaint(wired);
  console.log(
    `  the board repaints ${median(repaints).toFixed(0)} ms after a key press, at most ${Math.max(...repaints).toFixed(0)} ms (bound 50 ms)`,
  );
  const twenty = Array.from({ length: 20 }, (_, i) => ({
    name: `Source ${i}`,
    kind: 'game' as const,
    preset: 'own' as const,
  }));
  const aims = { live: true, vod: true, upload: true, tracks: 6 };
  const planned = timed(10, () => planRoom('Bench', twenty, aims, { machines: 'two', desk: true }));
  console.log(`  a plan for 20 sources and 6 tracks: ${planned.toFixed(1)} ms (bound 1000 ms)`);

  const whatIf = timeWhatIf(12, 6, 600);
  console.log(
    `what-if loudness, 12 sources by 6 destinations, 10 minutes: ${whatIf.figuresMs.toFixed(1)} ms a change (bound 5 ms), solving all six ${whatIf.solvingMs.toFixed(0)} ms (bound 50 ms)`,
  );
  for (const isProcessed of [false, true]) {
    const load = await rehearsalLoad(20, 10, 60, isProcessed);
    console.log(
      `rehearsing 20 sources for 10 destinations, all metered, ${isProcessed ? 'four processed' : 'unprocessed'}: ${(100 * load.share).toFixed(0)} % of a core (bound 50 %), ${load.late} of ${load.blocks} blocks took longer than they last`,
    );
  }

  const seconds = 120;
  const setup = fullSetup(12, 10);
  const paths = await writeStems(folder, 12, seconds);
  const mixed = [...mixArguments(setup, paths, 'ebur128=framelog=verbose'), ...intoNothing(setup)];
  const ratios: number[] = [];
  for (let run = 0; run < 3; run++) {
    const startOurs = performance.now();
    const ours = await renderAndMeasure(setup, paths);
    const oursMs = performance.now() - startOurs;
    const startTheirs = performance.now();
    const { stderr } = spawnSync('ffmpeg', mixed, {
      encoding: 'utf8',
      maxBuffer: 1 << 26,
    });
    const theirsMs = performance.now() - startTheirs;
    ratios.push(theirsMs / oursMs);
    if (run === 0) {
      const theirs = [...stderr.matchAll(/I:\s+(-?[\d.]+) LUFS/g)]
        .map((match) => Number(match[1]))
        .slice(-10)
        .sort();
      const mine = ours.map((value) => Number((value ?? 0).toFixed(1))).sort();
      const apart = Math.max(...mine.map((value, index) => Math.abs(value - theirs[index])));
      console.log(
        `render of 12 stereo sources into 10 destinations with loudness, ${seconds} s: figures agree within ${apart.toFixed(1)} LU`,
      );
    }
    console.log(
      `  run ${run + 1}: Northfen ${(seconds / (oursMs / 1000)).toFixed(0)} times real time, ffmpeg ${(seconds / (theirsMs / 1000)).toFixed(0)} times: ratio ${(theirsMs / oursMs).toFixed(2)}`,
    );
  }
  console.log(`  median: ${median(ratios).toFixed(2)} times as fast as ffmpeg (bound 1, aim 4)`);

  const nine = paths.slice(0, 9);
  for await (const line of timeWholeRender(folder, nine, seconds)) console.log(line);
  for await (const line of timeSoundings(folder)) console.log(line);
  for await (const line of timeChecks(folder)) console.log(line);
  for await (const line of timeDeliveries(folder)) console.log(line);

  const processedRatios = timeProcessedRender(await writeStems(folder, 4, 60), 60);
  for await (const line of processedRatios) console.log(line);

  const reference = join(folder, 'reference.wav');
  const track = join(folder, 'track.wav');
  const music = recordSound(31, undefined, 300);
  const noise = seededRandom(5);
  const mono = (gain: number) =>
    music.left.map((value) => value * gain + (gain < 1 ? (noise() - 0.5) * 0.1 : 0));
  for (const [path, samples] of [
    [reference, mono(1)],
    [track, mono(0.05)],
  ] as const) {
    const writer = await TakeWriter.create(path, [{ name: 'Sound', codec: 'pcm-s16', layout: 'mono' }], {
      container: 'wav',
    });
    for (let at = 0; at < samples.length; at += 48_000) {
      const part = samples.subarray(at, at + 48_000);
      await writer.add([[part, part]], part.length);
    }
    await writer.finish();
  }
  const speeds: number[] = [];
  for (let run = 0; run < 3; run++) {
    const start = performance.now();
    const found = await findPresence({
      referencePath: reference,
      trackPath: track,
      trackIndex: 0,
      wholeFile: false,
    });
    speeds.push(300 / ((performance.now() - start) / 1000));
    if (!found.present) throw new Error('the reference was not found');
  }
  console.log(
    `presence of a 5-minute reference in a 5-minute track: ${median(speeds).toFixed(0)} times real time (bound 60)`,
  );
} finally {
  rmSync(folder, { recursive: true, force: true });
}
