import { expect, test } from '@jest/globals';
import type { Stereo } from '../audio/planes.ts';
import { regattaMadeRight } from '../demo/setups.ts';
import { findingsOf } from '../findings/findings.ts';
import { mend } from '../repair/mend.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { readSetupFile, writeSetupFile } from '../setup/file.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { stepsOf } from '../sheet/steps.ts';
import { rendered } from '../testing/rendering.ts';
import { givenByTheComputer } from '../testing/settingRooms.ts';

const TODAY = '2026-05-01';
const FRAMES = 4800;
const right = givenByTheComputer;
const withSource = (setup: Setup, id: string, values: object, clear?: 'machineInto'[]) =>
  applyEdit(setup, { edit: 'updateSource', id, values, clear } as SimpleEdit);

/** The height of a click of one source at a destination; 0 where it does not arrive. */
function clickAt(setup: Setup, source: string, destination: string): number {
  const stems = setup.sources.map(({ id }): Stereo => {
    const plane = new Float32Array(FRAMES);
    if (id === source) plane[0] = 1;
    return [plane, plane.slice()];
  });
  return Math.max(...rendered(setup, stems)(destination)[0]);
}
const messagesOf = (setup: Setup) => findingsOf(setup, TODAY).map(({ message }) => message);

test('what a machine gives to an app counts where the app leaves it the choice, and not where the app names a device', () => {
  expect(clickAt(right, 'reedbox', 'music')).toBeCloseTo(1, 5);
  const named = withSource(right, 'reedbox', { into: 'boathouse.headset' });
  expect(clickAt(named, 'reedbox', 'music')).toBe(0);
  expect(messagesOf(named)).toContain(
    'Reedbox names “headset” itself. So the “records” that boathouse gives to it does not count.',
  );
  const { setup } = mend(named, TODAY);
  expect(clickAt(setup, 'reedbox', 'music')).toBeCloseTo(1, 5);
  // Without a device of the machine's, the default is left.
  const left = withSource(right, 'reedbox', {}, ['machineInto']);
  expect(clickAt(left, 'reedbox', 'music')).toBe(0);
});

test('a stuck app is silent everywhere, and its output is moved away and back', () => {
  const stuck = withSource(right, 'game', { stuck: true });
  expect(clickAt(right, 'game', 'live')).toBeCloseTo(10 ** (-10 / 20), 5);
  expect(clickAt(stuck, 'game', 'live')).toBe(0);
  expect(messagesOf(stuck)).toContain(
    'Lock & Paddle plays into “game”, and is silent all the same. Moving its output to another device and back helps.',
  );
  expect(stepsOf(stuck).find(({ id }) => id === 'apps:game stuck')?.text).toBe(
    'Lock & Paddle is stuck: move its output to another device, and back to “game”.',
  );
  const { setup, steps } = mend(stuck, TODAY);
  expect(steps.map(({ remedy }) => remedy.handwork)).toEqual([
    ['Move the output of Lock & Paddle to another device, and back to “game”.'],
  ]);
  expect(clickAt(setup, 'game', 'live')).toBeCloseTo(10 ** (-10 / 20), 5);
});

test('a pickup that asks for a name takes the app of that name alone', () => {
  const room = regattaMadeRight();
  const asking = (asksFor: string) =>
    applyEdit(room, { edit: 'updatePickup', id: 'game.pickup', values: { asksFor } });
  expect(clickAt(asking('lock & paddle'), 'game', 'live')).toBeGreaterThan(0.1);
  const wrong = asking('Lock & Paddle 2');
  expect(clickAt(wrong, 'game', 'live')).toBe(0);
  expect(messagesOf(wrong)).toContain(
    'The recorder asks for the app “Lock & Paddle 2”, and nothing is called that now. Take “Lock & Paddle” instead.',
  );
  const { setup, steps } = mend(wrong, TODAY);
  expect(steps.map(({ remedy }) => remedy.handwork)).toEqual([
    ['In the recorder, take the app “Lock & Paddle” instead.'],
  ]);
  expect(clickAt(setup, 'game', 'live')).toBeGreaterThan(0.1);
});

test('a mix that goes to a web studio as its microphone is a destination with wishes of its own', () => {
  expect(clickAt(right, 'game', 'web-studio')).toBeCloseTo(10 ** (-12 / 20), 5);
  expect(clickAt(right, 'bosun', 'web-studio')).toBe(0);
  const open = applyEdit(right, {
    edit: 'setMixInput',
    mix: 'studio',
    from: 'boathouse.records',
    values: { gainDb: 0 },
  });
  expect(messagesOf(open)).toContain(
    'Reedbox arrives at Web studio at full level (0.0 dB), and you do not want it there.',
  );
  expect(messagesOf(mend(open, TODAY).setup)).toEqual(messagesOf(right));
});

test('what cannot be is refused in a sentence, and what can be is kept in the file', () => {
  const ruleOf = (setup: Setup) => brokenRules(setup)[0]?.rule;
  expect(ruleOf(withSource(right, 'narrator', { machineInto: 'boathouse.game' }))).toBe(
    'Narrator is plugged in, and its machine cannot send it elsewhere; leave this out',
  );
  expect(ruleOf(withSource(right, 'game', { machineInto: 'boathouse.mic' }))).toBe(
    '"boathouse.mic" is not an output of the machine of Lock & Paddle; choose one that is',
  );
  const device = applyEdit(right, {
    edit: 'updatePickup',
    id: 'game.pickup',
    values: { asksFor: 'Towline' },
  });
  expect(ruleOf(device)).toBe(
    'a device is taken as it is; only where the recorder takes one app does it ask for a name',
  );
  const asks = (asksFor: string) =>
    writeSetupFile(
      applyEdit(regattaMadeRight(), { edit: 'updatePickup', id: 'game.pickup', values: { asksFor } }),
    );
  expect(() => readSetupFile(asks('Lock*'))).toThrow('must be the whole name of the app, without * or ?');
  expect(() => readSetupFile(asks('a'.repeat(300)))).toThrow('80 characters or fewer');
  const kept = readSetupFile(writeSetupFile(withSource(right, 'game', { stuck: true })));
  expect(kept.sources.find(({ id }) => id === 'game')).toMatchObject({
    stuck: true,
    machineInto: 'boathouse.game',
  });
  const gone = applyEdit(right, { edit: 'removeDevice', id: 'boathouse.game', rehome: 'boathouse.call' });
  expect(gone.sources.find(({ id }) => id === 'game')?.machineInto).toBe('boathouse.call');
});
