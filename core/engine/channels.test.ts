import { describe, expect, test } from '@jest/globals';
import { toDb } from '../audio/decibel.ts';
import { foldToStereo } from '../audio/foldDown.ts';
import { BLOCK_FRAMES, newStereo } from '../audio/planes.ts';
import { regattaGuessed } from '../demo/setups.ts';
import { findingsOf } from '../findings/findings.ts';
import { reachOf } from '../reach/reach.ts';
import { remediesFor } from '../repair/remedies.ts';
import { channelsOf, heardFoldOf, placesOn } from '../setup/channels.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { readSetupFile, writeSetupFile } from '../setup/file.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup, TrackChannel } from '../setup/schema.ts';
import { stepsOf } from '../sheet/steps.ts';
import { toMono } from '../signal/mono.ts';
import { compile } from './compile.ts';
import { Renderer } from './renderer.ts';

const TODAY = '2026-05-01';
const edited = (setup: Setup, ...edits: SimpleEdit[]) => edits.reduce<Setup>(applyEdit, setup);

/** The demo with its live track on four channels: the narrator alone on the third */
function onChannels(channels: TrackChannel[] = channelsOf(4)): Setup {
  return edited(
    regattaGuessed(),
    { edit: 'updateTrack', id: 'live-mix', values: { layout: 'multichannel', channels } },
    { edit: 'setSend', pickup: 'narrator.pickup', to: 'live-mix', gainDb: -2, channels: [3] },
  );
}

/** A click from one source, as it comes out of every channel of a track. */
function clickOf(setup: Setup, source: string, track: string): number[] {
  const schedule = compile(setup, { only: 'tracks' });
  const renderer = new Renderer(schedule, BLOCK_FRAMES);
  const inputs = schedule.sourceIds.map((id) => {
    const planes = newStereo(BLOCK_FRAMES);
    if (id === source) for (const plane of planes) plane[5] = 0.5;
    return planes;
  });
  renderer.render(inputs, BLOCK_FRAMES);
  return schedule.outputs.flatMap(({ id }, output) =>
    id === track ? renderer.outputs[output].map((plane) => plane[5] / 0.5) : [],
  );
}

describe('a multichannel track', () => {
  test('carries a pickup on the channels that were chosen, and nowhere else', () => {
    const setup = onChannels();
    expect(clickOf(setup, 'narrator', 'live-mix').map((gain) => Math.round(gain * 1000) / 1000)).toEqual([
      0, 0, 0.794, 0,
    ]);
    const [left, right, third, fourth] = clickOf(setup, 'game', 'live-mix');
    expect([third, fourth]).toEqual([0, 0]);
    expect(left).toBeCloseTo(right, 6);
    expect(toDb(left)).toBeCloseTo(-10, 2);
  });

  test('of an odd count has as many channels, and a single one takes the mean of both sides', () => {
    const setup = edited(onChannels(channelsOf(5)), {
      edit: 'setSend',
      pickup: 'reedbox.pickup',
      to: 'live-mix',
      gainDb: 0,
      channels: [5],
    });
    const schedule = compile(setup, { only: 'tracks' });
    expect(schedule.outputs.filter(({ id }) => id === 'live-mix').map(({ pair }) => pair)).toEqual([0, 1, 2]);
    const renderer = new Renderer(schedule, BLOCK_FRAMES);
    const inputs = schedule.sourceIds.map(() => newStereo(BLOCK_FRAMES));
    inputs[schedule.sourceIds.indexOf('reedbox')][0].fill(0.4);
    renderer.render(inputs, BLOCK_FRAMES);
    const last =
      renderer.outputs[schedule.outputs.findIndex(({ id, pair }) => id === 'live-mix' && pair === 2)];
    const level = reachOf(setup).at('reedbox', 'live')?.gainDb ?? 0;
    expect(last[0][9]).toBeCloseTo(0.2 * 10 ** ((level + 3) / 20), 4);
    expect(last[1].every((value) => value === 0)).toBe(true);
  });

  test('reaches live and VOD as its fold-down: a third channel at −3 dB, as the route card says', () => {
    const arrival = reachOf(onChannels()).at('narrator', 'live');
    expect(arrival?.gainDb).toBeCloseTo(-5, 5);
    expect(arrival?.paths[0].legs.map(({ place, what, gainDb }) => [place, what, gainDb]).slice(-3)).toEqual([
      ['Track 1 · Live mix', 'send, channel 3', -2],
      ['Fold-down to stereo', 'of the channels of the track', expect.closeTo(-3, 5)],
      ['Live', 'heard here', 0],
    ]);
  });

  test('what reach says of a fold-down is what a folded render shows, for every place on the track', () => {
    const folds: TrackChannel[] = [
      { fold: 'left', gainDb: 0 },
      { fold: 'right', gainDb: -1 },
      { fold: 'both', gainDb: -3 },
      { fold: 'none', gainDb: 0 },
      { fold: 'left', gainDb: -6 },
      { fold: 'right', gainDb: -6 },
    ];
    const alone = edited(regattaGuessed(), {
      edit: 'updateTrack',
      id: 'live-mix',
      values: { layout: 'multichannel', channels: folds },
    });
    const track = alone.tracks.find(({ id }) => id === 'live-mix');
    if (!track) throw new Error('the demo has a live mix');
    const setup = { ...alone, sends: [] };
    for (const channels of placesOn(track)) {
      const placed = edited(setup, {
        edit: 'setSend',
        pickup: 'narrator.pickup',
        to: 'live-mix',
        gainDb: -4,
        channels,
      });
      const planes = clickOf(placed, 'narrator', 'live-mix').map((gain) => Float32Array.of(gain));
      const heard = toMonoMean(foldToStereo(planes, heardFoldOf(placed, track) ?? undefined));
      const said = reachOf(placed).at('narrator', 'live')?.gainDb ?? Number.NEGATIVE_INFINITY;
      if (heard === 0) expect(said).toBe(Number.NEGATIVE_INFINITY);
      else expect(toDb(heard)).toBeCloseTo(said, 4);
    }
  });

  test('takes a new send where nothing stands yet: alone beside others that are alone, else as a pair', () => {
    const empty = {
      ...edited(regattaGuessed(), {
        edit: 'updateTrack',
        id: 'voice',
        values: { layout: 'multichannel', channels: channelsOf(4) },
      }),
      sends: [],
    };
    const placed = (setup: Setup, pickup: string, channels?: number[]) =>
      edited(setup, { edit: 'setSend', pickup, to: 'voice', gainDb: 0, channels });
    const placesIn = (setup: Setup) => setup.sends.map(({ channels }) => channels);
    const pairs = placed(placed(empty, 'narrator.pickup'), 'game.pickup');
    expect(placesIn(pairs)).toEqual([
      [1, 2],
      [3, 4],
    ]);
    const alone = placed(placed(placed(empty, 'narrator.pickup', [2]), 'game.pickup'), 'bosun.pickup');
    expect(placesIn(alone)).toEqual([[2], [1], [3]]);
    // Nothing is free any more: it joins the first two.
    expect(placesIn(placed(pairs, 'bosun.pickup')).at(-1)).toBeUndefined();
  });

  test('for the file alone is heard without any turning down', () => {
    const setup = edited(
      regattaGuessed(),
      { edit: 'updateTrack', id: 'voice', values: { layout: 'multichannel', channels: channelsOf(3) } },
      { edit: 'setSend', pickup: 'narrator.pickup', to: 'voice', gainDb: -1, channels: [3] },
    );
    const track = setup.tracks.find(({ id }) => id === 'voice');
    if (!track) throw new Error('the demo has a voice track');
    expect(heardFoldOf(setup, track)).toEqual({ left: [1, 1, 1], right: [1, 1, 1] });
    expect(reachOf(setup).at('narrator', 'voice')?.gainDb).toBeCloseTo(-1, 5);
  });
});

/** The mean of both sides, one sample long. */
function toMonoMean([left, right]: [Float32Array, Float32Array]): number {
  return toMono([left, right], new Float32Array(1))[0] === left[0] && right[0] === 0
    ? left[0] / 2
    : (left[0] + right[0]) / 2;
}

describe('findings on channels', () => {
  test('a channel that the fold-down leaves out does not reach live, and is said to be missing there', () => {
    const channels = channelsOf(4);
    channels[2] = { fold: 'none', gainDb: 0 };
    const setup = onChannels(channels);
    expect(reachOf(setup).at('narrator', 'live')).toBeNull();
    expect(reachOf(setup).onTrack('narrator', 'live-mix')?.gainDb).toBeCloseTo(-2, 5);
    expect(findingsOf(setup, TODAY)).toContainEqual(
      expect.objectContaining({ code: 'missing', source: 'narrator', destination: 'live' }),
    );
  });

  test('what is hidden from the fold-down still leaks into a track that is for publishing', () => {
    const channels = channelsOf(4);
    channels[3] = { fold: 'none', gainDb: 0 };
    const setup = edited(
      onChannels(channels),
      { edit: 'updateTrack', id: 'live-mix', values: { purpose: 'publish' } },
      { edit: 'setSend', pickup: 'reedbox.pickup', to: 'live-mix', gainDb: 0, channels: [4] },
    );
    const leak = findingsOf(setup, TODAY).find(
      ({ code, source }) => code === 'leak.upload' && source === 'reedbox',
    );
    expect(leak?.message).toContain('Reedbox is on channel 4 of track 1, “Live mix”');
  });

  test('a source alone on its channels of an edit track has a track of its own', () => {
    const shared = edited(
      regattaGuessed(),
      { edit: 'setSend', pickup: 'wick.pickup', to: 'bosun-alone', gainDb: 0 },
      { edit: 'removeTrack', id: 'wick-alone' },
    );
    const finding = findingsOf(shared, TODAY).find(
      ({ code, source }) => code === 'no-own-track' && source === 'wick',
    );
    if (!finding) throw new Error('Wick shares a track');
    const full = edited(shared, { edit: 'setRecorder', values: { trackLimit: shared.tracks.length } });
    const remedy = remediesFor(full, finding, TODAY).find(({ label }) => label.includes('channels 3 and 4'));
    expect(remedy?.label).toBe('Give Wick channels 3 and 4 of “Bosun” for itself');
    if (!remedy) return;
    const after = applyEdit(full, remedy.edit);
    expect(findingsOf(after, TODAY).filter(({ code }) => code === 'no-own-track')).toEqual([]);
    expect(brokenRules(after)).toEqual([]);
    const step = stepsOf(after).find(({ text }) => text.includes('call it “Bosun”'));
    expect(step?.text).toContain('with 4 channels');
    expect(step?.text).toContain('on channels 3 and 4');
  });
});

describe('rules of channels', () => {
  const ruled = (setup: Setup) => brokenRules(setup).map(({ field, rule }) => `${field}: ${rule}`);

  test('refuse what no track could do, with the field and the rule', () => {
    const setup = onChannels();
    const track = setup.tracks.findIndex(({ id }) => id === 'live-mix');
    const send = setup.sends.findIndex(({ channels }) => channels);
    const lossy = edited(setup, { edit: 'updateTrack', id: 'live-mix', values: { codec: 'aac' } });
    expect(ruled(lossy)[0]).toContain(
      `tracks[${track}].codec: a multichannel track is recorded as PCM or FLAC`,
    );
    const beyond = {
      ...setup,
      sends: setup.sends.map((one, i) => (i === send ? { ...one, channels: [7] } : one)),
    };
    expect(ruled(beyond)[0]).toContain(`sends[${send}].channels: must be one of the 4 channels`);
    const crossed = {
      ...setup,
      sends: setup.sends.map((one, i) => (i === send ? { ...one, channels: [2, 3] } : one)),
    };
    expect(ruled(crossed)[0]).toContain('or a pair such as 1 and 2');
    const torn = edited(setup, {
      edit: 'setSend',
      pickup: 'wick.pickup',
      to: 'live-mix',
      gainDb: 0,
      channels: [1],
    });
    expect(ruled(torn)[0]).toContain(
      'channel 1 of "live-mix" carries one pickup alone and is half of a pair',
    );
    const stereo = {
      ...regattaGuessed(),
      sends: regattaGuessed().sends.map((one, i) => (i === 0 ? { ...one, channels: [1] } : one)),
    };
    expect(ruled(stereo)[0]).toContain('is no multichannel track');
  });

  test('a track that becomes stereo again takes every send on both sides', () => {
    const setup = edited(onChannels(), { edit: 'updateTrack', id: 'live-mix', values: { layout: 'stereo' } });
    expect(setup.tracks.find(({ id }) => id === 'live-mix')).not.toHaveProperty('channels');
    expect(setup.sends.some(({ channels }) => channels)).toBe(false);
    expect(brokenRules(setup)).toEqual([]);
  });

  test('a send keeps its channels when its level is changed', () => {
    const setup = edited(onChannels(), {
      edit: 'setSend',
      pickup: 'narrator.pickup',
      to: 'live-mix',
      gainDb: -9,
    });
    expect(setup.sends).toContainEqual({
      pickup: 'narrator.pickup',
      to: 'live-mix',
      gainDb: -9,
      channels: [3],
    });
  });

  test('channels go into the setup file and come back', () => {
    expect(readSetupFile(writeSetupFile(onChannels()))).toEqual(onChannels());
  });
});
