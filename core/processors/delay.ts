import { z } from 'zod';
import { BLOCK_FRAMES, isSilent, newStereo, type Stereo } from '../audio/planes.ts';
import { DelayLine } from '../signal/delayLine.ts';
import { type Kind, numbers, off, type Stage } from './kind.ts';

const figures = { delayMs: { label: 'by', unit: 'ms', min: 0, max: 2000 } };

export const DelaySchema = z.strictObject({ does: z.literal('delay'), ...numbers(figures), off });
type Step = z.infer<typeof DelaySchema>;

const framesOf = ({ delayMs }: Step, sampleRate: number) => Math.round((delayMs * sampleRate) / 1000);

/** Makes a sound later. */
export const delay: Kind<Step> = {
  word: 'delay',
  initial: { does: 'delay', delayMs: 20 },
  figures,
  dependsOnLevel: false,
  keepsLevel: true,
  says: ({ delayMs }) => ` of ${delayMs} ms`,
  frames: framesOf,
  stage: (step, { sampleRate }) => new Delay(framesOf(step, sampleRate)),
};

class Delay implements Stage {
  private readonly line: DelayLine;
  private readonly late = newStereo(BLOCK_FRAMES);

  constructor(frames: number) {
    this.line = new DelayLine(frames, 0);
  }

  get isAtRest(): boolean {
    return this.line.isQuiet;
  }

  process(planes: Stereo, start: number, end: number): void {
    for (let at = start; at < end; at += BLOCK_FRAMES) {
      const count = Math.min(BLOCK_FRAMES, end - at);
      this.line.process(planes, isSilent(planes, at, at + count), at, count, this.late);
      for (let side = 0; side < 2; side++)
        for (let i = 0; i < count; i++) planes[side][at + i] = this.late[side][i];
    }
  }
}
