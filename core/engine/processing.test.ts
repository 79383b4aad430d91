import { describe, expect, test } from '@jest/globals';
import { BLOCK_FRAMES, newStereo, type Stereo } from '../audio/planes.ts';
import { staticMixes } from '../balance/sounds.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { findingsOf } from '../findings/findings.ts';
import type { Calibration } from '../measure/calibrate.ts';
import { CovarianceMeter, loudnessOfMix } from '../measure/covariance.ts';
import { LoudnessMeter } from '../measure/loudness.ts';
import { Chain } from '../processors/chain.ts';
import { processingFrom } from '../processors/fromSample.ts';
import { PROCESSORS, type Processing, ProcessingSchema } from '../processors/processing.ts';
import { reachOf } from '../reach/reach.ts';
import { remediesFor } from '../repair/remedies.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { readSetupFile, writeSetupFile } from '../setup/file.ts';
import type { Setup } from '../setup/schema.ts';
import { noise } from '../testing/tones.ts';
import { ArrivingSounds } from './arrivingSounds.ts';
import { compileDestinations, differInGainsOnly } from './destinations.ts';
import { RehearsalEngine } from './rehearsal.ts';
import { Renderer } from './renderer.ts';

const TODAY = '2026-05-01';
const FRAMES = 400 * BLOCK_FRAMES;
const VOICE: Processing = [
  PROCESSORS['high-pass'].initial,
  PROCESSORS.gate.initial,
  PROCESSORS.compressor.initial,
  { does: 'band', shape: 'high-shelf', hz: 6000, gainDb: 4, q: 0.7 },
];

function processed(processing: Processing, source = 'narrator'): Setup {
  return applyEdit(regattaGuessed(), { edit: 'updateSource', id: source, values: { processing } });
}

/** Noise that is loud and quiet in turn. */
function stems(setup: Setup): Stereo[] {
  return setup.sources.map((_, i): Stereo => {
    const shaped = (seed: number) =>
      noise(seed, FRAMES).map((value, at) => value * (((at >> 12) + i) % 3 === 0 ? 0.4 : 0.002));
    return [shaped(i), shaped(i + 30)];
  });
}

describe('processing of a source', () => {
  test('is what its chain makes of the recording, for everybody, and nothing else changes', () => {
    const setup = processed(VOICE);
    const inputs = stems(setup);
    const at = setup.sources.findIndex(({ id }) => id === 'narrator');
    const byHand: Stereo = [inputs[at][0].slice(), inputs[at][1].slice()];
    new Chain(VOICE, 48_000).process(byHand, 0, FRAMES);
    const { schedule } = compileDestinations(setup);
    const renderer = new Renderer(schedule, FRAMES);
    renderer.render(inputs, FRAMES);
    const plain = new Renderer(compileDestinations(regattaGuessed()).schedule, FRAMES);
    plain.render(
      inputs.map((planes, i) => (i === at ? byHand : planes)),
      FRAMES,
    );
    schedule.outputs.forEach((_, output) => {
      expect(renderer.outputs[output]).toEqual(plain.outputs[output]);
    });
  });

  test('sounds the same in a rehearsal as in a render', () => {
    const setup = processed(VOICE);
    const inputs = stems(setup);
    const rehearsable = compileDestinations(setup);
    const engine = new RehearsalEngine(
      rehearsable,
      inputs.map(() => true),
      { ringFrames: FRAMES, endFrame: FRAMES },
    );
    inputs.forEach(([left, right], i) => {
      engine.feed(i, 0, left, right);
    });
    engine.playing = true;
    const live = rehearsable.destinations.findIndex(({ id }) => id === 'live');
    engine.listen(live);
    const renderer = new Renderer(rehearsable.schedule, FRAMES);
    renderer.render(inputs, FRAMES);
    const rendered = renderer.outputs[rehearsable.destinations[live].parts[0].output];
    const [left, right] = newStereo(BLOCK_FRAMES);
    for (let block = 0; block < 400; block++) {
      engine.process(left, right);
      const from = block * BLOCK_FRAMES;
      if (block >= 4) expect(left).toEqual(rendered[0].subarray(from, from + BLOCK_FRAMES));
    }
  });

  test('goes on in silence as if it never rested: slow releases, holds and filters', () => {
    const slow: Processing = [
      { ...PROCESSORS.gate.initial, holdMs: 2500, releaseMs: 800 },
      { ...PROCESSORS.compressor.initial, thresholdDb: -50, ratio: 20, releaseMs: 4000 },
      { does: 'high-pass', hz: 20 },
    ];
    const setup = processed(slow);
    const blocks = Math.ceil((8 * 48_000) / BLOCK_FRAMES) * BLOCK_FRAMES;
    const sound = new Float32Array(blocks);
    sound.set(noise(1, 4800));
    sound.set(noise(2, 4800), 4 * 48_000);
    const inputs = setup.sources.map(
      ({ id }): Stereo => (id === 'narrator' ? [sound, sound] : newStereo(blocks)),
    );
    const { schedule } = compileDestinations(setup);
    const renderer = new Renderer(schedule, blocks);
    renderer.render(inputs, blocks);
    const byHand: Stereo = [sound.slice(), sound.slice()];
    new Chain(slow, 48_000).process(byHand, 0, blocks);
    const voice = renderer.outputs[schedule.outputs.findIndex(({ id }) => id === 'voice')][0];
    let apart = 0;
    for (let i = 0; i < blocks; i++) if (Math.abs(voice[i] - byHand[0][i]) > 1e-6) apart += 1;
    expect(apart).toBe(0);
  });

  test('is at rest some time after the last sound, and costs nothing then', () => {
    const chain = new Chain(VOICE, 48_000);
    expect(chain.isAtRest).toBe(true);
    const planes: Stereo = [noise(3, 4800), noise(4, 4800)];
    chain.process(planes, 0, 4800);
    expect(chain.isAtRest).toBe(false);
    const silent = newStereo(48_000);
    for (let second = 0; second < 6; second++) {
      for (const plane of silent) plane.fill(0);
      for (let at = 0; at < 48_000; at += 128) chain.process(silent, at, Math.min(48_000, at + 128));
    }
    expect(chain.isAtRest).toBe(true);
  });

  test('a step that is changed needs another schedule; a level beside it does not', () => {
    const setup = processed(VOICE);
    const other = processed([{ ...PROCESSORS['high-pass'].initial, hz: 120 }]);
    expect(differInGainsOnly(compileDestinations(setup).schedule, compileDestinations(other).schedule)).toBe(
      false,
    );
    const louder = applyEdit(setup, { edit: 'setSend', pickup: 'game.pickup', to: 'live-mix', gainDb: -3 });
    expect(differInGainsOnly(compileDestinations(setup).schedule, compileDestinations(louder).schedule)).toBe(
      true,
    );
    const bypassed = processed(VOICE.map((step) => ({ ...step, off: true })));
    expect(compileDestinations(bypassed).schedule.chains.every((chain) => chain === null)).toBe(true);
  });

  test('counts in the figures that need no render', () => {
    const setup = processed(VOICE);
    const inputs = stems(setup);
    const { sounds, mixes } = staticMixes(setup, reachOf(setup));
    const meter = new CovarianceMeter(48_000, sounds.length);
    meter.add(new ArrivingSounds(setup.sources, sounds, FRAMES).next(inputs, FRAMES), FRAMES);
    const { schedule, destinations } = compileDestinations(setup);
    const renderer = new Renderer(schedule, FRAMES);
    renderer.render(inputs, FRAMES);
    const live = destinations.find(({ id }) => id === 'live');
    const measured = new LoudnessMeter(48_000, 2);
    measured.add(renderer.outputs[live?.parts[0].output ?? 0], FRAMES);
    const mix = mixes.find(({ destination }) => destination.id === 'live');
    const said = loudnessOfMix(meter.result(), mix?.gains ?? []).integratedLufs ?? 0;
    expect(Math.abs(said - (measured.result().integratedLufs ?? 0))).toBeLessThan(0.05);
  });

  test('goes into the setup file and comes back', () => {
    expect(readSetupFile(writeSetupFile(processed(VOICE)))).toEqual(processed(VOICE));
  });
});

describe('double processing', () => {
  test('two gates on one source are found, and bypassing the second is the remedy', () => {
    const setup = processed([PROCESSORS.gate.initial, PROCESSORS.trim.initial, PROCESSORS.gate.initial]);
    const finding = findingsOf(setup, TODAY).find(({ code }) => code === 'double-processing');
    expect(finding?.message).toContain('Narrator goes through two noise gates');
    if (!finding) return;
    const [remedy] = remediesFor(setup, finding, TODAY);
    expect(remedy.label).toBe('Bypass the noise gate of Narrator');
    const after = applyEdit(setup, remedy.edit);
    expect(findingsOf(after, TODAY)).toEqual([]);
    expect(after.sources[0].processing?.map(({ off }) => off ?? false)).toEqual([false, false, true]);
  });

  test('several bands are one equaliser, and what is bypassed does not count', () => {
    const bands: Processing = [
      PROCESSORS.band.initial,
      PROCESSORS.band.initial,
      PROCESSORS.compressor.initial,
    ];
    expect(findingsOf(processed([...bands, { ...PROCESSORS.compressor.initial, off: true }]), TODAY)).toEqual(
      [],
    );
    expect(findingsOf(processed([...bands, PROCESSORS.compressor.initial]), TODAY)[0].code).toBe(
      'double-processing',
    );
  });
});

describe('a desk that works on the sound by itself', () => {
  const desk = (processing: Processing): Setup => {
    const edits: SimpleEdit[] = [
      { edit: 'updateDevice', id: 'sluicebox.mic', values: { does: ['gate', 'compressor'] } },
      { edit: 'updateSource', id: 'narrator', values: { processing } },
    ];
    return edits.reduce<Setup>(applyEdit, twoMachinesMadeRight());
  };
  const found = (setup: Setup) => findingsOf(setup, TODAY).filter(({ code }) => code === 'double-processing');

  test('is no fault by itself, but the same again in software is, and is told with its way', () => {
    expect(found(desk([]))).toEqual([]);
    expect(found(desk([PROCESSORS['high-pass'].initial, PROCESSORS.band.initial]))).toEqual([]);
    const [finding, ...others] = found(desk([PROCESSORS.gate.initial]));
    expect(others).toEqual([]);
    expect(finding.message).toContain(
      'Narrator gets a noise gate twice on its way to Friends in chat: in its own processing and again in “Microphone”',
    );
  });

  test('either is switched off: the step here, or the desk by hand', () => {
    const setup = desk([PROCESSORS.gate.initial]);
    const remedies = remediesFor(setup, found(setup)[0], TODAY);
    expect(remedies.map(({ label }) => label)).toEqual([
      'Bypass the noise gate of Narrator',
      'Switch the gate of “Microphone” off',
    ]);
    expect(remedies[1].handwork).toEqual(['On “Microphone”, leave on: compressor.']);
    for (const { edit } of remedies) expect(found(applyEdit(setup, edit))).toEqual([]);
  });

  test('two devices on one way count too', () => {
    const setup = applyEdit(desk([]), {
      edit: 'updateDevice',
      id: 'loft.desk',
      values: { does: ['compressor'] },
    });
    expect(found(setup)[0].message).toContain('in “Microphone” and again in “Desk feed”');
  });
});

describe('a processing from a sample', () => {
  const read: Calibration = {
    durationS: 20,
    floorDb: -66,
    speechDb: -26.3,
    quietSpeechDb: -42,
    thresholdDb: -50,
    gateDb: -45,
    gateChops: false,
    hum: null,
    dcOffset: 0,
    clippedShare: 0,
    histogram: [],
    remarks: [],
  };

  test('has a high-pass, a gate where it was read, and a trim to −20 dBFS', () => {
    expect(processingFrom(read, [], true)).toEqual([
      { does: 'high-pass', hz: 80 },
      { ...PROCESSORS.gate.initial, opensDb: -45 },
      { does: 'trim', gainDb: 6.3 },
    ]);
  });

  test('reduces noise that would be heard after the trim, by no more than a voice bears', () => {
    const reduction = (floorDb: number) =>
      processingFrom({ ...read, floorDb }, [], true).find(({ does }) => does === 'noise reduction');
    expect(reduction(-75)).toBeUndefined();
    expect(reduction(-55)).toEqual({ does: 'noise reduction', reduceDb: 13 });
    expect(reduction(-35)).toEqual({ does: 'noise reduction', reduceDb: 24 });
    expect(processingFrom({ ...read, floorDb: -35 }, [], false).map(({ does }) => does)).not.toContain(
      'noise reduction',
    );
    expect(processingFrom({ ...read, floorDb: -55, speechDb: null }, [], true)).not.toContainEqual(
      expect.objectContaining({ does: 'noise reduction' }),
    );
  });

  test('has no gate that would chop words, cuts the lines of a hum, and keeps a compressor', () => {
    const found = { ...read, gateChops: true, hum: { hz: 50 as const, overDb: 30 } };
    const proposed = processingFrom(found, [PROCESSORS.gate.initial, PROCESSORS.compressor.initial], true);
    expect(proposed.map((step) => (step.does === 'band' ? step.hz : step.does))).toEqual([
      'high-pass',
      50,
      100,
      150,
      'trim',
      'compressor',
    ]);
    expect(ProcessingSchema.safeParse(proposed).success).toBe(true);
    expect(processingFrom(found, proposed, true)).toEqual(proposed);
  });
});
