import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Stereo } from '../core/audio/planes.ts';
import { toMono } from '../core/signal/mono.ts';
import { Stem } from './media/stem.ts';
import { TakeWriter, type WrittenTrack } from './media/takeWriter.ts';

/** The folder of the voices that are shipped. */
export const VOICES = fileURLToPath(new URL('../assets/voices/', import.meta.url));

/** Makes a folder for one test file, and a function that removes it. */
export function testFolder(): { path: string; remove: () => void } {
  const path = mkdtempSync(join(tmpdir(), 'northfen-test-'));
  return { path, remove: () => rmSync(path, { recursive: true, force: true }) };
}

/** Writes a mono sound into both sides of one track of a file. */
export async function writeSound(
  path: string,
  samples: Float32Array,
  track: Partial<WrittenTrack> = {},
  container: 'mkv' | 'wav' = 'mkv',
): Promise<void> {
  const writer = await TakeWriter.create(
    path,
    [{ name: 'Sound', codec: 'pcm-s16', layout: 'stereo', ...track }],
    { container },
  );
  for (let at = 0; at < samples.length; at += 24_000) {
    const part = samples.subarray(at, at + 24_000);
    await writer.add([[part, part]], part.length);
  }
  await writer.finish();
}

/** Reads a track of a file as mono at 48 kHz. @param seconds at most as much of it */
export async function readSound(path: string, track = 0, seconds = 600): Promise<Float32Array> {
  const stem = await Stem.open(path, track, { allowCut: true });
  const whole = new Float32Array(seconds * 48_000);
  const planes: Stereo = [new Float32Array(48_000), new Float32Array(48_000)];
  let length = 0;
  for (;;) {
    const frames = Math.min(await stem.read(planes, 48_000), whole.length - length);
    if (frames === 0) break;
    whole.set(toMono(planes).subarray(0, frames), length);
    length += frames;
  }
  await stem.close();
  return whole.slice(0, length);
}
