import { describe, expect, test } from '@jest/globals';
import { toDb } from '../audio/decibel.ts';
import { BLOCK_FRAMES, newStereo, SAMPLE_RATE, type Stereo } from '../audio/planes.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { LoudnessMeter } from '../measure/loudness.ts';
import { silencedBy } from '../reach/mutes.ts';
import { reachOf } from '../reach/reach.ts';
import { channelsOf } from '../setup/channels.ts';
import { applyEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { noise, sine } from '../testing/tones.ts';
import { compile } from './compile.ts';
import { compileDestinations, differInGainsOnly } from './destinations.ts';
import { REPORT, RehearsalEngine } from './rehearsal.ts';
import { Renderer } from './renderer.ts';

const { abs, max } = Math;
const BLOCKS = 150;
const FRAMES = BLOCKS * BLOCK_FRAMES;

const stemsOf = (setup: Setup): Stereo[] =>
  setup.sources.map((_, i): Stereo => [quiet(noise(i, FRAMES)), quiet(noise(i + 40, FRAMES))]);
const quiet = (sound: Float32Array) => sound.map((value) => value * 0.1);

/** A rehearsal of a setup with everything fed, ready to play. */
function rehearse(setup: Setup, stems: Stereo[], endFrame = FRAMES): RehearsalEngine {
  const engine = new RehearsalEngine(
    compileDestinations(setup),
    stems.map(() => true),
    { ringFrames: FRAMES, endFrame },
  );
  stems.forEach(([left, right], source) => {
    engine.feed(source, 0, left, right);
  });
  engine.playing = true;
  return engine;
}

/** Plays so many blocks; gives what was listened to. `before` is called before each block. */
function play(engine: RehearsalEngine, blocks: number, before: (block: number) => void = () => {}): Stereo {
  const out = newStereo(blocks * BLOCK_FRAMES);
  for (let block = 0; block < blocks; block++) {
    before(block);
    const at = block * BLOCK_FRAMES;
    engine.process(out[0].subarray(at, at + BLOCK_FRAMES), out[1].subarray(at, at + BLOCK_FRAMES));
  }
  return out;
}

const indexOf = (setup: Setup, id: string) =>
  compileDestinations(setup).destinations.findIndex((destination) => destination.id === id);

/** The largest step from one sample to the next. */
function steepest([left]: Stereo): number {
  let most = 0;
  for (let i = 1; i < left.length; i++) most = max(most, abs(left[i] - left[i - 1]));
  return most;
}

describe('a rehearsal', () => {
  test.each([
    ['one machine', regattaGuessed()],
    ['two machines, with delays and links', twoMachinesMadeRight()],
  ])('sounds, sample for sample, like a render: %s', (_, setup) => {
    const stems = stemsOf(setup);
    const schedule = compile(setup);
    const renderer = new Renderer(schedule, FRAMES);
    renderer.render(stems, FRAMES);
    for (const id of ['headphones', 'live', 'upload-mix']) {
      const engine = rehearse(setup, stems);
      engine.listen(indexOf(setup, id));
      const heard = play(engine, BLOCKS);
      const track = setup.tracks.find(({ uses }) => id === 'live' && uses.includes('live'))?.id ?? id;
      const output = schedule.outputs.findIndex((one) => one.id === track);
      const skipped = 4 * BLOCK_FRAMES;
      expect(heard[0].subarray(skipped)).toEqual(renderer.outputs[output][0].subarray(skipped, FRAMES));
      expect(heard[1].subarray(skipped)).toEqual(renderer.outputs[output][1].subarray(skipped, FRAMES));
    }
  });

  test('listening in changes nothing for any destination', () => {
    const setup = twoMachinesMadeRight();
    const stems = stemsOf(setup);
    const { destinations } = compileDestinations(setup);
    const [still, restless] = [rehearse(setup, stems), rehearse(setup, stems)];
    play(restless, BLOCKS, (block) => {
      restless.listen((block * 7) % destinations.length);
      if (block === 0) return;
      play(still, 1);
      for (let destination = 0; destination < destinations.length; destination++)
        expect(restless.heard(destination)).toEqual(still.heard(destination));
    });
  });

  test('goes from one pair of destinations to another within four blocks, without a step', () => {
    const setup = regattaGuessed();
    const stems = setup.sources.map(
      (): Stereo => [sine(200, -20, FRAMES / SAMPLE_RATE), sine(200, -20, FRAMES / SAMPLE_RATE)],
    );
    const engine = rehearse(setup, stems);
    const heard = play(engine, 40, (block) => block === 10 && engine.listen(indexOf(setup, 'live')));
    const live = rehearse(setup, stems);
    live.listen(indexOf(setup, 'live'));
    const other = play(live, 40);
    expect(heard[0].subarray(14 * BLOCK_FRAMES)).toEqual(other[0].subarray(14 * BLOCK_FRAMES));
    expect(steepest(heard)).toBeLessThan(
      max(steepest(other), steepest(play(rehearse(setup, stems), 40))) * 1.1,
    );
  });

  test('a level that is changed needs no new schedule, acts within 10 ms and does not click', () => {
    const setup = regattaGuessed();
    const louder = applyEdit(setup, { edit: 'setSend', pickup: 'game.pickup', to: 'headphones', gainDb: 0 });
    const [before, after] = [compileDestinations(setup), compileDestinations(louder)];
    expect(differInGainsOnly(before.schedule, after.schedule)).toBe(true);
    const tone = sine(100, -20, FRAMES / SAMPLE_RATE);
    const stems = setup.sources.map(({ id }): Stereo => (id === 'game' ? [tone, tone] : newStereo(FRAMES)));
    const engine = rehearse(setup, stems);
    const heard = play(engine, 60, (block) => block === 20 && engine.setGains(after.schedule.operationGain));
    const peak = (from: number) =>
      heard[0]
        .subarray(from * BLOCK_FRAMES, (from + 12) * BLOCK_FRAMES)
        .reduce((top, value) => max(top, abs(value)), 0);
    expect(toDb(peak(24) / peak(8))).toBeCloseTo(6, 1);
    expect(steepest(heard)).toBeLessThan(0.1 * ((2 * Math.PI * 100) / SAMPLE_RATE) * 1.5);
  });

  test('what is muted at one destination is digital silence there, and nothing changes elsewhere', () => {
    const setup = regattaGuessed();
    const silenced = silencedBy(setup, reachOf(setup), [{ source: 'reedbox', destination: 'headphones' }]);
    expect([...silenced]).toEqual(['reedbox.pickup > headphones']);
    const muted = compileDestinations(setup, { silenced });
    const open = compileDestinations(setup);
    expect(differInGainsOnly(open.schedule, muted.schedule)).toBe(true);
    const stems = setup.sources.map(({ id }, i): Stereo => {
      const sound = id === 'reedbox' ? noise(i, FRAMES) : new Float32Array(FRAMES);
      return [sound, sound];
    });
    const engine = rehearse(setup, stems);
    engine.setGains(muted.schedule.operationGain);
    play(engine, 20);
    expect(engine.heard(indexOf(setup, 'headphones'))[0].every((value) => value === 0)).toBe(true);
    const other = rehearse(setup, stems);
    play(other, 20);
    for (const id of ['live', 'vod', 'records'])
      expect(engine.heard(indexOf(setup, id))).toEqual(other.heard(indexOf(setup, id)));
  });

  test('muted everywhere, a source is silent in all destinations, mixes and links or not', () => {
    const setup = twoMachinesMadeRight();
    for (const { id } of setup.sources) {
      const silenced = silencedBy(setup, reachOf(setup), [{ source: id, destination: null }]);
      const { schedule } = compileDestinations(setup, { silenced });
      const renderer = new Renderer(schedule, 30 * BLOCK_FRAMES);
      const inputs = setup.sources.map(
        (one, i): Stereo =>
          one.id === id
            ? [noise(i, 30 * BLOCK_FRAMES), noise(i, 30 * BLOCK_FRAMES)]
            : newStereo(30 * BLOCK_FRAMES),
      );
      renderer.render(inputs, 30 * BLOCK_FRAMES);
      for (const [left] of renderer.outputs) expect(left.every((value) => value === 0)).toBe(true);
    }
  });

  test('levels and mutes hold when it goes to another place', () => {
    const setup = regattaGuessed();
    const silenced = silencedBy(setup, reachOf(setup), [{ source: 'game', destination: null }]);
    const stems = setup.sources.map(({ id }, i): Stereo => {
      const sound = id === 'game' ? noise(i, FRAMES) : new Float32Array(FRAMES);
      return [sound, sound];
    });
    const engine = rehearse(setup, stems);
    engine.setGains(compileDestinations(setup, { silenced }).schedule.operationGain);
    play(engine, 10);
    engine.seek(0);
    stems.forEach(([left, right], source) => {
      engine.feed(source, 0, left, right);
    });
    play(engine, 10);
    for (const id of ['headphones', 'live', 'boat'])
      expect(engine.heard(indexOf(setup, id))[0].every((value) => value === 0)).toBe(true);
  });

  test('one change of the wiring is finished before the next begins, and the last one stays', () => {
    const setup = twoMachinesMadeRight();
    const tone = sine(150, -20, FRAMES / SAMPLE_RATE);
    const stems = setup.sources.map(({ id }): Stereo => (id === 'game' ? [tone, tone] : newStereo(FRAMES)));
    const withLatency = (latencyMs: number) =>
      applyEdit(setup, { edit: 'updateLink', id: setup.links[0].id, values: { latencyMs } });
    const engine = rehearse(setup, stems);
    const live = indexOf(setup, 'live');
    engine.listen(live);
    const heard = play(engine, 150, (block) => {
      if (block === 60) engine.rearrange(compileDestinations(withLatency(10)));
      if (block === 77) engine.rearrange(compileDestinations(withLatency(15)));
      if (block === 79) engine.rearrange(compileDestinations(withLatency(12)));
    });
    const goal = rehearse(withLatency(12), stems);
    goal.listen(live);
    const expected = play(goal, 150);
    expect(heard[0].subarray(140 * BLOCK_FRAMES)).toEqual(expected[0].subarray(140 * BLOCK_FRAMES));
    expect(steepest(heard)).toBeLessThan(steepest(expected) * 1.2);
  });

  test('another wiring is faded over to once its delays are filled, without a step', () => {
    const setup = twoMachinesMadeRight();
    const tone = sine(150, -20, FRAMES / SAMPLE_RATE);
    const stems = setup.sources.map(({ id }): Stereo => (id === 'game' ? [tone, tone] : newStereo(FRAMES)));
    const later = applyEdit(setup, { edit: 'updateLink', id: setup.links[0].id, values: { latencyMs: 20 } });
    const engine = rehearse(setup, stems);
    const live = indexOf(setup, 'live');
    engine.listen(live);
    const heard = play(engine, 140, (block) => block === 60 && engine.rearrange(compileDestinations(later)));
    const target = rehearse(later, stems);
    target.listen(live);
    const goal = play(target, 140);
    expect(heard[0].subarray(120 * BLOCK_FRAMES)).toEqual(goal[0].subarray(120 * BLOCK_FRAMES));
    expect(steepest(heard)).toBeLessThan(steepest(goal) * 1.2);
  });

  test('is silent where sound is late, counts it, and goes on when it comes', () => {
    const setup = regattaGuessed();
    const stems = stemsOf(setup);
    const engine = new RehearsalEngine(
      compileDestinations(setup),
      stems.map(() => true),
      {
        ringFrames: FRAMES,
        endFrame: FRAMES,
      },
    );
    engine.playing = true;
    const half = FRAMES / 2;
    stems.forEach(([left, right], i) => {
      engine.feed(i, 0, left.subarray(0, half), right.subarray(0, half));
    });
    play(engine, BLOCKS);
    expect(engine.report[REPORT.frame]).toBe(half);
    expect(engine.report[REPORT.starved]).toBe(BLOCKS / 2);
    stems.forEach(([left, right], i) => {
      engine.feed(i, half, left.subarray(half), right.subarray(half));
    });
    const rest = play(engine, BLOCKS);
    expect(engine.report[REPORT.frame]).toBe(FRAMES);
    expect(engine.playing).toBe(false);
    expect(rest[0].subarray(half).every((value) => value === 0)).toBe(true);
  });

  test('meters every pair of destinations as the standard says, and tells which source sounds', () => {
    const setup = regattaGuessed();
    const seconds = 4;
    const tone = sine(997, -20, seconds);
    const stems = setup.sources.map(
      ({ id }): Stereo => (id === 'game' ? [tone, tone] : newStereo(tone.length)),
    );
    const engine = new RehearsalEngine(
      compileDestinations(setup),
      stems.map(() => true),
      {
        ringFrames: tone.length,
        endFrame: tone.length,
      },
    );
    stems.forEach(([left, right], i) => {
      engine.feed(i, 0, left, right);
    });
    engine.playing = true;
    play(engine, tone.length / BLOCK_FRAMES);
    const meter = new LoudnessMeter(SAMPLE_RATE, 2);
    meter.add([tone, tone], tone.length);
    const expected = (meter.result().maxShortTermLufs ?? 0) - 10;
    const at = REPORT.destinations + REPORT.perDestination * indexOf(setup, 'live');
    expect(engine.report[at]).toBeCloseTo(expected, 1);
    expect(engine.report[at + 1]).toBeCloseTo(expected, 1);
    expect(toDb(engine.report[at + 2])).toBeCloseTo(-30, 0);
    const sources = engine.report.subarray(engine.report.length - setup.sources.length);
    expect(setup.sources.filter((_, i) => sources[i] > 0).map(({ id }) => id)).toEqual(['game']);
  });

  test('live hears the fold-down of a multichannel track', () => {
    const many = applyEdit(
      applyEdit(regattaGuessed(), {
        edit: 'updateTrack',
        id: 'live-mix',
        values: { layout: 'multichannel', channels: channelsOf(4) },
      }),
      { edit: 'setSend', pickup: 'narrator.pickup', to: 'live-mix', gainDb: 0, channels: [3] },
    );
    const stems = many.sources.map(({ id }): Stereo => {
      const sound = new Float32Array(FRAMES).fill(id === 'narrator' ? 0.5 : 0);
      return [sound, sound];
    });
    const engine = rehearse(many, stems);
    play(engine, 3);
    const [left, right] = engine.heard(indexOf(many, 'live'));
    expect(left[50]).toBeCloseTo(0.5 * 10 ** (-3 / 20), 4);
    expect(right[50]).toBeCloseTo(left[50], 6);
  });
});
