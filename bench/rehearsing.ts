import { BLOCK_FRAMES, SAMPLE_RATE } from '../core/audio/planes.ts';
import { seededRandom } from '../core/audio/random.ts';
import { coursesOf, figuresOf } from '../core/balance/figures.ts';
import { balance } from '../core/balance/solve.ts';
import { staticMixes } from '../core/balance/sounds.ts';
import { compileDestinations } from '../core/engine/destinations.ts';
import { RehearsalEngine } from '../core/engine/rehearsal.ts';
import type { Covariances } from '../core/measure/covariance.ts';
import { PROCESSORS, type Processing } from '../core/processors/processing.ts';
import { reachOf } from '../core/reach/reach.ts';
import type { Setup } from '../core/setup/schema.ts';
import { loadNoiseReduction } from '../core/signal/noiseReduction.ts';
import { fullSetup } from './setups.ts';
import { timed } from './timing.ts';

const RUNS = 15;

/** Sources of several kinds, each with a recording. */
function rehearsable(sources: number, tracks: number): Setup {
  const setup = fullSetup(sources, tracks);
  return {
    ...setup,
    sources: setup.sources.map((source, i) => ({
      ...source,
      kind: i % 3 === 0 ? 'microphone' : 'game',
      media: { path: `${source.id}.wav` },
    })),
  };
}

/** How long the figures of one change take, and solving every destination anew (ms). */
export function timeWhatIf(sources: number, destinations: number, seconds: number) {
  const setup = rehearsable(sources, destinations);
  const random = seededRandom(3);
  const blocks = seconds * 10;
  const pairs = new Float32Array(((sources * (sources + 1)) / 2) * blocks);
  for (let i = 0, row = 0; i < sources; i++)
    for (let j = i; j < sources; j++, row++)
      for (let block = 0; block < blocks; block++)
        pairs[row * blocks + block] = i === j ? 0.01 * random() : 0.0005 * (random() - 0.5);
  const covariances: Covariances = { sounds: sources, blocks, pairs };
  const reach = reachOf(setup);
  const { sounds, mixes } = staticMixes(setup, reach);
  const figuresMs = timed(RUNS, () => {
    const [changed] = mixes;
    figuresOf(coursesOf(setup, sounds, changed, covariances));
  });
  const solvingMs = timed(RUNS, () => {
    for (const mix of mixes) balance({ setup, reach, sounds, covariances }, mix);
  });
  return { figuresMs, solvingMs };
}

/** What is done to a voice that is close to its microphone, all of it. */
const VOICE: Processing = [
  { does: 'high-pass', hz: 80 },
  { does: 'noise reduction', reduceDb: 18 },
  PROCESSORS.gate.initial,
  PROCESSORS.band.initial,
  PROCESSORS.compressor.initial,
  PROCESSORS.limiter.initial,
];

/** The same setup with three voices processed, and one source that makes room for the first. */
function processed(setup: Setup): Setup {
  const voices = setup.sources.filter(({ kind }) => kind === 'microphone').slice(0, 3);
  const ducking: Processing = [{ ...PROCESSORS.ducking.initial, key: voices[0].id }];
  return {
    ...setup,
    sources: setup.sources.map((source) => ({
      ...source,
      ...(voices.includes(source) && { processing: VOICE }),
      ...(source.id === setup.sources[1].id && { processing: ducking }),
    })),
  };
}

/**
 * Plays in this thread what the browser's audio thread would play: the share of a core, and blocks that came late.
 * @param isProcessed with processing on four of the sources
 */
export async function rehearsalLoad(
  sources: number,
  destinations: number,
  seconds: number,
  isProcessed: boolean,
) {
  await loadNoiseReduction();
  const plain = rehearsable(sources, destinations);
  const setup = isProcessed ? processed(plain) : plain;
  const blocks = Math.floor((seconds * SAMPLE_RATE) / BLOCK_FRAMES);
  const ringFrames = 4 * SAMPLE_RATE;
  const engine = new RehearsalEngine(
    compileDestinations(setup),
    setup.sources.map(() => true),
    { ringFrames, endFrame: Number.MAX_SAFE_INTEGER },
  );
  const random = seededRandom(7);
  const portion = Float32Array.from({ length: SAMPLE_RATE }, () => (random() - 0.5) * 0.1);
  const [left, right] = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)];
  engine.playing = true;
  let late = 0;
  let spent = 0;
  for (let block = 0; block < blocks; block++) {
    const frame = block * BLOCK_FRAMES;
    if (frame % SAMPLE_RATE < BLOCK_FRAMES)
      for (let source = 0; source < sources; source++)
        engine.feed(source, Math.floor(frame / SAMPLE_RATE) * SAMPLE_RATE + SAMPLE_RATE, portion, portion);
    if (block === 0)
      for (let source = 0; source < sources; source++) engine.feed(source, 0, portion, portion);
    const start = performance.now();
    engine.process(left, right);
    const took = performance.now() - start;
    spent += took;
    if (took > (1000 * BLOCK_FRAMES) / SAMPLE_RATE) late += 1;
  }
  return { share: spent / 1000 / seconds, late, blocks };
}
