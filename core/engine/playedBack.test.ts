import { describe, expect, test } from '@jest/globals';
import { findingsOf } from '../findings/findings.ts';
import { reachOf } from '../reach/reach.ts';
import { mend } from '../repair/mend.ts';
import { applyEdit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import { type Setup, SetupSchema } from '../setup/schema.ts';
import { RIGHT_ROOMS } from '../testing/rooms.ts';
import { compileDestinations } from './destinations.ts';
import { Renderer } from './renderer.ts';

const TODAY = '2026-05-01';
const FRAMES = 9600;
const right = RIGHT_ROOMS.find(([name]) => name === 'played back beside the desktop')?.[1] as Setup;
/** The record played back into the output that the recorder takes as its desktop. */
const wrong = applyEdit(right, { edit: 'setRecorder', values: { monitorDevice: 'boathouse.headset' } });

/** What one click of a source comes to at a destination: the frames at which it arrives, and how strong (factor). */
function clicksAt(setup: Setup, source: string, id: string): [frame: number, factor: number][] {
  const { schedule, destinations } = compileDestinations(setup);
  const renderer = new Renderer(schedule, FRAMES);
  const stems = setup.sources.map((one) => {
    const plane = new Float32Array(FRAMES);
    if (one.id === source) plane[100] = 1;
    return [plane, plane.slice()] as [Float32Array, Float32Array];
  });
  renderer.render(stems, FRAMES);
  const output = destinations.find((one) => one.id === id)?.parts[0].output ?? -1;
  const [left] = renderer.outputs[output];
  return [...left].flatMap((value, frame) => (Math.abs(value) > 1e-6 ? [[frame - 100, value]] : []));
}

describe('what the recorder plays back', () => {
  test('comes out of its device as late as it says, and nowhere else', () => {
    expect(clicksAt(right, 'reedbox', 'headphones')).toEqual([[960, 1]]);
    expect(clicksAt(right, 'reedbox', 'vod')).toEqual([]);
    const [[frame, factor], ...more] = clicksAt(right, 'reedbox', 'live');
    expect([frame, more]).toEqual([0, []]);
    expect(factor).toBeCloseTo(10 ** (-15 / 20), 6);
  });

  test('is taken up again where that device is taken: twice at live, and in the VOD, as reach says', () => {
    const [direct, again] = clicksAt(wrong, 'reedbox', 'live');
    expect([direct[0], again[0]]).toEqual([0, 960]);
    expect(again[1]).toBeCloseTo(10 ** (-9 / 20), 6);
    expect(clicksAt(wrong, 'reedbox', 'vod')).toEqual([[960, expect.closeTo(10 ** (-9 / 20), 6)]]);
    expect(reachOf(wrong).at('reedbox', 'vod')).toMatchObject({ gainDb: -9, delayMs: 20 });
    const codes = findingsOf(wrong, TODAY).map(({ code }) => code);
    expect(codes).toEqual(expect.arrayContaining(['leak.vod', 'leak.upload']));
  });

  test('is on no track where it is only heard', () => {
    const heard = applyEdit(right, {
      edit: 'updatePickup',
      id: 'records.pickup',
      values: { monitoring: 'heard' },
    });
    expect(clicksAt(heard, 'reedbox', 'live')).toEqual([]);
    expect(clicksAt(heard, 'reedbox', 'headphones')).toEqual([[960, 1]]);
    const missing = findingsOf(heard, TODAY).find(({ code }) => code === 'missing');
    expect(missing?.message).toContain(
      'the recorder only plays boathouse.cable back'.replace('boathouse.', ''),
    );
  });

  test('a pickup that is muted lets nothing through, and one that is processed does so to all that it takes', () => {
    const muted = applyEdit(right, { edit: 'updatePickup', id: 'desktop.pickup', values: { muted: true } });
    expect(clicksAt(muted, 'game', 'live')).toEqual([]);
    expect(findingsOf(muted, TODAY)[0].message).toContain('muted in the recorder');
    const processed = applyEdit(right, {
      edit: 'updatePickup',
      id: 'desktop.pickup',
      values: {
        processing: [
          { does: 'trim', gainDb: -6 },
          { does: 'delay', delayMs: 5 },
        ],
      },
    });
    expect(clicksAt(processed, 'game', 'live')).toEqual([[240, expect.closeTo(10 ** (-15 / 20), 6)]]);
    expect(reachOf(processed).at('game', 'live')).toMatchObject({ gainDb: -9, delayMs: 5 });
    expect(clicksAt(processed, 'game', 'headphones')).toEqual([[0, 1]]);
  });
});

test('a device’s own volume works on all that passes it, once, and is said where it is turned down', () => {
  const down = applyEdit(right, { edit: 'updateDevice', id: 'boathouse.cable', values: { volumeDb: -12 } });
  expect(clicksAt(down, 'reedbox', 'live')).toEqual([[0, expect.closeTo(10 ** (-27 / 20), 6)]]);
  expect(clicksAt(down, 'reedbox', 'headphones')).toEqual([[960, expect.closeTo(10 ** (-12 / 20), 6)]]);
  expect(reachOf(down).at('reedbox', 'live')?.gainDb).toBeCloseTo(-27, 6);
  const { setup, steps } = mend(down, TODAY);
  expect(steps.map(({ remedy }) => remedy.handwork)).toEqual([['Set the volume of “cable” to 0.0 dB.']]);
  expect(findingsOf(setup, TODAY)).toEqual([]);
});

describe('what cannot be played back', () => {
  const rules = (setup: Setup) => brokenRules(setup).map(({ field, rule }) => `${field}: ${rule}`);

  test('into the device that the pickup takes, or on what is no output of the recorder’s machine', () => {
    expect(rules(right)).toEqual([]);
    const howling = applyEdit(right, {
      edit: 'updatePickup',
      id: 'desktop.pickup',
      values: { monitoring: 'heard and sent' },
    });
    const onto = (monitorDevice: string, setup = right) =>
      rules(applyEdit(setup, { edit: 'setRecorder', values: { monitorDevice } }));
    expect(onto('boathouse.headset', howling)[0]).toMatch(
      /^pickups\[1\]\.monitoring: .* and howl; play back on/,
    );
    expect(onto('boathouse.mic')[0]).toMatch(/^recorder\.monitorDevice: "mic" is not an output/);
    expect(onto('nowhere')[0]).toBe('recorder.monitorDevice: there is no device "nowhere"');
  });

  test('a device that goes takes playing back with it, or hands it over', () => {
    const gone = applyEdit(right, { edit: 'removeDevice', id: 'boathouse.second', rehome: null });
    expect(gone.recorder.monitorDevice).toBeUndefined();
    expect(rules(gone)).toEqual([]);
    const other = applyEdit(right, {
      edit: 'removeDevice',
      id: 'boathouse.second',
      rehome: 'boathouse.headset',
    });
    expect(other.recorder.monitorDevice).toBe('boathouse.headset');
    expect(() => applyEdit(right, { edit: 'removeDevice', id: 'boathouse.second' })).toThrow(
      /the recorder plays back on it/,
    );
  });

  test('older files have none of it, and are read as they were', () => {
    expect(SetupSchema.safeParse(right).success).toBe(true);
    const old = { ...right, recorder: {}, pickups: right.pickups.map(({ monitoring: _, ...one }) => one) };
    expect(SetupSchema.parse(old)).toEqual(old);
  });
});
