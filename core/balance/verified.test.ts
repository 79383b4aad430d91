import { expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { ArrivingSounds } from '../engine/arrivingSounds.ts';
import { CovarianceMeter } from '../measure/covariance.ts';
import { reachOf } from '../reach/reach.ts';
import type { DestinationMeasures } from '../records.ts';
import { nameOf } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { noise } from '../testing/tones.ts';
import { coursesOf, figuresOf } from './figures.ts';
import { staticMixes } from './sounds.ts';
import { balanceVerified, offsetsOf } from './verified.ts';

const FRAMES = 6 * 48_000;
const setup = regattaGuessed();
const inputs = setup.sources.map((_, i): Stereo => {
  const sound = noise(i + 1, FRAMES).map((value) => value * (0.02 + 0.01 * i));
  return [sound, sound];
});

function measured(of: Setup) {
  const reach = reachOf(of);
  const { sources, sounds, mixes } = staticMixes(of, reach);
  const meter = new CovarianceMeter(48_000, sounds.length);
  const raw = sources.map(({ id }) => inputs[of.sources.findIndex((one) => one.id === id)]);
  meter.add(new ArrivingSounds(sources, sounds, FRAMES).next(raw, FRAMES), FRAMES);
  return { input: { setup: of, reach, sounds, covariances: meter.result() }, mixes };
}

/** A render that is louder by some LU than what is known of its sounds, as one that hums would be. */
function renderLouderBy(lu: number, peakOverDb: number) {
  return async (of: Setup): Promise<DestinationMeasures[]> => {
    const { input, mixes } = measured(of);
    return mixes.map((mix) => {
      const figures = figuresOf(coursesOf(of, input.sounds, mix, input.covariances));
      const integratedLufs = figures.integratedLufs === null ? null : figures.integratedLufs + lu;
      const truePeakDbtp = integratedLufs === null ? null : integratedLufs + peakOverDb;
      return { ...figures, integratedLufs, truePeakDbtp, destinationId: mix.destination.id };
    });
  };
}

const live = (list: DestinationMeasures[]) => list.find(({ destinationId }) => destinationId === 'live');
const { input, mixes } = measured(setup);
const atLive = mixes.filter(({ destination }) => destination.id === 'live');
const solve = (render: (of: Setup) => Promise<DestinationMeasures[]>, peaksDbtp?: Map<string, number>) =>
  balanceVerified(
    { ...input, peaksDbtp },
    atLive,
    (id) => nameOf(setup, id),
    (_, of) => render(of),
  );

test('what a render confirms is taken as it is', async () => {
  const verified = await solve(renderLouderBy(0, 10));
  expect(verified.holds).toBe(true);
  expect(Math.abs((live(verified.measured)?.integratedLufs ?? 0) + 16)).toBeLessThan(0.2);
  expect(verified.results[0].obstacles).toEqual([]);
});

test('what a render does not confirm is solved again, until it reaches the target in the render', async () => {
  let renders = 0;
  const render = renderLouderBy(3, 10);
  const verified = await solve((of) => {
    renders += 1;
    return render(of);
  });
  expect(renders).toBe(2);
  expect(verified.holds).toBe(true);
  expect(Math.abs((live(verified.measured)?.integratedLufs ?? 0) + 16)).toBeLessThan(0.2);
  expect(Math.abs((verified.results[0].after.integratedLufs ?? 0) + 16)).toBeLessThan(0.2);
});

test('a true peak that the render shows above the ceiling brings everything down', async () => {
  const verified = await solve(renderLouderBy(0, 19), new Map([['live', -20]]));
  expect(verified.holds).toBe(true);
  expect(live(verified.measured)?.truePeakDbtp).toBeLessThanOrEqual(-0.5);
  expect(verified.results[0].obstacles[0]).toContain('The true peak would be above');
});

test('a true peak that nobody has measured before is kept, too', async () => {
  const verified = await solve(renderLouderBy(0, 19));
  expect(verified.holds).toBe(true);
  const peak = live(verified.measured)?.truePeakDbtp ?? 0;
  expect(peak).toBeLessThanOrEqual(-0.5);
  expect(peak).toBeGreaterThanOrEqual(-1.5);
});

test('what is held down for its peak is not held down further than it must be', async () => {
  const verified = await solve(renderLouderBy(0, 19), new Map([['live', 10]]));
  expect(verified.holds).toBe(true);
  expect(live(verified.measured)?.truePeakDbtp).toBeGreaterThanOrEqual(-1.5);
});

test('a render that never agrees is told, after four rounds', async () => {
  let round = 0;
  const verified = await solve((of) => renderLouderBy(4 * (++round) ** 2, 10)(of));
  expect(round).toBe(4);
  expect(verified.holds).toBe(false);
});

test('by how much a render is off is known where both figures are', () => {
  const measured = (destinationId: string, integratedLufs: number | null) => ({
    ...{ destinationId, integratedLufs, loudnessRangeLu: null, maxMomentaryLufs: null },
    ...{ maxShortTermLufs: null, truePeakDbtp: null },
  });
  const said = ['live', 'vod', 'headphones'].map((destinationId, i) => ({
    destinationId,
    integratedLufs: i === 1 ? null : -16,
  }));
  expect([
    ...offsetsOf(said, [measured('live', -15.2), measured('vod', -20), measured('headphones', null)]),
  ]).toEqual([['live', expect.closeTo(0.8, 6)]]);
});
