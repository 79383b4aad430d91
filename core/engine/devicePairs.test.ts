import { describe, expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { reachOf } from '../reach/reach.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { readSetupFile, writeSetupFile } from '../setup/file.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { stepsOf } from '../sheet/steps.ts';
import { wideCable } from '../testing/settingRooms.ts';
import { compile } from './compile.ts';
import { Renderer } from './renderer.ts';

const FRAMES = 480;
const edited = (...edits: SimpleEdit[]) => edits.reduce<Setup>(applyEdit, wideCable);
const brokenAfter = (...edits: SimpleEdit[]) => brokenRules(edited(...edits)).map(({ rule }) => rule);

/** How loud a steady sound of one source is on each channel of a track, as the engine mixes it. */
function levelsOn(setup: Setup, source: string, track: string): number[] {
  const stems = setup.sources.map(({ id }): Stereo => {
    const plane = new Float32Array(FRAMES).fill(id === source ? 0.5 : 0);
    return [plane, plane.slice()];
  });
  const schedule = compile(setup, { only: 'tracks' });
  const renderer = new Renderer(schedule, FRAMES);
  renderer.render(stems, FRAMES);
  return schedule.outputs.flatMap(({ id }, output) =>
    id === track ? renderer.outputs[output].map((plane) => plane[FRAMES - 1] / 0.5) : [],
  );
}

describe('a pickup of several pairs of channels', () => {
  test('stands side by side on a track of many channels, and is added up on any other', () => {
    expect(levelsOn(wideCable, 'game', 'apart')).toEqual([1, 1, 0, 0, 0, 0, 0, 0]);
    expect(levelsOn(wideCable, 'bosun', 'apart')).toEqual([0, 0, 1, 1, 0, 0, 0, 0]);
    expect(levelsOn(wideCable, 'reedbox', 'apart')).toEqual([0, 0, 0, 0, 1, 1, 0, 0]);
    const closed = ['game', 'call', 'records'].map(
      (id): SimpleEdit => ({ edit: 'setSend', pickup: `${id}.pickup`, to: 'live-mix', gainDb: null }),
    );
    const together = edited(...closed, {
      edit: 'setSend',
      pickup: 'wide.pickup',
      to: 'live-mix',
      gainDb: 0,
    });
    const reach = reachOf(together);
    for (const source of ['game', 'bosun', 'reedbox']) {
      expect(levelsOn(together, source, 'live-mix').slice(0, 2)).toEqual([1, 1]);
      expect(reach.at(source, 'live')).toMatchObject({ gainDb: 0, copies: 1 });
    }
  });

  test('takes what is left where a device goes, and nothing of a device that it no longer takes', () => {
    const without = edited({ edit: 'removeDevice', id: 'boathouse.wide-34', rehome: null });
    expect(without.pickups.find(({ id }) => id === 'wide.pickup')?.pairs).toBe(2);
    expect(levelsOn(without, 'reedbox', 'apart')).toEqual([0, 0, 1, 1, 0, 0, 0, 0]);
    const other = edited({ edit: 'updatePickup', id: 'wide.pickup', values: { takes: 'boathouse.mic' } });
    expect(other.pickups.find(({ id }) => id === 'wide.pickup')?.pairs).toBeUndefined();
    expect(brokenRules(other)).toEqual([]);
  });

  test('is refused where there are not so many channels, with a sentence that helps', () => {
    expect(brokenAfter({ edit: 'updatePickup', id: 'wide.pickup', values: { pairs: 4 } })).toEqual([
      'there are 6 channels of “wide”; list its further channels as devices first',
    ]);
    expect(brokenAfter({ edit: 'updatePickup', id: 'mic.pickup', values: { pairs: 2 } })).toContain(
      'there are two channels of “mic”; list its further channels as devices first',
    );
    expect(
      brokenAfter({ edit: 'setSend', pickup: 'wide.pickup', to: 'apart', gainDb: 0, channels: [5, 6] }),
    ).toEqual([
      '"wide.pickup" takes 6 channels, which stand side by side on "apart" and need as many from an odd one on; it has 8',
    ]);
    expect(
      brokenAfter({ edit: 'updateDevice', id: 'boathouse.mic', values: { channelsOf: 'boathouse.wide' } }),
    ).toEqual(['“wide” is an output; further channels of a device lie on its machine, in its direction']);
    expect(
      brokenAfter({
        edit: 'updateDevice',
        id: 'boathouse.headset',
        values: { channelsOf: 'boathouse.wide-34' },
      }),
    ).toEqual(['“wide-34” lists further channels of another device itself; name that one here, too']);
  });

  test('is in the file, and on the set-up sheet with its channels', () => {
    expect(readSetupFile(writeSetupFile(wideCable))).toEqual(wideCable);
    const texts = stepsOf(wideCable).map(({ text }) => text);
    expect(texts.some((text) => text.includes('6 channels of the device “wide”'))).toBe(true);
    expect(texts.some((text) => text.includes('Wide cable at 0 dB on channels 1, 2, 3, 4, 5 and 6'))).toBe(
      true,
    );
  });
});
