import { setImmediate } from 'node:timers/promises';
import { compileEars } from '../../core/engine/ears.ts';
import { BLOCK_FRAMES, newStereo, type Stereo } from '../../core/engine/planes.ts';
import { Renderer } from '../../core/engine/renderer.ts';
import { LoudnessMeter } from '../../core/measure/loudness.ts';
import { TruePeakMeter } from '../../core/measure/truePeak.ts';
import type { EarMeasures } from '../../core/records.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { toDb } from '../../core/signal/decibel.ts';
import { openStems } from './renderTake.ts';
import { STEM_RATE } from './stem.ts';

const PORTION_FRAMES = BLOCK_FRAMES * 150;

/** Renders a setup for everybody who listens, and measures each, without writing anything. */
export async function measureEars(
  setup: Setup,
  mediaFiles: Record<string, string>,
  onProgress: (share: number) => void = () => {},
): Promise<EarMeasures[]> {
  const { schedule, ears } = compileEars(setup);
  const renderer = new Renderer(schedule, PORTION_FRAMES);
  const listeners = ears.map(({ parts }) => {
    const isMono = parts.length === 1 && schedule.buses[parts[0].bus].layout === 'mono';
    return { parts, planes: newStereo(PORTION_FRAMES), meter: new EarMeter(isMono ? 1 : 2) };
  });
  const stems = await openStems(setup, mediaFiles);
  try {
    const inputs = stems.map(() => newStereo(PORTION_FRAMES));
    const expectedS = Math.max(...stems.map((stem) => stem?.expectedS ?? 0), 0.001);
    for (let done = 0; ; ) {
      let frames = 0;
      for (let i = 0; i < stems.length; i++)
        frames = Math.max(frames, (await stems[i]?.read(inputs[i], PORTION_FRAMES)) ?? 0);
      if (frames === 0) break;
      renderer.render(inputs, frames);
      for (const { parts, planes, meter } of listeners) {
        fold(renderer.outputs, parts, planes, frames);
        meter.add(planes, frames);
      }
      done += frames;
      onProgress(Math.min(1, done / STEM_RATE / expectedS));
      await setImmediate();
    }
  } finally {
    await Promise.all(stems.map((stem) => stem?.close()));
  }
  return ears.map(({ id }, index) => ({ destinationId: id, ...listeners[index].meter.result() }));
}

function fold(
  outputs: Stereo[],
  parts: ReturnType<typeof compileEars>['ears'][number]['parts'],
  [left, right]: Stereo,
  frames: number,
): void {
  left.fill(0);
  right.fill(0);
  for (const { bus, weights } of parts) {
    const [ll, rl, lr, rr] = weights;
    const [a, b] = outputs[bus];
    for (let i = 0; i < frames; i++) {
      left[i] += ll * a[i] + rl * b[i];
      right[i] += lr * a[i] + rr * b[i];
    }
  }
}

class EarMeter {
  private readonly loudness: LoudnessMeter;
  private readonly peaks: TruePeakMeter[];

  constructor(channels: number) {
    this.loudness = new LoudnessMeter(STEM_RATE, channels);
    this.peaks = Array.from({ length: channels }, () => new TruePeakMeter());
  }

  add(planes: Stereo, frames: number): void {
    this.loudness.add(planes, frames);
    this.peaks.forEach((meter, side) => {
      meter.add(planes[side], 0, frames);
    });
  }

  result() {
    const peak = Math.max(...this.peaks.map((meter) => meter.peak()));
    return { ...this.loudness.result(), truePeakDbtp: peak > 0 ? toDb(peak) : null };
  }
}
