import { expect, test } from '@jest/globals';
import { BLOCK_FRAMES } from '../audio/planes.ts';
import { regattaMadeRight } from '../demo/setups.ts';
import { PROCESSORS } from '../processors/processing.ts';
import { applyEdit } from '../setup/edits.ts';
import { loadNoiseReduction } from '../signal/noiseReduction.ts';
import { WORKED_VOICE } from '../testing/processings.ts';
import { noise } from '../testing/tones.ts';
import { compileDestinations } from './destinations.ts';
import { RehearsalEngine } from './rehearsal.ts';

const RING_FRAMES = 3 * 48_000;
const ROUNDS = 6;

test('the audio callback allocates nothing, with everything that may be done to a voice', async () => {
  await loadNoiseReduction();
  const setup = applyEdit(regattaMadeRight(), {
    edit: 'batch',
    label: 'process',
    edits: [
      { edit: 'updateSource', id: 'narrator', values: { processing: WORKED_VOICE } },
      {
        edit: 'setSend',
        pickup: 'reedbox.pickup',
        to: 'live-mix',
        gainDb: -14,
        processing: [{ ...PROCESSORS.ducking.initial, key: 'narrator' }],
      },
    ],
  });
  const engine = new RehearsalEngine(
    compileDestinations(setup),
    setup.sources.map(() => true),
    { ringFrames: RING_FRAMES, endFrame: Number.MAX_SAFE_INTEGER },
  );
  const sound = noise(1, RING_FRAMES).map((value) => value * 0.3);
  const [left, right] = [new Float32Array(BLOCK_FRAMES), new Float32Array(BLOCK_FRAMES)];
  engine.playing = true;
  const bytesPerBlock: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    for (let source = 0; source < setup.sources.length; source++)
      engine.feed(source, round * RING_FRAMES, sound, sound);
    const before = process.memoryUsage().heapUsed;
    for (let at = 0; at < RING_FRAMES; at += BLOCK_FRAMES) engine.process(left, right);
    const blocks = RING_FRAMES / BLOCK_FRAMES;
    bytesPerBlock.push((process.memoryUsage().heapUsed - before) / blocks);
  }
  // The first rounds are for the compiler; a round in which garbage was collected says nothing.
  const told = bytesPerBlock.slice(2).filter((bytes) => bytes >= 0);
  expect(Math.min(...told)).toBeLessThan(64);
});
