import { beforeAll, describe, expect, test } from '@jest/globals';
import { BLOCK_FRAMES, type Stereo } from '../audio/planes.ts';
import { asLoudWithout } from '../balance/compare.ts';
import { staticMixes } from '../balance/sounds.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { CovarianceMeter, loudnessOfMix } from '../measure/covariance.ts';
import { LoudnessMeter } from '../measure/loudness.ts';
import { PROCESSORS, type Processing, withKeys } from '../processors/processing.ts';
import { ownLegOf, processLeg } from '../reach/onTheWay.ts';
import { reachOf } from '../reach/reach.ts';
import { applyEdit } from '../setup/edits.ts';
import { readSetupFile, writeSetupFile } from '../setup/file.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { loadNoiseReduction } from '../signal/noiseReduction.ts';
import { rendered, same } from '../testing/rendering.ts';
import { noise, rms, sine } from '../testing/tones.ts';
import { ArrivingSounds } from './arrivingSounds.ts';
import { compileDestinations } from './destinations.ts';

beforeAll(() => loadNoiseReduction());

const FRAMES = 600 * BLOCK_FRAMES;
const DUCKED: Processing = [{ ...PROCESSORS.ducking.initial, key: 'narrator', depthDb: 20, attackMs: 5 }];

function withLeg(setup: Setup, sourceId: string, destinationId: string, processing: Processing): Setup {
  const reach = reachOf(setup);
  const source = setup.sources.find(({ id }) => id === sourceId);
  const destination = reach.destinations.find(({ id }) => id === destinationId);
  const leg = source && destination && ownLegOf(setup, reach, source, destination);
  if (!leg) throw new Error(`${sourceId} has no way of its own to ${destinationId}`);
  return applyEdit(setup, processLeg(setup, leg, processing));
}

/** The narrator speaks in the second half; everybody else sounds all along. */
function stems(setup: Setup): Stereo[] {
  return setup.sources.map(({ id }, i): Stereo => {
    const sound = noise(i + 1, FRAMES).map((value, at) =>
      id === 'narrator' && at < FRAMES / 2 ? 0 : value * 0.2,
    );
    return [sound, sound.slice()];
  });
}

describe('processing on the way to one destination alone', () => {
  const plain = regattaGuessed();
  const ducked = withLeg(plain, 'reedbox', 'live', DUCKED);

  test('changes that destination, and no sample of any other', () => {
    const inputs = stems(plain);
    const [before, after] = [rendered(plain, inputs), rendered(ducked, inputs)];
    for (const { id } of compileDestinations(plain).destinations)
      expect([id, same(before(id), after(id))]).toEqual([id, id !== 'live']);
  });

  test('ducks under the voice there, and comes back', () => {
    const alone = stems(plain).map((planes, i): Stereo => {
      const { id } = plain.sources[i];
      if (id === 'reedbox') return [sine(440, -20, FRAMES / 48_000), sine(440, -20, FRAMES / 48_000)];
      return id === 'narrator' ? planes : [planes[0].map(() => 0), planes[1].map(() => 0)];
    });
    const quiet = applyEdit(ducked, {
      edit: 'setSend',
      pickup: 'narrator.pickup',
      to: 'live-mix',
      gainDb: null,
    });
    const [left] = rendered(quiet, alone)('live');
    const first = rms(left.subarray(FRAMES / 4, FRAMES / 2));
    const under = rms(left.subarray(FRAMES - 9600, FRAMES));
    expect(20 * Math.log10(under / first)).toBeCloseTo(-20, 1);
  });

  test('counts in the figures that need no render', () => {
    const inputs = stems(ducked);
    const { sources, sounds, mixes } = staticMixes(ducked, reachOf(ducked));
    const ids = ducked.sources.map(({ id }) => id);
    const meter = new CovarianceMeter(48_000, sounds.length);
    const raw = sources.map(({ id }) => inputs[ids.indexOf(id)]);
    meter.add(new ArrivingSounds(sources, sounds, FRAMES).next(raw, FRAMES), FRAMES);
    const measured = new LoudnessMeter(48_000, 2);
    measured.add(rendered(ducked, inputs)('live'), FRAMES);
    const mix = mixes.find(({ destination }) => destination.id === 'live');
    const said = loudnessOfMix(meter.result(), mix?.gains ?? []).integratedLufs ?? 0;
    expect(Math.abs(said - (measured.result().integratedLufs ?? 0))).toBeLessThan(0.05);
  });

  test('goes into the setup file and comes back, and stays when the level is moved', () => {
    expect(readSetupFile(writeSetupFile(ducked))).toEqual(ducked);
    const louder = applyEdit(ducked, {
      edit: 'setSend',
      pickup: 'reedbox.pickup',
      to: 'live-mix',
      gainDb: -3,
    });
    expect(
      louder.sends.find(({ to, pickup }) => to === 'live-mix' && pickup === 'reedbox.pickup'),
    ).toMatchObject({
      gainDb: -3,
      processing: DUCKED,
    });
  });

  test('says who goes the same way, in a mix of a desk too', () => {
    const setup = twoMachinesMadeRight();
    const reach = reachOf(setup);
    const legs = setup.sources.flatMap((source) =>
      reach.destinations.flatMap((destination) => ownLegOf(setup, reach, source, destination) ?? []),
    );
    expect(legs.some(({ handle }) => handle.kind === 'input')).toBe(true);
    for (const leg of legs) {
      const after = applyEdit(setup, processLeg(setup, leg, [{ does: 'trim', gainDb: -6 }]));
      expect(brokenRules(after)).toEqual([]);
    }
    expect(legs.some(({ others }) => others.length > 0)).toBe(true);
  });
});

describe('latency of processing', () => {
  test('is in the reach, in its route cards, and in what is rendered', () => {
    const plain = regattaGuessed();
    const late = applyEdit(plain, {
      edit: 'updateSource',
      id: 'narrator',
      values: { processing: [PROCESSORS['noise reduction'].initial, { does: 'delay', delayMs: 5 }] },
    });
    const arrival = reachOf(late).at('narrator', 'live');
    expect(arrival?.delayMs).toBe((reachOf(plain).at('narrator', 'live')?.delayMs ?? 0) + 25);
    const [card] = arrival?.paths ?? [];
    expect(card.delayMs).toBe(arrival?.delayMs);
    expect(card.legs.find(({ what }) => what === 'its processing')?.delayMs).toBe(25);
    const limited = withLeg(plain, 'game', 'vod', [PROCESSORS.limiter.initial]);
    expect(reachOf(limited).at('game', 'vod')?.delayMs).toBeCloseTo(2.917, 2);
    expect(reachOf(limited).at('game', 'live')?.delayMs).toBe(0);
  });
});

describe('what is ducked under', () => {
  const duckedUnder = (pairs: [string, string][]) =>
    pairs.reduce<Setup>(
      (setup, [id, key]) =>
        applyEdit(setup, {
          edit: 'updateSource',
          id,
          values: { processing: [{ ...PROCESSORS.ducking.initial, key }] },
        }),
      regattaGuessed(),
    );
  const rulesOf = (pairs: [string, string][]) => brokenRules(duckedUnder(pairs)).map(({ rule }) => rule);

  test('cannot be the source itself, or go round in a circle, or be missing', () => {
    expect(
      rulesOf([
        ['game', 'narrator'],
        ['reedbox', 'game'],
      ]),
    ).toEqual([]);
    expect(rulesOf([['game', 'game']])[0]).toContain('cannot duck under itself');
    expect(
      rulesOf([
        ['game', 'reedbox'],
        ['reedbox', 'bosun'],
        ['bosun', 'game'],
      ])[0],
    ).toMatch(
      /^Lock & Paddle ducks under Reedbox ducks under Bosun ducks under Lock & Paddle: .* in a circle/,
    );
    expect(rulesOf([['game', 'nobody']])).toEqual(['there is no source "nobody" to duck under']);
  });

  test('is offered only where no circle comes of it', () => {
    const { sources } = duckedUnder([
      ['game', 'narrator'],
      ['reedbox', 'game'],
    ]);
    expect([...withKeys(sources, ['reedbox'])]).toEqual(['reedbox', 'game', 'narrator']);
    expect([...withKeys(sources, ['narrator'])]).toEqual(['narrator']);
  });

  test('takes the ducking with it when it is removed', () => {
    const setup = withLeg(duckedUnder([['game', 'narrator']]), 'reedbox', 'live', DUCKED);
    const without = applyEdit(setup, { edit: 'removeSource', id: 'narrator' });
    expect(brokenRules(without)).toEqual([]);
    expect(JSON.stringify(without)).not.toContain('ducking');
  });

  test('is heard processed, whatever the order of the sources', () => {
    const gated: Processing = [{ does: 'trim', gainDb: -40 }];
    const setup = duckedUnder([['game', 'wick']]);
    const silenced = applyEdit(setup, { edit: 'updateSource', id: 'wick', values: { processing: gated } });
    const reach = reachOf(setup);
    const track = setup.tracks.find(({ id }) => reach.sourcesAt(id).join() === 'game');
    if (!track) throw new Error('the game has a track of its own');
    const levelAt = (one: Setup) => rms(rendered(one, stems(one))(track.id)[0].subarray(FRAMES / 2));
    expect(20 * Math.log10(levelAt(setup) / levelAt(silenced))).toBeCloseTo(-12, 0);
  });
});

test('what is compared with a processing is as loud and as late as it', () => {
  const steps: Processing = [PROCESSORS.limiter.initial, { does: 'delay', delayMs: 10, off: true }];
  const found = asLoudWithout({ withIt: -20, without: -26.03 }, steps);
  expect(found?.gainDb).toBeCloseTo(6, 1);
  expect(found?.processing[1]).toEqual({ does: 'delay', delayMs: 140 / 48 });
  expect(asLoudWithout({ withIt: -20, without: null }, steps)).toBeNull();
  const highPass = { does: 'high-pass' as const, hz: 80 };
  const withoutLimiter = asLoudWithout({ withIt: -20, without: -18 }, [highPass, ...steps], [highPass]);
  expect(withoutLimiter?.processing).toEqual([
    highPass,
    { does: 'trim', gainDb: -2 },
    { does: 'delay', delayMs: 140 / 48 },
  ]);
});
