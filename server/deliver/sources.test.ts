import { describe, expect, test } from '@jest/globals';
import type { TaskRunner } from '../jobs/runner.ts';
import { checkTracks } from './checkTracks.ts';
import { foundWithin, sourceFindings } from './sources.ts';

const leak = (reference: string, track: number, startS: number, endS: number) => ({
  reference,
  track,
  startS,
  endS,
  levelDb: -20,
  offsetMs: 0,
});
const silent = (reference: string, track: number) => ({ reference, track, reason: 'it is silent' });
const sound = (name: string, track: number | null) => ({
  name,
  track,
  path: track === null ? '/records/reedbox.flac' : null,
  forbiddenIn: [],
});
const SOUNDS = [sound('Bosun', 4), sound('Reedbox', null)];

describe('what an upload is made of', () => {
  const known = { leaks: [leak('Reedbox', 1, 5, 9)], untested: [silent('Bosun', 2)] };

  test('holds what its tracks hold, and no other track', () => {
    const found = sourceFindings([{ track: 1, rescued: null }], SOUNDS, known);
    expect(found).toEqual({ leaks: [], untested: [silent('Bosun', 2)], tested: ['Reedbox'] });
    const mix = sourceFindings(
      [0, 2].map((track) => ({ track, rescued: null })),
      SOUNDS,
      known,
    );
    expect(mix).toEqual({ leaks: known.leaks, untested: [], tested: ['Bosun', 'Reedbox'] });
  });

  test('a track that is such a sound holds it all along', () => {
    const { leaks } = sourceFindings([{ track: 4, rescued: null }], SOUNDS, known);
    expect(foundWithin({ leaks, untested: [] }, { fromS: 100, lengthS: 20 }).leaks).toEqual([
      { ...leak('Bosun', 1, 0, 20), levelDb: 0 },
    ]);
  });

  test('of a sound that was taken out counts what was left, and the finished file says whether it can be heard', () => {
    const left = leak('Reedbox', 1, 6, 7);
    const sources = [{ track: 0, rescued: { sound: 'Reedbox', leaks: [left] } }];
    expect(sourceFindings(sources, SOUNDS, known)).toEqual({
      leaks: [left],
      untested: [],
      tested: ['Bosun'],
    });
  });

  test('a piece of the recording has what lies in it', () => {
    const leaks = [leak('Reedbox', 4, 0, 5), leak('Reedbox', 4, 8, 12), leak('Reedbox', 4, 18, 40)];
    const found = foundWithin({ leaks, untested: [silent('Bosun', 4)] }, { fromS: 10, lengthS: 20 });
    expect(found.leaks).toEqual([leak('Reedbox', 1, 0, 2), leak('Reedbox', 1, 8, 20)]);
    expect(found.untested).toEqual([silent('Bosun', 1)]);
  });
});

test('pairs of a sound and a track that are known are not looked at again', async () => {
  const unused = {} as TaskRunner;
  const known = {
    asked: [0, 1].flatMap((track) => SOUNDS.map(({ name }) => ({ sound: name, track }))),
    leaks: [leak('Reedbox', 1, 5, 9), leak('Reedbox', 8, 5, 9)],
    untested: [silent('Bosun', 2)],
  };
  const found = await checkTracks(unused, '/evening.mkv', [0, 1], SOUNDS, known);
  expect(found.leaks).toEqual([leak('Reedbox', 1, 5, 9)]);
  expect(found.untested).toEqual(known.untested);
  // The track that carries a sound is not asked whether it holds it.
  expect((await checkTracks(unused, '/evening.mkv', [4], [SOUNDS[0]])).asked).toEqual([]);
});
