import { describe, expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { compileDestinations } from '../engine/destinations.ts';
import { Renderer } from '../engine/renderer.ts';
import { CovarianceMeter } from '../measure/covariance.ts';
import { LoudnessMeter } from '../measure/loudness.ts';
import { reachOf } from '../reach/reach.ts';
import { applyEdit, EditSchema, nameOf, type SimpleEdit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { joined, noise, silence } from '../testing/tones.ts';
import { aimOf, roleOf } from './aims.ts';
import { coursesOf, figuresOf } from './figures.ts';
import { balance, balanceAll, balanceEdit } from './solve.ts';
import { staticMixes } from './sounds.ts';

const SECONDS = 12;
const edited = (setup: Setup, ...edits: SimpleEdit[]) => edits.reduce<Setup>(applyEdit, setup);

/** Noise of a loudness of its own for each source: voices speak in turn, the rest sounds all along. */
const stems = regattaGuessed().sources.map((source, i): Stereo => {
  const level = 0.02 + 0.015 * i;
  const sound = (seed: number, seconds: number) =>
    noise(seed, seconds * 48_000).map((value) => value * level);
  const voice = (seed: number) =>
    i % 2 === 0
      ? joined(sound(seed, 5), silence(SECONDS - 5))
      : joined(silence(6), sound(seed, 4), silence(SECONDS - 10));
  const isVoice = roleOf(source) === 'voice';
  return isVoice ? [voice(i), voice(i)] : [sound(i, SECONDS), sound(i + 30, SECONDS)];
});

function measured(setup: Setup) {
  const reach = reachOf(setup);
  const { sounds, mixes } = staticMixes(setup, reach);
  const meter = new CovarianceMeter(48_000, sounds.length);
  meter.add(
    sounds.map(({ sourceId, mono }): Stereo => {
      const planes = stems[setup.sources.findIndex(({ id }) => id === sourceId)];
      if (!mono) return planes;
      const mean = planes[0].map((value, at) => (value + planes[1][at]) / 2);
      return [mean, mean];
    }),
    SECONDS * 48_000,
  );
  const mixAt = (id: string) => {
    const mix = mixes.find(({ destination }) => destination.id === id);
    if (!mix) throw new Error(`nothing arrives at ${id}`);
    return mix;
  };
  return { input: { setup, reach, sounds, covariances: meter.result() }, mixAt };
}

/** What the render of a setup measures at a destination (LUFS). */
function renderedLufs(setup: Setup, id: string): number | null {
  const { schedule, destinations } = compileDestinations(setup);
  const renderer = new Renderer(schedule, SECONDS * 48_000);
  renderer.render(stems, SECONDS * 48_000);
  const heard = destinations.find((one) => one.id === id);
  const meter = new LoudnessMeter(48_000, 2);
  meter.add(renderer.outputs[heard?.parts[0].output ?? 0], SECONDS * 48_000);
  return meter.result().integratedLufs;
}

test('what makes everything a little later needs no other sounds, and so nothing is measured anew', () => {
  const plain = regattaGuessed();
  const limited = applyEdit(plain, {
    edit: 'updateTrack',
    id: 'live-mix',
    values: { processing: [{ does: 'limiter', ceilingDbtp: -1, releaseMs: 80 }] },
  });
  expect(reachOf(limited).at('narrator', 'live')?.ways[0].delayFrames).toBeGreaterThan(0);
  expect(staticMixes(limited, reachOf(limited)).sounds).toEqual(staticMixes(plain, reachOf(plain)).sounds);
});

describe('what is aimed for', () => {
  test('is the target of the destination, −1 dBTP and 10 LU, until something else is said', () => {
    const setup = regattaGuessed();
    const live = reachOf(setup).destinations.find(({ id }) => id === 'live');
    if (!live) throw new Error('the demo goes live');
    expect(aimOf(setup, live)).toEqual({ targetLufs: -16, ceilingDbtp: -1, bedLu: 10, wishes: {} });
    const other = edited(
      setup,
      { edit: 'setAim', destination: 'live', values: { targetLufs: -14 } },
      { edit: 'setAim', destination: 'live', values: { wishes: { game: 'less' } } },
    );
    expect(aimOf(other, live)).toEqual({
      targetLufs: -14,
      ceilingDbtp: -1,
      bedLu: 10,
      wishes: { game: 'less' },
    });
    expect(brokenRules(other)).toEqual([]);
    const gone = edited(
      setup,
      { edit: 'setAim', destination: 'records', values: { targetLufs: -20 } },
      { edit: 'removeTrack', id: 'records' },
    );
    expect(gone.balance).toEqual([]);
    const without = edited(other, { edit: 'removeSource', id: 'game' });
    expect(without.balance).toEqual([{ destination: 'live', targetLufs: -14, wishes: {} }]);
    expect(brokenRules({ ...without, balance: other.balance }).map(({ rule }) => rule)).toContain(
      'there is no source "game"',
    );
  });
});

describe('balance', () => {
  const { input, mixAt } = measured(regattaGuessed());

  test.each(['live', 'vod', 'headphones'])(
    'reaches target and bed at %s, as a render of it measures',
    (id) => {
      const setup = edited(regattaGuessed(), {
        edit: 'setAim',
        destination: id,
        values: { targetLufs: -18, bedLu: 12 },
      });
      const result = balance({ ...input, setup }, mixAt(id));
      expect(result.obstacles).toEqual([]);
      expect(Math.abs((result.after.integratedLufs ?? 0) + 18)).toBeLessThan(0.1);
      expect(Math.abs((result.after.voiceOverBedLu ?? 0) - 12)).toBeLessThan(0.2);
      const edit = balanceEdit(setup, [result], (one) => nameOf(setup, one));
      if (!edit) throw new Error('levels change');
      const after = applyEdit(setup, edit);
      expect(brokenRules(after)).toEqual([]);
      expect(Math.abs((renderedLufs(after, id) ?? 0) + 18)).toBeLessThan(0.15);
      for (const { sourceId, afterDb } of result.proposals)
        expect(reachOf(after).at(sourceId, id)?.gainDb).toBeCloseTo(afterDb, 4);
    },
  );

  test('makes the voices as loud as each other', () => {
    const setup = regattaGuessed();
    const result = balance(input, mixAt('live'));
    const edit = balanceEdit(setup, [result], (one) => one);
    if (!edit) throw new Error('levels change');
    const after = measured(applyEdit(setup, edit));
    const mix = after.mixAt('live');
    const lufs = ['narrator', 'bosun', 'wick'].map(
      (id) =>
        figuresOf(
          coursesOf(
            after.input.setup,
            after.input.sounds,
            { gains: mix.gains.map((gain, i) => (after.input.sounds[i].sourceId === id ? gain : 0)) },
            after.input.covariances,
          ),
        ).integratedLufs ?? 0,
    );
    expect(Math.max(...lufs) - Math.min(...lufs)).toBeLessThan(0.2);
  });

  test('a wish for more is 3 LU more than without it, and what is locked stays', () => {
    const wished = (wishes: Record<string, 'more' | 'less' | 'locked'>) =>
      balance(
        {
          ...input,
          setup: edited(regattaGuessed(), { edit: 'setAim', destination: 'live', values: { wishes } }),
        },
        mixAt('live'),
      );
    const level = ({ proposals }: ReturnType<typeof balance>, id: string) =>
      proposals.find(({ sourceId }) => sourceId === id)?.afterDb ?? 0;
    const plain = wished({});
    const more = wished({ reedbox: 'more' });
    expect(level(more, 'reedbox') - level(more, 'game')).toBeCloseTo(
      level(plain, 'reedbox') - level(plain, 'game') + 3,
      0,
    );
    const locked = wished({ game: 'locked' });
    expect(level(locked, 'game')).toBe(-10);
    expect(Math.abs((locked.after.integratedLufs ?? 0) + 16)).toBeLessThan(0.5);
  });

  test('says what stood in the way when everything is locked', () => {
    const wishes = Object.fromEntries(input.setup.sources.map(({ id }) => [id, 'locked' as const]));
    const setup = edited(regattaGuessed(), {
      edit: 'setAim',
      destination: 'live',
      values: { targetLufs: -9, wishes },
    });
    const result = balance({ ...input, setup }, mixAt('live'));
    expect(result.proposals.every(({ beforeDb, afterDb }) => beforeDb === afterDb)).toBe(true);
    expect(result.obstacles[0]).toMatch(/LUFS is reached, not −9\.0\. .* are locked\./);
    expect(balanceEdit(setup, [result], (one) => one)).toBeNull();
  });

  test('stays under the ceiling of the true peak, and says that it did', () => {
    const setup = edited(regattaGuessed(), {
      edit: 'setAim',
      destination: 'live',
      values: { targetLufs: -14 },
    });
    const free = balance({ ...input, setup }, mixAt('live'));
    const held = balance({ ...input, setup, peaksDbtp: new Map([['live', 4]]) }, mixAt('live'));
    expect(held.expectedDbtp).toBe(-1);
    expect(held.after.integratedLufs).toBeLessThan((free.after.integratedLufs ?? 0) - 0.5);
    expect(held.obstacles[0]).toContain('The true peak would be above −1.0 dBTP');
  });

  test('says so where the peak is locked in, and promises nothing', () => {
    const wishes = Object.fromEntries(input.setup.sources.map(({ id }) => [id, 'locked' as const]));
    const setup = edited(regattaGuessed(), { edit: 'setAim', destination: 'live', values: { wishes } });
    const held = balance({ ...input, setup, peaksDbtp: new Map([['live', 2]]) }, mixAt('live'));
    expect(held.expectedDbtp).toBe(2);
    expect(held.obstacles).toContain('The true peak stays above −1.0 dBTP, since what makes it is locked.');
  });

  test('what one track feeds is solved once: live and VOD on the same one share its levels', () => {
    const shared = edited(
      regattaGuessed(),
      { edit: 'updateTrack', id: 'vod-mix', values: { uses: ['file'] } },
      { edit: 'updateTrack', id: 'live-mix', values: { uses: ['live', 'vod'] } },
    );
    const one = measured(shared);
    const results = balanceAll(one.input, [one.mixAt('live'), one.mixAt('vod'), one.mixAt('headphones')]);
    expect(results.map(({ destinationId, sendTo }) => [destinationId, sendTo])).toEqual([
      ['live', 'live-mix'],
      ['headphones', 'headphones'],
    ]);
  });

  test('many sources at many destinations are one step, however many changes that takes', () => {
    const many = Array.from({ length: 40 }, (_, i) => `s${i}`);
    const tracks = Array.from({ length: 14 }, (_, i) => `t${i}`);
    const base = regattaGuessed();
    const setup: Setup = {
      ...base,
      recorder: { trackLimit: 32 },
      sources: many.map((id) => ({ ...base.sources[1], id, name: id })),
      pickups: many.map((id) => ({ id: `${id}.pickup`, takes: id, gainDb: 0 })),
      tracks: tracks.map((id) => ({ ...base.tracks[2], id, name: id })),
      destinations: [],
      sends: many.flatMap((id) => tracks.map((to) => ({ pickup: `${id}.pickup`, to, gainDb: 0 }))),
      intent: [],
    };
    const results = tracks.map((destinationId) => ({
      ...balance(input, mixAt('live')),
      destinationId,
      proposals: many.map((sourceId) => ({ sourceId, beforeDb: 0, afterDb: -7 })),
    }));
    const edit = balanceEdit(setup, results, (id) => id);
    expect(EditSchema.safeParse(edit).success).toBe(true);
    if (!edit) return;
    expect(applyEdit(setup, edit).sends.every(({ gainDb }) => gainDb === -7)).toBe(true);
  });

  test('without a target keeps the whole as loud as it was', () => {
    const result = balance(input, mixAt('headphones'));
    expect(result.aim.targetLufs).toBeNull();
    expect(Math.abs((result.after.integratedLufs ?? 0) - (result.before.integratedLufs ?? 0))).toBeLessThan(
      0.1,
    );
  });

  test('where nothing sounds there is nothing to balance', () => {
    const silent = { ...mixAt('live'), gains: new Float64Array(input.sounds.length) };
    const result = balance(input, silent);
    expect(result.after.integratedLufs).toBeNull();
    expect(result.obstacles).toEqual(['Nothing sounds here, so there is nothing to balance.']);
  });
});

describe('figures of a mix', () => {
  test('mark the passages in which the bed buries the voice', () => {
    const blocks = 100;
    const voice = new Float64Array(blocks).map((_, i) => (i >= 20 && i < 80 ? 1e-2 : 0));
    const bed = new Float64Array(blocks).map((_, i) => (i >= 40 && i < 60 ? 2e-2 : 1e-3));
    const sum = voice.map((value, i) => value + bed[i]);
    const { buried, voiceOverBedLu } = figuresOf({ voice, bed, sum });
    expect(buried).toHaveLength(1);
    expect(buried[0].fromS).toBeGreaterThan(3.5);
    expect(buried[0].fromS).toBeLessThan(4.2);
    expect(buried[0].untilS).toBeGreaterThan(5.8);
    expect(buried[0].untilS).toBeLessThan(6.5);
    expect(voiceOverBedLu).toBeCloseTo(10 * Math.log10(0.6 / 0.44), 0);
  });
});
