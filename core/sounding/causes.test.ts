import { describe, expect, test } from '@jest/globals';
import { reachOf } from '../reach/reach.ts';
import { applyEdit } from '../setup/edits.ts';
import type { Setup } from '../setup/schema.ts';
import { RIGHT_ROOMS } from '../testing/rooms.ts';
import { roomCauses } from './causes.ts';
import { differingRoom } from './differing.ts';
import { besideSetup, type SoundedCell } from './sounding.ts';

const TODAY = '2026-05-01';

/** What would be read of a room without any error: what reach computes. */
function readingOf(setup: Setup, room: Setup) {
  const reach = reachOf(room);
  const cells = setup.sources.flatMap(({ id }) =>
    setup.tracks.flatMap((track): SoundedCell[] => {
      const arrival = reach.onTrack(id, track.id);
      if (!arrival) return [];
      const { gainDb, copies } = arrival;
      return [
        { source: id, track: track.id, gainDb, delayMs: 0, polarity: 1, copies, channels: 'both sides' },
      ];
    }),
  );
  const heard = [...new Set(cells.map(({ source }) => source))];
  return {
    cells,
    tracks: setup.tracks.map(({ id }) => id),
    heard: heard.map((source) => ({ source, fromS: 0, toS: 30, driftPpm: 0 })),
    unheard: setup.sources.map(({ id }) => id).filter((id) => !heard.includes(id)),
  };
}

describe.each(RIGHT_ROOMS)('%s', (_, setup) => {
  test('as it should be differs in no level', () => {
    const { differences } = besideSetup(setup, readingOf(setup, setup), TODAY);
    expect(differences.filter(({ kind }) => ['arrives', 'missing', 'level'].includes(kind))).toEqual([]);
  });

  test('with one side of a source inverted is told by that, not as turned over', () => {
    const reading = readingOf(setup, setup);
    const before = besideSetup(setup, reading, TODAY).differences;
    const cells = reading.cells.map((cell) => ({
      ...cell,
      channels: 'one side inverted' as const,
      polarity: -1 as const,
    }));
    const after = besideSetup(setup, { ...reading, cells }, TODAY).differences;
    const more = after.filter(({ message }) => !before.some((one) => one.message === message));
    expect(more.length).toBeGreaterThan(0);
    for (const { kind, message } of more)
      expect([kind, message]).toEqual(['sides', expect.stringContaining('one side inverted')]);
  });

  test('with one source turned over differs in its polarity alone', () => {
    const reading = readingOf(setup, setup);
    const before = besideSetup(setup, reading, TODAY).differences;
    expect(before.filter(({ kind }) => kind === 'polarity')).toEqual([]);
    const turned = setup.sources.find(
      ({ id, kind }) =>
        kind !== 'microphone' && reading.cells.some(({ source, copies }) => source === id && copies === 1),
    );
    const cells = reading.cells.map((cell) =>
      cell.source === turned?.id ? { ...cell, polarity: -1 as const } : cell,
    );
    const after = besideSetup(setup, { ...reading, cells }, TODAY).differences;
    const more = after.filter(({ message }) => !before.some((one) => one.message === message));
    expect(more.length).toBeGreaterThan(0);
    for (const { kind, source } of more) expect([kind, source]).toEqual(['polarity', turned?.id]);
  });

  test('that is otherwise has causes, each with what mends the room; their edits let the setup say what the room does', () => {
    const room = differingRoom(setup);
    const reading = readingOf(setup, room);
    const heard = new Set(reading.heard.map(({ source }) => source));
    const { causes, differences } = besideSetup(setup, reading, TODAY);
    expect(differences.length).toBeGreaterThan(0);
    expect(causes.length).toBeGreaterThan(0);
    for (const { name, handwork } of causes) {
      expect(name).not.toBe('');
      expect(handwork.length).toBeGreaterThan(0);
    }
    const said = causes.reduce<Setup>((now, { edit }) => applyEdit(now, edit), setup);
    const [asSaid, asItIs] = [reachOf(said), reachOf(room)];
    for (const { id } of setup.sources.filter((source) => heard.has(source.id)))
      for (const track of setup.tracks) {
        const [a, b] = [asSaid.onTrack(id, track.id), asItIs.onTrack(id, track.id)];
        expect([id, track.id, a === null]).toEqual([id, track.id, b === null]);
        expect(Math.abs((a?.gainDb ?? 0) - (b?.gainDb ?? 0))).toBeLessThan(2);
      }
  });
});

test('nothing is made up where nothing was measured', () => {
  for (const [, setup] of RIGHT_ROOMS) expect(roomCauses(setup, [], TODAY)).toEqual([]);
});
