import { describe, expect, test } from '@jest/globals';
import { noise } from '../testing/tones.ts';
import { fftMemory, loadFft, withFft } from './fft.ts';
import { PresenceSurvey } from './presence/survey.ts';

describe('the memory of transforms', () => {
  test('is flat over 5,000 looks for one sound in another', async () => {
    const sound = noise(1, 4_800);
    const look = () =>
      withFft((makeFft) => {
        const survey = new PresenceSurvey(makeFft, 5, 5);
        const five = Array.from({ length: 5 }, (): [Float32Array, Float32Array] => [sound, sound]);
        survey.add(five, five, sound.length);
      });
    const before = await fftMemory();
    await look();
    const one = await fftMemory();
    for (let pairs = 25; pairs < 5_000; pairs += 25) await look();
    const after = await fftMemory();
    expect(one.open).toBe(before.open);
    expect(after).toEqual(one);
  });

  test('is given back when the work throws', async () => {
    const { open } = await fftMemory();
    await expect(
      withFft((makeFft) => {
        makeFft(1024);
        throw new Error('a fault on the way');
      }),
    ).rejects.toThrow('a fault on the way');
    expect((await fftMemory()).open).toBe(open);
  });

  test('is counted where it is not given back', async () => {
    const { open } = await fftMemory();
    const fft = (await loadFft())(1024);
    expect((await fftMemory()).open).toBe(open + 1);
    fft.close();
    fft.close();
    expect((await fftMemory()).open).toBe(open);
  });
});
