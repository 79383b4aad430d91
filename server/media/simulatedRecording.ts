import { newStereo, type Stereo } from '../../core/audio/planes.ts';
import { seededRandom } from '../../core/audio/random.ts';
import { compile } from '../../core/engine/compile.ts';
import { Renderer } from '../../core/engine/renderer.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { codedSound } from '../../core/sounding/code.ts';
import { codedSources } from '../../core/sounding/compare.ts';
import { PORTION_FRAMES } from './pass.ts';
import { STEM_RATE } from './stem.ts';
import { TakeWriter } from './takeWriter.ts';

/** What is recorded: a room, how long (s), and what is drawn by lot in it. */
export interface SimulatedRecording {
  room: Setup;
  outPath: string;
  seconds: number;
  seed: number;
}

/**
 * A stand-in for somebody who plays the test sounds in a room, each when they come to it, and records: the tracks of the room in
 * their codecs, as a Matroska file.
 * @returns when each test sound was started (s), by source
 */
export async function recordTestSounds(
  recording: SimulatedRecording,
  onProgress: (share: number) => void = () => {},
): Promise<Record<string, number>> {
  const { room, outPath, seconds, seed } = recording;
  const random = seededRandom(seed);
  const sounds = codedSources(room).map(({ id, sides }) => {
    const [left, right = left] = codedSound(id, sides);
    return { id, sound: [left, right] as Stereo };
  });
  const latest = Math.max(0, seconds - sounds[0].sound[0].length / STEM_RATE);
  const starts = sounds.map(() => Math.floor(random() * latest * STEM_RATE));
  const schedule = compile(room, { only: 'tracks' });
  const renderer = new Renderer(schedule, PORTION_FRAMES);
  const inputs = sounds.map(() => newStereo(PORTION_FRAMES));
  const planes = room.tracks.map(({ id }) =>
    schedule.outputs.flatMap((output, index) => (output.id === id ? renderer.outputs[index] : [])),
  );
  const writer = await TakeWriter.create(outPath, room.tracks);
  for (let at = 0; at < seconds * STEM_RATE; at += PORTION_FRAMES) {
    sounds.forEach(({ sound }, index) => {
      for (const side of [0, 1]) {
        const plane = inputs[index][side].fill(0);
        const from = at - starts[index];
        const part = sound[side].subarray(Math.max(0, from), Math.max(0, from + PORTION_FRAMES));
        plane.set(part, Math.max(0, Math.min(PORTION_FRAMES - part.length, -from)));
      }
    });
    renderer.render(inputs, PORTION_FRAMES);
    await writer.add(planes, PORTION_FRAMES);
    onProgress(Math.min(1, at / STEM_RATE / seconds));
  }
  await writer.finish();
  return Object.fromEntries(sounds.map(({ id }, index) => [id, starts[index] / STEM_RATE]));
}
