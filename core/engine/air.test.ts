import { describe, expect, test } from '@jest/globals';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import { findingsOf } from '../findings/findings.ts';
import { cellEdit } from '../reach/cell.ts';
import { reachOf } from '../reach/reach.ts';
import { causesOf } from '../repair/causes.ts';
import { mend } from '../repair/mend.ts';
import { inOneRoom } from '../setup/airEdits.ts';
import { applyEdit, type SimpleEdit } from '../setup/edits.ts';
import { brokenRules } from '../setup/rules.ts';
import type { Setup } from '../setup/schema.ts';
import { RIGHT_ROOMS } from '../testing/rooms.ts';
import { compileDestinations } from './destinations.ts';
import { Renderer } from './renderer.ts';

const TODAY = '2026-05-01';
const FRAMES = 4800;
const right = RIGHT_ROOMS.find(([name]) => name === 'played back beside the desktop')?.[1] as Setup;
/** The headphones are taken off, and loudspeakers play in the room of the microphone. */
const open = applyEdit(right, {
  edit: 'updateDestination',
  id: 'headphones',
  values: { kind: 'loudspeakers' },
});

/** The frames at which a click of a source arrives at a destination, and how strong (dB). */
function clicksAt(setup: Setup, source: string, id: string): [frame: number, db: number][] {
  const { schedule, destinations } = compileDestinations(setup);
  const renderer = new Renderer(schedule, FRAMES);
  renderer.render(
    setup.sources.map((one) => {
      const plane = new Float32Array(FRAMES);
      if (one.id === source) plane[10] = 1;
      return [plane, plane.slice()];
    }),
    FRAMES,
  );
  const output = destinations.find((one) => one.id === id)?.parts[0].output ?? -1;
  return [...renderer.outputs[output][0]].flatMap((value, frame) =>
    Math.abs(value) > 1e-6 ? [[frame - 10, 20 * Math.log10(Math.abs(value))]] : [],
  );
}

describe('the air of a room', () => {
  test('carries nothing to headphones, and what loudspeakers play to the microphone, 30 dB quieter', () => {
    expect(clicksAt(right, 'game', 'voice')).toEqual([]);
    expect(clicksAt(open, 'game', 'voice')).toEqual([[0, expect.closeTo(-30, 4)]]);
    expect(reachOf(open).at('game', 'voice')?.gainDb).toBeCloseTo(-30, 6);
    expect(clicksAt(open, 'reedbox', 'vod')).toEqual([[960, expect.closeTo(-30, 4)]]);
    expect(reachOf(open).at('reedbox', 'vod')).toMatchObject({ delayMs: 20 });
  });

  test('goes the way of the microphone: with its level, its processing, and as far as was measured', () => {
    const measured = [
      { edit: 'setAir', destination: 'headphones', source: 'narrator', gainDb: -42 },
      {
        edit: 'updateSource',
        id: 'narrator',
        values: { levelDb: 6, processing: [{ does: 'delay', delayMs: 10 }] },
      },
    ] as const;
    const setup = measured.reduce<Setup>((now, edit) => applyEdit(now, structuredClone(edit) as never), open);
    expect(clicksAt(setup, 'game', 'voice')).toEqual([[480, expect.closeTo(-36, 4)]]);
    expect(reachOf(setup).at('game', 'voice')?.gainDb).toBeCloseTo(-36, 6);
  });

  test('is one finding, beside the leaks that it makes, and ends with headphones', () => {
    const found = findingsOf(open, TODAY).map(({ code, message }) => ({ code, message }));
    expect(found.map(({ code }) => code)).toEqual(['leak.vod', 'leak.upload', 'open-loudspeakers']);
    expect(found[0].message).toContain('It comes out of loudspeakers, and a microphone hears it.');
    expect(found[2].message).toBe(
      'The microphone of Narrator hears Own headphones, 30 dB quieter: Lock & Paddle and Reedbox are in it.',
    );
    const { setup, steps } = mend(open, TODAY);
    expect(steps.map(({ remedy }) => remedy.label)).toEqual([
      'Listen on headphones instead of Own headphones',
    ]);
    expect(findingsOf(setup, TODAY)).toEqual([]);
  });

  test('friends who come out of loudspeakers hear themselves', () => {
    const bySource = RIGHT_ROOMS.find(([name]) => name === 'tracks by source, one for live')?.[1] as Setup;
    const loud = applyEdit(bySource, {
      edit: 'updateDestination',
      id: 'headphones',
      values: { kind: 'loudspeakers' },
    });
    const echo = findingsOf(loud, TODAY).find(({ code }) => code === 'echo.party');
    expect(echo?.message).toContain('a microphone hears it');
    expect(findingsOf(mend(loud, TODAY).setup, TODAY)).toEqual([]);
  });

  test('a microphone that comes out of the loudspeakers howls, and is told as that alone', () => {
    const howling = applyEdit(open, {
      edit: 'updatePickup',
      id: 'mic.pickup',
      values: { monitoring: 'heard and sent' },
    });
    const codes = findingsOf(howling, TODAY).map(({ code }) => code);
    expect(codes).toContain('feedback');
    expect(codes).not.toContain('open-loudspeakers');
  });
});

test('air between things that share no room is refused in words, and goes with what it is about', () => {
  const rules = (values: { destination: string; source: string; gainDb: number }[]) =>
    brokenRules({ ...open, air: values }).map(({ field, rule }) => `${field}: ${rule}`);
  expect(rules([{ destination: 'headphones', source: 'game', gainDb: -30 }])).toEqual([
    'air[0].source: Lock & Paddle is no microphone, and hears nothing in a room',
  ]);
  expect(rules([{ destination: 'live', source: 'narrator', gainDb: -30 }])[0]).toContain(
    'choose loudspeakers',
  );
  expect(rules([{ destination: 'nowhere', source: 'nobody', gainDb: 3 }])).toHaveLength(3);
  const twice = { destination: 'headphones', source: 'narrator', gainDb: -30 };
  expect(rules([twice, twice])).toEqual(['air[1]: these two are listed twice']);
  expect(applyEdit(open, { edit: 'removeDestination', id: 'headphones' }).air).toEqual([]);
  expect(applyEdit(open, { edit: 'removeSource', id: 'narrator' }).air).toEqual([]);
});

test('a cell of the board moves what the wiring brings, and leaves what the air brings alone', () => {
  const louder = applyEdit(open, cellEdit(open, 'narrator', 'voice', -3));
  expect(reachOf(louder).at('narrator', 'voice')?.gainDb).toBeCloseTo(-3, 6);
  expect(louder.intent.filter(({ destination }) => destination === 'voice')).toEqual([
    { source: 'narrator', destination: 'voice', gainDb: -3 },
  ]);
  expect(() => cellEdit(open, 'game', 'voice', null)).toThrow(
    /comes to voice through the air .* wear headphones/,
  );
  const both = applyEdit(open, cellEdit(open, 'game', 'voice', -12));
  expect(both.sends.find(({ pickup, to }) => pickup === 'mic.pickup' && to === 'voice')?.gainDb).toBe(0);
  expect(causesOf(open, TODAY).flatMap(({ givingUp }) => givingUp.map(({ label }) => label))).not.toContain(
    expect.stringContaining('and Narrator with it'),
  );
});

test('air between machines in different rooms is refused in a sentence', () => {
  const room = (id: string, name: string): SimpleEdit => ({
    edit: 'updateMachine',
    id,
    values: { room: name },
  });
  const edits: SimpleEdit[] = [
    { edit: 'updateDestination', id: 'headphones', values: { kind: 'loudspeakers' } },
    { edit: 'setAir', destination: 'headphones', source: 'narrator', gainDb: -30 },
    room('sluicebox', 'Attic'),
  ];
  const inOne = edits.reduce<Setup>(applyEdit, twoMachinesMadeRight());
  expect(brokenRules(inOne)).toEqual([]);
  const heardNextDoor = applyEdit(applyEdit(inOne, room('boathouse', 'Hall')), {
    edit: 'updateDestination',
    id: 'headphones',
    values: { hears: ['boathouse.game'] },
  });
  expect(brokenRules(heardNextDoor).map(({ rule }) => rule)).toEqual([
    '“Own headphones” sounds in the room “Hall”, and the microphone of Narrator is in “Attic”: it does not hear it; take the two apart, or say that they are in one room',
  ]);
  expect(inOneRoom({ ...heardNextDoor, air: [] }, 'headphones')).toEqual([]);
  expect(brokenRules(applyEdit(heardNextDoor, room('boathouse', 'attic')))).toEqual([]);
});
