import { spawnSync } from 'node:child_process';
import { newStereo } from '../core/audio/planes.ts';
import { compile } from '../core/engine/compile.ts';
import { Renderer } from '../core/engine/renderer.ts';
import { LoudnessMeter } from '../core/measure/loudness.ts';
import { median } from '../core/median.ts';
import { PROCESSORS, type Processing } from '../core/processors/processing.ts';
import type { Setup } from '../core/setup/schema.ts';
import { Stem } from '../server/media/stem.ts';
import { fullSetup } from './setups.ts';

const PORTION = 48_000 - (48_000 % 128);
const DESTINATIONS = 4;
/** What every stem goes through, here and (in like filters) in ffmpeg. */
const STEPS: Processing = [
  {
    does: 'gate',
    opensDb: -50,
    hysteresisDb: 4,
    rangeDb: -40,
    attackMs: 5,
    holdMs: 100,
    releaseMs: 100,
  },
  { does: 'band', shape: 'bell', hz: 200, gainDb: -3, q: 1 },
  { does: 'band', shape: 'bell', hz: 3000, gainDb: 3, q: 1 },
  { ...PROCESSORS.compressor.initial, makeUpDb: 3 },
  { does: 'limiter', ceilingDbtp: -1, releaseMs: 80 },
];
const FFMPEG_STEPS = [
  'agate=threshold=-50dB:range=0.01:attack=5:release=100',
  'equalizer=f=200:t=q:w=1:g=-3',
  'equalizer=f=3000:t=q:w=1:g=3',
  'acompressor=threshold=-24dB:ratio=3:attack=8:release=120:makeup=1.4',
  'alimiter=limit=0.89:release=80:level=0',
].join(',');

/** Every stem processed, the last one ducked under the first, into some destinations with loudness on each. */
function processedSetup(stems: number): Setup {
  const setup = fullSetup(stems, DESTINATIONS);
  const [first] = setup.sources;
  const last = setup.sources.length - 1;
  return {
    ...setup,
    sources: setup.sources.map((source, i) => ({
      ...source,
      processing:
        i < last
          ? STEPS
          : [
              ...STEPS,
              {
                does: 'ducking',
                key: first.id,
                opensDb: -40,
                depthDb: 9,
                attackMs: 20,
                holdMs: 0,
                releaseMs: 250,
              },
            ],
    })),
  };
}

async function renderProcessed(setup: Setup, paths: string[]): Promise<void> {
  const renderer = new Renderer(compile(setup, { only: 'tracks' }), PORTION);
  const meters = setup.tracks.map(() => new LoudnessMeter(48_000, 2));
  const stems = await Promise.all(paths.map((path) => Stem.open(path)));
  const inputs = stems.map(() => newStereo(PORTION));
  for (;;) {
    const counts = await Promise.all(stems.map((stem, i) => stem.read(inputs[i], PORTION)));
    const frames = Math.max(...counts);
    if (frames === 0) return;
    renderer.render(inputs, frames);
    meters.forEach((meter, i) => {
      meter.add(renderer.outputs[i], frames);
    });
  }
}

function ffmpegArguments(paths: string[]): string[] {
  const last = paths.length - 1;
  const chains = paths.map((_, i) => `[${i}:a]${FFMPEG_STEPS}[p${i}]`);
  const duck = `[p0]asplit=2[q0][key];[p${last}][key]sidechaincompress=threshold=-40dB:ratio=4:attack=20:release=250[q${last}]`;
  const name = (i: number) => (i === 0 || i === last ? `q${i}` : `p${i}`);
  const splits = paths.map(
    (_, i) =>
      `[${name(i)}]asplit=${DESTINATIONS}${Array.from({ length: DESTINATIONS }, (_d, k) => `[s${i}t${k}]`).join('')}`,
  );
  const mixes = Array.from(
    { length: DESTINATIONS },
    (_, k) =>
      `${paths.map((_p, i) => `[s${i}t${k}]`).join('')}amix=inputs=${paths.length}:normalize=0,ebur128=framelog=verbose[o${k}]`,
  );
  return [
    ...['-hide_banner', '-nostats', '-y'],
    ...paths.flatMap((path) => ['-i', path]),
    ...['-filter_complex', [...chains, duck, ...splits, ...mixes].join(';')],
    ...Array.from({ length: DESTINATIONS }, (_, k) => ['-map', `[o${k}]`, '-f', 'null', '-']).flat(),
  ];
}

/** Renders stems with processing, and has ffmpeg do the like with its filters; three runs of each, in words. */
export async function* timeProcessedRender(paths: string[], seconds: number): AsyncGenerator<string> {
  const setup = processedSetup(paths.length);
  const ratios: number[] = [];
  yield `render of ${paths.length} stems with gate, equaliser, compressor, limiter and ducking into ${DESTINATIONS} destinations with loudness, ${seconds} s:`;
  for (let run = 0; run < 3; run++) {
    const start = performance.now();
    await renderProcessed(setup, paths);
    const oursMs = performance.now() - start;
    const startTheirs = performance.now();
    const { status, stderr } = spawnSync('ffmpeg', ffmpegArguments(paths), {
      encoding: 'utf8',
      maxBuffer: 1 << 26,
    });
    if (status !== 0) throw new Error(`ffmpeg failed: ${stderr.slice(-400)}`);
    const theirsMs = performance.now() - startTheirs;
    ratios.push(theirsMs / oursMs);
    const speed = (ms: number) => ((seconds * 1000) / ms).toFixed(0);
    yield `  run ${run + 1}: Northfen ${speed(oursMs)} times real time, ffmpeg ${speed(theirsMs)} times: ratio ${(theirsMs / oursMs).toFixed(2)}`;
  }
  yield `  median: ${median(ratios).toFixed(2)} times as fast as ffmpeg (bound 1)`;
}
