import { describe, expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { ArrivingSounds } from '../engine/arrivingSounds.ts';
import { finding } from '../findings/finding.ts';
import { CovarianceMeter } from '../measure/covariance.ts';
import { reachOf } from '../reach/reach.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { joined, noise, silence } from '../testing/tones.ts';
import { roleOf } from './aims.ts';
import { audiences, balancingRemedy, duckingRemedy, heardFindings, whereToHear } from './heard.ts';
import { staticMixes } from './sounds.ts';

const SECONDS = 12;
const FRAMES = SECONDS * 48_000;

/** Voices speak from the second second to the eighth; everybody else sounds all along, all at the same level. */
function heardIn(setup: Setup) {
  const inputs = setup.sources.map((source, i): Stereo => {
    const sound = (seconds: number) => noise(i + 1, seconds * 48_000).map((value) => value * 0.1);
    const own =
      roleOf(source) === 'voice' ? joined(silence(2), sound(6), silence(SECONDS - 8)) : sound(SECONDS);
    return [own, own];
  });
  const reach = reachOf(setup);
  const { sources, sounds, mixes } = staticMixes(setup, reach);
  const raw = sources.map(({ id }) => inputs[setup.sources.findIndex((one) => one.id === id)]);
  const meter = new CovarianceMeter(48_000, sounds.length);
  meter.add(new ArrivingSounds(sources, sounds, FRAMES).next(raw, FRAMES), FRAMES);
  const input = { setup, reach, sounds, covariances: meter.result() };
  return { input, mixes, found: heardFindings(input, mixes) };
}

const edited = (...edits: SimpleEdit[]) => edits.reduce<Setup>(applyEdit, regattaGuessed());
const loudGame: SimpleEdit = { edit: 'setSend', pickup: 'game.pickup', to: 'live-mix', gainDb: 6 };

describe('what is wrong in the sound', () => {
  test('a voice under a loud game is buried where it speaks, and heard there', () => {
    const { found } = heardIn(edited(loudGame));
    const buried = found.find(({ finding }) => finding.id === 'buried::live');
    expect(buried?.finding.message).toMatch(
      /^At Live a voice is hard to follow at one place, [5-7] s in all/,
    );
    expect(buried?.atS).toBeGreaterThan(1.4);
    expect(buried?.atS).toBeLessThan(2.1);
  });

  test('what is found at a place is heard there, a little earlier; a source by itself where the fewest others are', () => {
    const { input, mixes, found } = heardIn(edited(loudGame));
    const buried = found.find(({ finding }) => finding.id === 'buried::live');
    if (!buried) throw new Error('a voice is buried');
    expect(whereToHear(input, mixes, buried)).toEqual({ destination: 'live', timeS: 0 });
    expect(whereToHear(input, mixes, { ...buried, atS: 9 })).toEqual({ destination: 'live', timeS: 7 });
    const about = (source: string) => ({ finding: finding('hum', 'warn', '', { source }), atS: null });
    const alone = whereToHear(input, mixes, about('bosun'));
    expect(alone?.destination).toBe('bosun-alone');
    expect(alone?.timeS).toBeLessThan(1);
    expect(whereToHear(input, mixes, about('nobody'))).toBeNull();
    const leak = {
      finding: finding('leak.vod', 'stop', '', { source: 'bosun', destination: 'vod' }),
      atS: null,
    };
    expect(whereToHear(input, mixes, leak)).toEqual({ destination: 'vod', timeS: alone?.timeS });
    const missing = { ...leak, finding: { ...leak.finding, source: 'reedbox' } };
    expect(whereToHear(input, mixes, missing)).toBeNull();
  });

  test('a target that is missed by more than 1 LU is told, with both figures', () => {
    const target = (targetLufs: number): SimpleEdit => ({
      edit: 'setAim',
      destination: 'live',
      values: { targetLufs },
    });
    const { input, mixes } = heardIn(edited());
    const lufs = mixes.map(({ destination }) => destination.id).indexOf('live');
    expect(lufs).toBeGreaterThanOrEqual(0);
    const messageAt = (targetLufs: number) =>
      heardFindings({ ...input, setup: edited(target(targetLufs)) }, mixes).find(
        ({ finding }) => finding.id === 'off-target::live',
      )?.finding.message;
    expect(messageAt(-5)).toMatch(
      /^Live comes to −\d+\.\d LUFS, \d+\.\d LU quieter than its target of −5\.0\.$/,
    );
    expect(messageAt(-60)).toMatch(/louder than its target of −60\.0/);
    const [, now] = /comes to −(\d+\.\d)/.exec(messageAt(-5) ?? '') ?? [];
    expect(messageAt(-Number(now) + 0.8)).toBeUndefined();
  });

  test('balancing is the remedy: both are gone afterwards', () => {
    const setup = edited(loudGame);
    const { input, mixes, found } = heardIn(setup);
    const places = found.flatMap(({ finding }) => finding.destination ?? []);
    expect(places).toContain('live');
    const remedy = balancingRemedy(input, mixes, places);
    expect(remedy?.label).toMatch(/^Balance Live/);
    expect(remedy?.obstacles).toEqual([]);
    if (!remedy) return;
    const after = applyEdit(setup, remedy.edit);
    expect(brokenRules(after)).toEqual([]);
    expect(heardIn(after).found).toEqual([]);
  });

  test('where balancing leaves a voice buried, ducking makes room for it, there alone', () => {
    const setup = edited(loudGame);
    const { input, mixes, found } = heardIn(setup);
    const places = found.flatMap(({ finding }) =>
      finding.code === 'buried' ? (finding.destination ?? []) : [],
    );
    const remedy = duckingRemedy(input, mixes, places);
    expect(remedy?.label).toMatch(/^Duck .*Lock & Paddle.* by 9 dB under the voices, at Live/);
    if (!remedy) return;
    const after = applyEdit(setup, remedy.edit);
    expect(brokenRules(after)).toEqual([]);
    expect(
      after.sends
        .filter(({ processing }) => processing)
        .every(({ to }) => places.some((place) => to.startsWith(place))),
    ).toBe(true);
    const heard = heardIn(after);
    const seconds = (of: typeof found) =>
      of.find(({ finding }) => finding.id === 'buried::live')?.finding.message ?? '';
    expect(seconds(heard.found)).not.toBe(seconds(found));
    expect(duckingRemedy(heard.input, heard.mixes, places)).toBeNull();
  });

  test('ducking is offered only where nobody else would get it', () => {
    const setup = twoMachinesMadeRight();
    const reach = reachOf(setup);
    const { mixes } = staticMixes(setup, reach);
    const heardBy = audiences(mixes).map(({ destination }) => destination);
    const remedy = duckingRemedy(
      { setup, reach },
      mixes,
      heardBy.map(({ id }) => id),
    );
    const after = reachOf(remedy ? applyEdit(setup, remedy.edit) : setup);
    const feeds = heardBy.map(({ sendTo }) => sendTo);
    const others = after.destinations.filter(({ sendTo }) => !feeds.includes(sendTo));
    expect(others.length).toBeGreaterThan(2);
    for (const { id } of others)
      for (const source of setup.sources)
        expect(after.at(source.id, id)?.ways.flatMap(({ processing }) => processing) ?? []).toEqual([]);
  });

  test('only what an audience gets counts, each track once', () => {
    const shared = edited(
      { edit: 'updateTrack', id: 'vod-mix', values: { uses: ['file'] } },
      { edit: 'updateTrack', id: 'live-mix', values: { uses: ['live', 'vod'] } },
    );
    const { mixes } = heardIn(shared);
    const ids = audiences(mixes).map(({ destination }) => destination.id);
    expect(ids).toContain('live');
    expect(ids).not.toContain('vod');
    expect(ids).not.toContain('headphones');
  });
});
