import { beforeAll, describe, expect, test } from '@jest/globals';
import { Kernels } from '../../kernels/kernels.ts';
import { noise, rms, sine } from '../../testing/tones.ts';
import { loadFft, type RealFft } from '../fft.ts';
import { LAGS } from './correlate.ts';
import {
  activeStretches,
  clearStretches,
  gainBlock,
  spreadEvidence,
  stretchEvidence,
  stretchPowers,
} from './evidence.ts';
import { LevelEstimator } from './level.ts';
import { emptyState, joinedStates, PairEvidence } from './pair.ts';
import { PresenceSurvey } from './survey.ts';
import { REFERENCE_FLOOR, TRACK_FLOOR, Whitener } from './whiten.ts';
import type { WindowEvidence } from './windowEvidence.ts';
import { FLAT_RATE, FLAT_WINDOW_FRAMES, LOW_HZ, MAX_LAG, RATE, STRETCHES, WINDOW_FRAMES } from './windows.ts';

let makeFft: (size: number) => RealFft;
let kernels: Kernels;
beforeAll(async () => {
  makeFft = await loadFft();
  kernels = new Kernels(1 << 24);
});

/** A window as it comes out of the flattening. */
function flatOf(samples: Float32Array, floor: number): Float32Array {
  const flat = kernels.floats(FLAT_WINDOW_FRAMES);
  new Whitener(makeFft, kernels).whiten(kernels.copyOf(samples), [{ flat, floor }]);
  return flat;
}

/** The power of a flattened sound in a band (Hz), by the sum that defines the transform. */
function bandPower(samples: Float32Array, fromHz: number, toHz: number): number {
  const size = 4096;
  const fft = makeFft(size);
  const spectrum = new Float32Array(size);
  fft.forward(samples.subarray(20_000, 20_000 + size), spectrum);
  let power = 0;
  for (let bin = Math.ceil((fromHz / FLAT_RATE) * size); bin < (toHz / FLAT_RATE) * size; bin++)
    power += spectrum[2 * bin] ** 2 + spectrum[2 * bin + 1] ** 2;
  fft.close();
  return power / (toHz - fromHz);
}

describe('flattening', () => {
  /** Loud below 1 kHz, 60 dB quieter above; and silent in its first second. */
  function uneven(): Float32Array {
    const samples = noise(5, WINDOW_FRAMES);
    let low = 0;
    for (let i = 0; i < samples.length; i++) {
      low += 0.05 * (samples[i] - low);
      samples[i] = i < RATE ? 0 : low + 0.001 * samples[i];
    }
    return samples;
  }

  test('gives every part of the band the same power, and silence stays silent', () => {
    const flat = flatOf(uneven(), TRACK_FLOOR);
    expect(flat.subarray(0, FLAT_RATE - 1280).every((value) => value === 0)).toBe(true);
    const low = bandPower(flat.subarray(FLAT_RATE), 200, 1000);
    const high = bandPower(flat.subarray(FLAT_RATE), 8000, 14_000);
    expect(Math.abs(10 * Math.log10(low / high))).toBeLessThan(3);
  });

  test('leaves nothing below the band', () => {
    const flat = flatOf(sine(30, -6, 5), REFERENCE_FLOOR);
    const full = flatOf(noise(6, WINDOW_FRAMES), REFERENCE_FLOOR);
    expect(bandPower(flat, 10, LOW_HZ * 0.5)).toBeLessThan(0.05 * bandPower(full, 200, 1000));
  });

  test('goes on where it stopped: the second half alone comes out as it does in the whole', () => {
    const samples = noise(8, WINDOW_FRAMES);
    const whole = flatOf(samples, TRACK_FLOOR);
    const again = kernels.copyOf(whole);
    const from = WINDOW_FRAMES / 2;
    again.fill(9, (from / RATE) * FLAT_RATE);
    new Whitener(makeFft, kernels).whiten(
      kernels.copyOf(samples),
      [{ flat: again, floor: TRACK_FLOOR }],
      from,
    );
    for (let i = 0; i < whole.length; i += 101) expect(again[i]).toBeCloseTo(whole[i], 5);
  });

  test('keeps a sound in its place in time', () => {
    const click = new Float32Array(WINDOW_FRAMES);
    click[3 * RATE] = 1;
    const flat = flatOf(click, TRACK_FLOOR);
    let loudest = 0;
    flat.forEach((value, i) => {
      if (Math.abs(value) > Math.abs(flat[loudest])) loudest = i;
    });
    expect(loudest).toBe(3 * FLAT_RATE);
  });
});

describe('evidence, a quarter of a second at a time', () => {
  test('a sound is active where it is not far below its loudest', () => {
    const samples = noise(2, WINDOW_FRAMES);
    for (let i = 0; i < 2 * RATE; i++) samples[i] *= 0.001;
    const powers = new Float64Array(STRETCHES);
    stretchPowers(kernels.loops, kernels.copyOf(samples), powers, 0);
    const active = activeStretches(powers);
    expect(active.slice(0, 8).every((one) => !one)).toBe(true);
    expect(active.slice(8).every((one) => one)).toBe(true);
    expect(Math.sqrt(powers[12])).toBeCloseTo(rms(samples.subarray(3 * RATE, 3.25 * RATE)), 3);
  });

  test('is high where the track holds the reference late, near nothing where it does not, and turns with polarity', () => {
    const reference = kernels.copyOf(noise(3, FLAT_WINDOW_FRAMES));
    const track = kernels.copyOf(noise(4, FLAT_WINDOW_FRAMES));
    const lag = 500;
    for (let i = 2 * FLAT_RATE; i < 4 * FLAT_RATE; i++) track[i + lag] -= 0.5 * reference[i];
    const evidence = stretchEvidence(kernels.loops, reference, track, { lag, polarity: -1 }, FLAT_RATE);
    expect(Math.min(...evidence.slice(8, 15))).toBeGreaterThan(20);
    expect(Math.max(...evidence.slice(0, 7).map(Math.abs))).toBeLessThan(5);
    const other = stretchEvidence(kernels.loops, reference, track, { lag, polarity: 1 }, FLAT_RATE);
    expect(Math.max(...other.slice(8, 15))).toBeLessThan(-20);
  });

  test('no stretch counts for more than three spreads, and silent ones for none', () => {
    const evidence = new Float32Array(STRETCHES);
    evidence[4] = 100;
    const all = Array.from({ length: STRETCHES }, () => true);
    expect(spreadEvidence(evidence, all)).toBeCloseTo(3 / Math.sqrt(STRETCHES), 5);
    const one = all.map((_, i) => i === 4);
    expect(spreadEvidence(evidence, one)).toBeCloseTo(3, 5);
    expect(
      spreadEvidence(
        evidence,
        all.map(() => false),
      ),
    ).toBe(0);
  });

  test('the gain is estimated over one block of a second at least, from the first clear stretch to the last', () => {
    const evidence = new Float32Array(STRETCHES);
    evidence[6] = 20;
    expect(clearStretches(evidence).filter(Boolean)).toHaveLength(1);
    const block = gainBlock(evidence);
    expect(block.filter(Boolean).length).toBeGreaterThanOrEqual(4);
    expect(block[6]).toBe(true);
    evidence[15] = 18;
    const wide = gainBlock(evidence);
    expect(wide.map((used, i) => (used ? i : -1)).filter((i) => i >= 0)).toEqual([
      6, 7, 8, 9, 10, 11, 12, 13, 14, 15,
    ]);
  });
});

describe('the level', () => {
  const all = Array.from({ length: STRETCHES }, () => true);

  function estimate(gain: number, louderDb: number, shift = 0): number {
    const levels = new LevelEstimator(makeFft, kernels);
    const reference = noise(11, WINDOW_FRAMES);
    const other = noise(12, WINDOW_FRAMES);
    const track = reference.map(
      (_, i) => gain * (reference[i - shift] ?? 0) + gain * 10 ** (louderDb / 20) * other[i],
    );
    const [mine, theirs] = [levels.newSpectrum(), levels.newSpectrum()];
    levels.spectrumOf(kernels.copyOf(reference), -shift, mine);
    levels.spectrumOf(kernels.copyOf(track), 0, theirs);
    return levels.gainOf(mine, theirs, 0, all).gain;
  }

  test.each([0, -20, -40])('is right within 0.5 dB for a gain of %i dB, alone', (gainDb) => {
    expect(20 * Math.log10(estimate(10 ** (gainDb / 20), -100))).toBeCloseTo(gainDb, 1);
  });

  test('is right within 1 dB below a sound that is 20 dB louder', () => {
    expect(Math.abs(20 * Math.log10(estimate(0.1, 20)) + 20)).toBeLessThan(1);
  });

  test('follows a delay of whole frames', () => {
    expect(Math.abs(20 * Math.log10(estimate(0.5, -60, 3000)) + 6.02)).toBeLessThan(0.5);
  });
});

describe('the decision over the windows of a pair', () => {
  const window = (index: number, more: Partial<WindowEvidence>): WindowEvidence => ({
    index,
    order: index,
    testable: true,
    referenceDb: -20,
    peak: null,
    spread: 0,
    activeStretches: STRETCHES,
    newStretches: STRETCHES / 2,
    firstClear: -1,
    lastClear: -1,
    gain: 0,
    weight: 0,
    gainLag: null,
    significance: 0,
    ...more,
  });
  const heard = (index: number, lag = 320): WindowEvidence =>
    window(index, {
      peak: { lag, height: 20, polarity: 1 },
      spread: 8,
      firstClear: 0,
      lastClear: STRETCHES - 1,
      gain: 0.1,
      weight: 1000,
      significance: 50,
    });

  test('a reference that is silent all along cannot be tested, which is not absent', () => {
    const pair = new PairEvidence();
    for (let index = 0; index < 5; index++) pair.addWindow(window(index, { testable: false }));
    expect(pair.result(15)).toMatchObject({ testable: false, present: false, levelDb: null });
  });

  test('a high peak without a gain that stands above its uncertainty is chance', () => {
    const pair = new PairEvidence();
    pair.addWindow({ ...heard(0), significance: 0.5 });
    expect(pair.result(5).present).toBe(false);
  });

  test('what is heard only where the reference is at its own floor is what both sounds share, and not the reference', () => {
    const pair = new PairEvidence();
    for (let index = 0; index < 12; index++)
      pair.addWindow(
        index % 3 === 0 ? { ...heard(index), referenceDb: -62 } : window(index, { referenceDb: -20 }),
      );
    expect(pair.result(40).present).toBe(false);
    const other = new PairEvidence();
    for (let index = 0; index < 12; index++)
      other.addWindow(index % 3 === 0 ? heard(index) : window(index, { referenceDb: -62 }));
    expect(other.result(40).present).toBe(true);
  });

  test('one window alone is chance, unless it stands far above it; two that follow each other back each other', () => {
    const single = { peak: { lag: 320, height: 9, polarity: 1 as const }, significance: 6 };
    const alone = new PairEvidence();
    alone.addWindow({ ...heard(3), ...single });
    expect(alone.result(30).present).toBe(false);
    const strong = new PairEvidence();
    strong.addWindow(heard(3));
    expect(strong.result(30).present).toBe(true);
    const others: [Partial<WindowEvidence>, boolean][] = [
      [{}, true],
      [{ gain: -0.1 }, false],
      [{ gain: 0.5 }, false],
      [{ peak: { lag: 380, height: 9, polarity: 1 } }, false],
      [{ index: 4, order: 4 }, false],
      [{ index: 9, order: 9 }, false],
      [{ index: 9, order: 4 }, true],
    ];
    for (const [more, isPresent] of others) {
      const pair = new PairEvidence();
      pair.addWindow({ ...heard(3), ...single });
      pair.addWindow({ ...heard(5), ...single, ...more });
      expect(pair.result(40).present).toBe(isPresent);
    }
  });

  test('what no window shows by itself, many may show together', () => {
    const together = (gainOf: (index: number) => number) => {
      const pair = new PairEvidence(emptyState(kernels.floats(LAGS)));
      const lags = kernels.floats(LAGS);
      for (let i = 0; i < LAGS; i++) lags[i] = 0.3 * Math.sin(i * i);
      lags[MAX_LAG + 320] = 6;
      for (let index = 0; index < 24; index++) {
        pair.addLags(kernels.loops, lags);
        pair.addWindow(
          window(index, {
            peak: { lag: 320, height: 5, polarity: 1 },
            gain: gainOf(index),
            weight: 4e4,
            gainLag: 320,
            significance: 2,
          }),
        );
      }
      return pair.result(62.5, true);
    };
    expect(together(() => 0.01)).toMatchObject({ present: true, intervals: [{ startS: 0, endS: 62.5 }] });
    expect(together((index) => (index % 2 === 0 ? 0.01 : -0.01)).present).toBe(false);
  });

  test('parts of a recording are judged as the whole would be', () => {
    const [whole, first, second] = [new PairEvidence(), new PairEvidence(), new PairEvidence()];
    for (const index of [0, 1, 2, 5, 6, 7]) {
      whole.addWindow({ ...heard(index), order: whole.state.testable });
      const part = index < 4 ? first : second;
      part.addWindow({ ...heard(index), order: part.state.testable });
    }
    const joined = new PairEvidence(joinedStates([first.state, second.state]));
    expect(joined.result(30)).toEqual(whole.result(30));
  });

  test('windows that agree merge into intervals with level and offset', () => {
    const pair = new PairEvidence();
    for (const index of [0, 1, 2]) pair.addWindow(heard(index));
    for (const index of [3, 4, 5, 6]) pair.addWindow(window(index, {}));
    for (const index of [7, 8]) pair.addWindow(heard(index));
    const { present, levelDb, offsetMs, intervals, heardShare } = pair.result(27);
    expect(present).toBe(true);
    expect(levelDb).toBeCloseTo(-20, 5);
    expect(offsetMs).toBeCloseTo(10, 5);
    expect(intervals.map(({ startS, endS }) => [startS, endS])).toEqual([
      [0, 10],
      [17.5, 25],
    ]);
    expect(heardShare).toBeCloseTo(5 / 9, 5);
  });

  test('an interval ends with the sound, not after it', () => {
    const pair = new PairEvidence();
    for (const index of [0, 1]) pair.addWindow(heard(index));
    expect(pair.result(6.2).intervals).toMatchObject([{ startS: 0, endS: 6.2 }]);
  });

  test('a window that shows another lag does not belong to the interval', () => {
    const pair = new PairEvidence();
    for (const index of [0, 1, 2]) pair.addWindow(heard(index));
    pair.addWindow({ ...heard(3, -5000), peak: { lag: -5000, height: 6, polarity: 1 } });
    expect(pair.result(20).intervals).toHaveLength(1);
  });
});

describe('what sounds of one room share', () => {
  test('two sounds that hum alike are not one another', async () => {
    const frames = 20 * RATE;
    const hum = new Float32Array(frames);
    for (const harmonic of [1, 2, 3, 4, 5, 7, 9, 11])
      for (let i = 0; i < frames; i++)
        hum[i] += Math.sin((2 * Math.PI * 50.02 * harmonic * i) / RATE + harmonic) / harmonic;
    const humming = (seed: number) => noise(seed, frames).map((value, i) => 0.01 * value + 0.2 * hum[i]);
    const [one, other] = [humming(5), humming(6)];
    const survey = new PresenceSurvey(await loadFft(), 1, 1);
    survey.add([[one, one]], [[other, other]], one.length);
    expect(survey.results()[0][0].present).toBe(false);
  });
});

describe('the survey', () => {
  const both = (side: Float32Array) => [side, side] as const;

  test('finds a sound that lost its upper range on the way, where nothing else sounds there', () => {
    const seconds = 10;
    const reference = noise(45, seconds * RATE);
    // Every eighth of the last samples counts: little is left above 3 kHz, and no other sound covers that.
    const low = (sound: Float32Array) => {
      let out = sound;
      for (let pass = 0; pass < 6; pass++) {
        let sum = 0;
        out = out.map((value, i, all) => {
          sum += value - (all[i - 8] ?? 0);
          return sum / 8;
        });
      }
      return out;
    };
    const heard = low(reference);
    const track = low(noise(46, seconds * RATE)).map((value, i) => value + 0.3 * (heard[i - 480] ?? 0));
    const survey = new PresenceSurvey(makeFft, 1, 1);
    survey.add([both(reference)], [both(track)], reference.length);
    const [[found]] = survey.results();
    expect(found.present).toBe(true);
    expect(found.levelDb).toBeLessThan(-10);
    expect(found.levelDb).toBeGreaterThan(-30);
  });

  test('tells how two clocks run apart, and hears the sound all along', () => {
    const seconds = 75;
    const reference = noise(43, seconds * RATE);
    const track = noise(44, seconds * RATE).map((value, i) => {
      const at = i * (1 - 20e-6) - 480;
      const whole = Math.floor(at);
      const [here, next] = [reference[whole] ?? 0, reference[whole + 1] ?? 0];
      return value + here + (at - whole) * (next - here);
    });
    const survey = new PresenceSurvey(makeFft, 1, 1);
    survey.add([both(reference)], [both(track)], reference.length);
    const [[found]] = survey.results();
    expect(Math.abs((found.driftPpm ?? 0) - 20)).toBeLessThan(2);
    expect(found.heardShare).toBeGreaterThan(0.95);
  });

  test('gives the same answer whatever the portions that it is fed', () => {
    const reference = noise(41, 12 * RATE);
    const track = noise(42, 12 * RATE).map((value, i) => value + 0.2 * (reference[i - 240] ?? 0));
    const whole = new PresenceSurvey(makeFft, 1, 1);
    whole.add([both(reference)], [both(track)], reference.length);
    const parts = new PresenceSurvey(makeFft, 1, 1);
    for (let start = 0; start < reference.length; start += 19_999) {
      const end = Math.min(reference.length, start + 19_999);
      parts.add([both(reference.subarray(start, end))], [both(track.subarray(start, end))], end - start);
    }
    const [[one]] = whole.results();
    expect(parts.results()[0][0]).toEqual(one);
    expect(one.present).toBe(true);
    expect(one.offsetMs).toBeCloseTo(5, 1);
  });

  test('tells every pair apart: each reference is found just in the track that holds it', () => {
    const references = [noise(51, 8 * RATE), noise(52, 8 * RATE)];
    const tracks = [references[0], noise(53, 8 * RATE)].map((samples) => samples.slice());
    tracks[1] = tracks[1].map((value, i) => value + 0.5 * references[1][i]);
    const survey = new PresenceSurvey(makeFft, 2, 2);
    survey.add(references.map(both), tracks.map(both), references[0].length);
    expect(survey.results().map((row) => row.map(({ present }) => present))).toEqual([
      [true, false],
      [false, true],
    ]);
  });
});
