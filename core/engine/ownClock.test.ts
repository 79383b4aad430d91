import { expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { findingsOf } from '../findings/findings.ts';
import { mend } from '../repair/mend.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { stepsOf } from '../sheet/steps.ts';
import { rendered } from '../testing/rendering.ts';
import { givenByTheComputer } from '../testing/settingRooms.ts';

const TODAY = '2026-05-01';
const RATE = 48_000;
const SECONDS = 10;
/** The microphone has a clock of its own, 40 ppm fast, and is driven together with the headset. */
const together = givenByTheComputer;
const apart = applyEdit(together, {
  edit: 'updateDevice',
  id: 'boathouse.mic',
  clear: ['follows'],
  values: {},
});

/** By how many frames a click of the narrator, after ten seconds, arrives from where it was made. */
function driftAt(setup: Setup, destination: string): number {
  const at = SECONDS * RATE;
  const stems = setup.sources.map(({ id }): Stereo => {
    const plane = new Float32Array(at + RATE);
    if (id === 'narrator') plane[at] = 1;
    return [plane, plane.slice()];
  });
  const [left] = rendered(setup, stems)(destination);
  const loudest = left.reduce(
    (best, value, frame) => (Math.abs(value) > Math.abs(left[best]) ? frame : best),
    0,
  );
  return Math.abs(loudest - at);
}

test('an input on a clock of its own drifts by what its clock says, and not when another device leads it', () => {
  expect(driftAt(together, 'voice')).toBe(0);
  // 40 millionths of ten seconds.
  expect(driftAt(apart, 'voice')).toBe(Math.round(40e-6 * SECONDS * RATE));
});

test('it is found with what it costs in an hour, and driving both together ends it', () => {
  expect(findingsOf(together, TODAY).filter(({ severity }) => severity !== 'note')).toEqual([]);
  const found = findingsOf(apart, TODAY).filter(({ severity }) => severity !== 'note');
  expect(found.map(({ message }) => message)).toEqual([
    '“mic” runs on a clock of its own, 40 parts per million fast: after an hour, Narrator will be 144 ms off the rest. Let one device lead the clock of both.',
  ]);
  const { setup, steps } = mend(apart, TODAY);
  expect(steps.map(({ remedy }) => remedy.handwork)).toEqual([
    ['Drive “mic” together with “headset”, and let “headset” lead the clock.'],
  ]);
  expect(setup).toEqual(together);
  expect(stepsOf(setup).map(({ text }) => text)).toContain(
    'On boathouse, drive “mic” together with “headset”, which leads the clock.',
  );
});

test('one device leads a clock: two, a circle, and one on another machine are refused in a sentence', () => {
  const follow = (id: string, follows: string): SimpleEdit => ({
    edit: 'updateDevice',
    id,
    values: { follows },
  });
  const ruleOf = (...edits: SimpleEdit[]) => brokenRules(edits.reduce<Setup>(applyEdit, together))[0]?.rule;
  expect(ruleOf(follow('boathouse.headset', 'boathouse.game'))).toBe(
    '“headset” would lead the clock of “mic”, and follows another device itself; one device leads, so let “mic” follow that one',
  );
  expect(ruleOf(follow('boathouse.headset', 'boathouse.mic'))).toContain('one device leads');
  expect(ruleOf(follow('boathouse.mic', 'boathouse.mic'))).toBe(
    '“mic” cannot follow its own clock; leave this out',
  );
  const gone = applyEdit(together, { edit: 'removeDevice', id: 'boathouse.headset', rehome: null });
  expect(gone.devices.find(({ id }) => id === 'boathouse.mic')?.follows).toBeUndefined();
});
