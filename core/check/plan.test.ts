import { describe, expect, test } from '@jest/globals';
import { twoMachinesMadeRight } from '../demo/twoMachines.ts';
import type { Setup } from '../setup/schema.ts';
import { type CheckPlan, planFromSetup, proposedPlan, referencesOf } from './plan.ts';
import type { Proposal } from './recording.ts';
import {
  limitWords,
  NOTHING_TO_COMPARE,
  overallVerdict,
  usesUnasked,
  verdictSentence,
  verdictsByUse,
} from './verification.ts';

const TODAY = '2026-06-01';
const proposals = (...roles: Proposal['role'][]): Proposal[] =>
  roles.map((role, track) => ({ track, role, sureness: 0.7, because: '' }));
const nothing = { leaks: [], untested: [], pairs: 0 };

describe('the plan that tracks suggest', () => {
  test('a mix goes where its name says, and to the upload; music and friends are not allowed there', () => {
    const plan = proposedPlan(
      ['Stream', 'Mic', 'Music', 'Friends'],
      proposals('mix', 'voice', 'music', 'voice chat'),
    );
    expect(plan.tracks.map(({ goesTo }) => goesTo)).toEqual([['live', 'upload'], [], [], []]);
    expect(plan.tracks.map(({ notFor }) => notFor)).toEqual([[], [], ['vod', 'upload'], ['upload']]);
    expect(referencesOf(plan)).toMatchObject([
      { name: 'Music', track: 2, forbiddenIn: [0] },
      { name: 'Friends', track: 3, forbiddenIn: [0] },
    ]);
  });

  test('where nothing looks like a mix, the first track is what is uploaded; not where it carries music alone', () => {
    expect(proposedPlan([null, null], proposals('unknown', 'music')).tracks[0].goesTo).toEqual(['upload']);
    expect(proposedPlan(['Music'], proposals('music')).tracks[0].goesTo).toEqual([]);
  });

  test('equal names are told apart', () => {
    const plan = proposedPlan(['Mix', 'Music', 'Music'], proposals('mix', 'music', 'music'));
    expect(referencesOf(plan).map(({ name }) => name)).toEqual(['Music (track 2)', 'Music (track 3)']);
  });
});

describe('the plan that a setup makes', () => {
  const setup = twoMachinesMadeRight();
  const names = setup.tracks.map(({ name }) => name);

  test('every source that is not allowed everywhere is looked for, or said to be unknown', () => {
    const plan = planFromSetup('room', setup, names, TODAY);
    const restricted = setup.sources.filter(
      ({ clearance: { live, vod, upload } }) => !(live && vod && upload),
    );
    const looked = [...plan.tracks.filter(({ notFor }) => notFor.length > 0), ...plan.files, ...plan.unknown];
    expect(looked).toHaveLength(restricted.length);
    for (const { forbiddenIn, notFor } of referencesOf(plan))
      for (const at of forbiddenIn)
        expect(plan.tracks[at].goesTo.some((use) => notFor.includes(use))).toBe(true);
  });

  test('a source without track and recording is untested wherever it must not be', () => {
    const without: Setup = { ...setup, sources: setup.sources.map((source) => ({ ...source, media: null })) };
    const plan = planFromSetup('room', without, ['Only one'], TODAY);
    expect(plan.unknown.length).toBeGreaterThan(0);
    const verdicts = verdictsByUse(plan, nothing);
    for (const { untested } of verdicts)
      expect(untested.every(({ reason }) => reason === NOTHING_TO_COMPARE)).toBe(true);
    expect(overallVerdict(verdicts)).toBe('not testable');
  });
});

describe('the verdict for each use', () => {
  const plan: CheckPlan = {
    setupId: null,
    tracks: [
      { carries: 'Mix', goesTo: ['live', 'upload'], notFor: [] },
      { carries: 'Music', goesTo: [], notFor: ['upload'] },
    ],
    files: [],
    unknown: [],
  };
  const leak = {
    reference: 'Music',
    track: 1,
    startS: 3,
    endS: 9,
    levelDb: -20,
    offsetMs: 0,
    uses: ['upload' as const],
  };

  test('where everything is allowed nothing is said, not even that it is clean', () => {
    expect(verdictsByUse(plan, nothing).map(({ use, verdict }) => [use, verdict])).toEqual([
      ['upload', 'clean'],
    ]);
    expect(usesUnasked(plan)).toEqual(['live']);
    expect(overallVerdict(verdictsByUse({ ...plan, tracks: [plan.tracks[0]] }, nothing))).toBeNull();
  });

  test('a leak makes the uses that it concerns not clean, and is named', () => {
    const [upload] = verdictsByUse(plan, { ...nothing, leaks: [leak] });
    expect(upload.verdict).toBe('not clean');
    expect(verdictSentence(upload)).toBe('Found in track 1, and not allowed there: Music.');
    const live = { ...plan, tracks: [{ ...plan.tracks[0], goesTo: ['live' as const] }, plan.tracks[1]] };
    expect(verdictsByUse(live, { ...nothing, leaks: [leak] })).toEqual([]);
  });

  test('a track that goes where what it carries is not allowed needs no measurement', () => {
    const tracks = [plan.tracks[0], { ...plan.tracks[1], goesTo: ['upload' as const] }];
    const [upload] = verdictsByUse({ ...plan, tracks }, nothing);
    expect([upload.verdict, upload.carried]).toEqual(['not clean', [2]]);
    expect(verdictSentence(upload)).toBe('What track 2 carries is not allowed there.');
  });

  test('what could not be tested is never clean', () => {
    const untested = [{ reference: 'Music', track: 1, reason: 'it is silent', uses: ['upload' as const] }];
    const [upload] = verdictsByUse(plan, { ...nothing, untested });
    expect(upload.verdict).toBe('not testable');
    expect(verdictSentence(upload)).toBe('Could not be checked in track 1: Music.');
  });

  test('what “clean” stands for is said of what was looked for', () => {
    expect(limitWords({ tracks: false, files: false })).toBe('');
    expect(limitWords({ tracks: true, files: false })).toMatch(/same recording.*40 dB.*may be missed\.$/);
    expect(limitWords({ tracks: false, files: true })).toMatch(
      /^A file.*30 dB.*another speed or pitch, may be missed\.$/,
    );
  });
});
