import { beforeAll, describe, expect, test } from '@jest/globals';
import { BLOCK_FRAMES, type Stereo } from '../audio/planes.ts';
import { staticMixes } from '../balance/sounds.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { findingsOf } from '../findings/findings.ts';
import { CovarianceMeter, loudnessOfMix } from '../measure/covariance.ts';
import { LoudnessMeter } from '../measure/loudness.ts';
import { TruePeakMeter } from '../measure/truePeak.ts';
import { Chain } from '../processors/chain.ts';
import { withHumCut } from '../processors/humCuts.ts';
import { PROCESSORS, type Processing } from '../processors/processing.ts';
import { reachOf } from '../reach/reach.ts';
import { remediesFor } from '../repair/remedies.ts';
import { type Bearer, everyProcessing, processingOf } from '../setup/bearers.ts';
import { applyEdit } from '../setup/edits.ts';
import { readSetupFile, writeSetupFile } from '../setup/file.ts';
import { processEdit } from '../setup/processEdit.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { LIMITER_FRAMES } from '../signal/limiterFrames.ts';
import { loadNoiseReduction } from '../signal/noiseReduction.ts';
import { rendered, same } from '../testing/rendering.ts';
import { noise } from '../testing/tones.ts';
import { ArrivingSounds } from './arrivingSounds.ts';

beforeAll(() => loadNoiseReduction());

const TODAY = '2026-06-01';
const FRAMES = 600 * BLOCK_FRAMES;
const LIMITER: Processing = [{ ...PROCESSORS.limiter.initial, ceilingDbtp: -6 }];
const COMPRESSOR: Processing = [{ ...PROCESSORS.compressor.initial, thresholdDb: -30 }];
const LIVE: Bearer = { kind: 'track', id: 'live-mix' };

function processed(setup: Setup, bearer: Bearer, processing: Processing): Setup {
  return applyEdit(setup, processEdit(setup, bearer, processing));
}

function stems(setup: Setup, level = 0.3): Stereo[] {
  return setup.sources.map((_, i): Stereo => {
    const sound = noise(i + 1, FRAMES).map((value) => value * level);
    return [sound, sound.map((value) => -0.5 * value)];
  });
}

function truePeakDbtp(planes: Stereo): number {
  return Math.max(
    ...planes.map((side) => {
      const meter = new TruePeakMeter();
      meter.add(side);
      return meter.peakDbtp() ?? Number.NEGATIVE_INFINITY;
    }),
  );
}

/** What comes out of a processing by itself. */
function through(processing: Processing, [left, right]: Stereo): Stereo {
  const planes: Stereo = [left.slice(), right.slice()];
  const chain = new Chain(processing, 48_000);
  for (let at = 0; at < FRAMES; at += BLOCK_FRAMES) chain.process(planes, at, at + BLOCK_FRAMES);
  return planes;
}

describe('a processing of everything together', () => {
  const plain = regattaGuessed();
  const inputs = stems(plain);
  const was = rendered(plain, inputs);

  test('on a track works on what everybody else gets as it was, and on its sum alone', () => {
    const is = rendered(processed(plain, LIVE, COMPRESSOR), inputs);
    expect(same(is('live'), through(COMPRESSOR, was('live')))).toBe(true);
    for (const { id } of reachOf(plain).destinations.filter(({ sendTo }) => sendTo !== 'live-mix'))
      expect([id, same(was(id), is(id))]).toEqual([id, true]);
  });

  test('in headphones is heard there and nowhere else', () => {
    const is = rendered(processed(plain, { kind: 'destination', id: 'headphones' }, LIMITER), inputs);
    expect(same(is('headphones'), through(LIMITER, was('headphones')))).toBe(true);
    expect(same(is('live'), was('live'))).toBe(true);
  });

  test('a limiter on it holds the true peak, however many sounds come together', () => {
    const loud = stems(plain, 0.9);
    const is = rendered(processed(plain, LIVE, LIMITER), loud);
    expect(truePeakDbtp(rendered(plain, loud)('live'))).toBeGreaterThan(0);
    expect(truePeakDbtp(is('live'))).toBeLessThanOrEqual(-6 + 0.01);
  });

  test('of a mix goes wherever the mix goes', () => {
    const setup = twoMachinesMadeRight();
    const mix = setup.mixes.find(({ inputs }) => inputs.length > 1) ?? setup.mixes[0];
    const all = stems(setup);
    const quieter = processed(setup, { kind: 'mix', id: mix.id }, [{ does: 'trim', gainDb: -6 }]);
    const reach = reachOf(setup);
    const passing = reach.destinations.filter(({ id }) =>
      setup.sources.some((source) => reach.at(source.id, id)?.places.flat().includes(mix.id)),
    );
    expect(passing.length).toBeGreaterThan(0);
    const [loud, soft] = [rendered(setup, all), rendered(quieter, all)];
    for (const { id } of passing) expect([id, same(loud(id), soft(id))]).toEqual([id, false]);
  });

  test('makes everything later there, which the route card says', () => {
    const limited = processed(plain, LIVE, LIMITER);
    const arrival = reachOf(limited).at('narrator', 'live');
    const legs = arrival?.paths[0].legs ?? [];
    expect(legs.find(({ what }) => what === 'processed with everything else')?.delayMs).toBeCloseTo(
      LIMITER_FRAMES / 48,
      6,
    );
    expect(arrival?.delayMs).toBeCloseTo(
      (reachOf(plain).at('narrator', 'live')?.delayMs ?? 0) + LIMITER_FRAMES / 48,
      6,
    );
  });

  test('goes into the setup file and comes back', () => {
    const limited = processed(plain, LIVE, LIMITER);
    expect(readSetupFile(writeSetupFile(limited))).toEqual(limited);
    expect(everyProcessing(limited)).toEqual([
      {
        bearer: LIVE,
        field: `tracks[${plain.tracks.findIndex(({ id }) => id === 'live-mix')}]`,
        processing: LIMITER,
      },
    ]);
  });

  test('a source that is taken away is not listened to any more, by anything', () => {
    const ducking: Processing = [{ ...PROCESSORS.ducking.initial, key: 'wick' }, ...LIMITER];
    const bearers: Bearer[] = [
      LIVE,
      { kind: 'destination', id: 'headphones' },
      { kind: 'source', id: 'reedbox' },
      { kind: 'send', from: 'reedbox.pickup', to: 'live-mix' },
    ];
    const setup = bearers.reduce((now, bearer) => processed(now, bearer, ducking), plain);
    const after = applyEdit(setup, { edit: 'removeSource', id: 'wick' });
    expect(brokenRules(after)).toEqual([]);
    for (const bearer of bearers) expect(processingOf(after, bearer)).toEqual(LIMITER);
  });

  test('live has none of its own beside that of its track, and a file that says so is refused', () => {
    const broken = processed(plain, { kind: 'destination', id: 'live' }, LIMITER);
    expect(brokenRules(broken)).toEqual([
      {
        field: 'destinations[2].processing',
        rule: 'live gets its track as it is; give the processing to the track',
      },
    ]);
  });

  test('what ducks under a source that is not there is refused by its field', () => {
    const broken = processed(plain, LIVE, [{ ...PROCESSORS.ducking.initial, key: 'nobody' }]);
    expect(brokenRules(broken)).toEqual([
      {
        field: expect.stringMatching(/^tracks\[\d\]\.processing$/),
        rule: 'there is no source "nobody" to duck under',
      },
    ]);
  });
});

describe('figures that need no render', () => {
  const difference = (setup: Setup, destinationId: string) => {
    const inputs = stems(setup, 0.1);
    const { sources, sounds, mixes } = staticMixes(setup, reachOf(setup));
    const ids = setup.sources.map(({ id }) => id);
    const raw = sources.map(({ id }) => inputs[ids.indexOf(id)]);
    const meter = new CovarianceMeter(48_000, sounds.length);
    meter.add(new ArrivingSounds(sources, sounds, FRAMES).next(raw, FRAMES), FRAMES);
    const mix = mixes.find(({ destination }) => destination.id === destinationId);
    const measured = new LoudnessMeter(48_000, 2);
    measured.add(rendered(setup, inputs)(destinationId), FRAMES);
    const said = loudnessOfMix(meter.result(), mix?.gains ?? []).integratedLufs ?? 0;
    return { mix, off: Math.abs(said - (measured.result().integratedLufs ?? 0)) };
  };

  test('know filters, trims and ducking of a whole exactly', () => {
    const filtered: Processing = [
      PROCESSORS['high-pass'].initial,
      { ...PROCESSORS.band.initial, gainDb: 9 },
      { does: 'trim', gainDb: 3 },
      { ...PROCESSORS.ducking.initial, key: 'narrator' },
    ];
    const { mix, off } = difference(processed(regattaGuessed(), LIVE, filtered), 'live');
    expect(mix?.isBlended).toBe(false);
    expect(off).toBeLessThan(0.05);
  });

  test('say that they leave out what works on several sounds together', () => {
    expect(difference(processed(regattaGuessed(), LIVE, COMPRESSOR), 'live').mix?.isBlended).toBe(true);
    expect(difference(regattaGuessed(), 'live').mix?.isBlended).toBe(false);
  });

  test('give a compressor on a send what arrives there, not what the source began with', () => {
    const quieter = applyEdit(regattaGuessed(), {
      edit: 'updateSource',
      id: 'narrator',
      values: { levelDb: -12 },
    });
    const setup = processed(quieter, { kind: 'send', from: 'narrator.pickup', to: 'live-mix' }, COMPRESSOR);
    expect(difference(setup, 'live').off).toBeLessThan(0.05);
  });

  test('duck a late sound when the voice sounds, not by its lateness earlier', () => {
    const late = applyEdit(regattaGuessed(), {
      edit: 'updatePickup',
      id: 'reedbox.pickup',
      values: { delayMs: 300 },
    });
    const ducking: Processing = [{ ...PROCESSORS.ducking.initial, key: 'narrator', depthDb: 24 }];
    expect(difference(processed(late, LIVE, ducking), 'live').off).toBeLessThan(0.05);
  });
});

describe('the same twice on one way', () => {
  const found = (setup: Setup) => findingsOf(setup, TODAY).filter(({ code }) => code === 'double-processing');
  const voice = processed(regattaGuessed(), { kind: 'source', id: 'narrator' }, COMPRESSOR);

  test('a compressor on the voice and on everything that live gets is found, with both places', () => {
    const setup = processed(voice, LIVE, COMPRESSOR);
    const [finding, ...others] = found(setup);
    expect(others).toEqual([]);
    expect(finding.message).toContain('in its own processing and again in the whole of “Live mix”');
    const remedies = remediesFor(setup, finding, TODAY);
    expect(remedies.map(({ label }) => label)).toEqual([
      'Bypass the compressor of Narrator',
      'Bypass the compressor of the whole of “Live mix”',
    ]);
    for (const { edit } of remedies) expect(found(applyEdit(setup, edit))).toEqual([]);
  });

  test('so is one on its send; a limiter after a compressor is no fault', () => {
    const send: Bearer = { kind: 'send', from: 'narrator.pickup', to: 'live-mix' };
    expect(found(processed(voice, send, COMPRESSOR))).toHaveLength(1);
    expect(found(processed(voice, LIVE, LIMITER))).toEqual([]);
  });

  test('an equaliser on everything is no second one after cuts at the lines of a hum, but after a band it is', () => {
    const band: Processing = [PROCESSORS.band.initial];
    const humming: Bearer = { kind: 'source', id: 'minnow' };
    const setup = processed(regattaGuessed(), LIVE, band);
    expect(found(processed(setup, humming, withHumCut([], 50)))).toEqual([]);
    expect(found(processed(setup, humming, band))).toHaveLength(1);
    const both = processed(setup, humming, [...withHumCut([], 50), ...band]);
    const [remedy] = remediesFor(both, found(both)[0], TODAY);
    expect(remedy.label).toBe('Bypass the equaliser of Minnow');
    const after = processingOf(applyEdit(both, remedy.edit), humming);
    expect(after.map(({ off }) => off ?? false)).toEqual([false, false, false, false, true]);
  });

  test('of three gates in a row one is left', () => {
    const gate = PROCESSORS.gate.initial;
    const setup = processed(regattaGuessed(), { kind: 'source', id: 'narrator' }, [gate, gate, gate]);
    expect(found(setup)).toHaveLength(1);
    const [remedy] = remediesFor(setup, found(setup)[0], TODAY);
    const after = applyEdit(setup, remedy.edit);
    expect(found(after)).toEqual([]);
    expect(after.sources[0].processing?.map(({ off }) => off ?? false)).toEqual([false, true, true]);
  });
});
