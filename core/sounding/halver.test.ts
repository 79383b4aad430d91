import { expect, test } from '@jest/globals';
import { seededRandom } from '../audio/random.ts';
import { withFft } from '../measure/fft.ts';
import { Halver } from './halver.ts';

const { abs, max, PI, sin } = Math;

/** A tone at 48 kHz, from its first frame to its last. */
const tone = (hz: number, frames: number) =>
  Float32Array.from({ length: frames }, (_, i) => sin((2 * PI * hz * i) / 48_000));

test('what a halved rate carries stays as it is over all blocks, and what it cannot carry goes', async () => {
  await withFft((makeFft) => {
    const halver = new Halver(makeFft);
    const frames = 100_001;
    for (const hz of [100, 1000, 9900]) {
      const made = halver.halved(tone(hz, frames));
      expect(made.length).toBe(50_001);
      let worst = 0;
      for (let i = 40; i < made.length - 40; i++)
        worst = max(worst, abs(made[i] - sin((2 * PI * hz * 2 * i) / 48_000)));
      expect(worst).toBeLessThan(3e-4);
    }
    const gone = halver.halved(tone(14_500, frames));
    expect(gone.subarray(40, -40).reduce((most, one) => max(most, abs(one)), 0)).toBeLessThan(3e-4);
  });
});

test('each frame comes from its own filter, at the seams of blocks and at both ends', async () => {
  const random = seededRandom(3);
  const sound = Float32Array.from({ length: 70_000 }, () => random() - 0.5);
  const tapAt = (at: number) => {
    if (at === 0) return 0.5;
    if (at % 2 === 0 || abs(at) > 48) return 0;
    const window = 0.42 + 0.5 * Math.cos((PI * at) / 48) + 0.08 * Math.cos((2 * PI * at) / 48);
    return (window * sin((PI * at) / 2)) / (PI * at);
  };
  const made = await withFft((makeFft) => new Halver(makeFft).halved(sound));
  for (const at of [0, 1, 16_300, 16_335, 16_336, 16_360, 32_671, 32_672, 34_998, 34_999]) {
    let sum = 0;
    for (let tap = -48; tap <= 48; tap++) sum += tapAt(tap) * (sound[2 * at + tap] ?? 0);
    expect(abs(made[at] - sum)).toBeLessThan(1e-5);
  }
});
