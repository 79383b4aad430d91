import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { regattaMadeRight } from '../demo/setups.ts';
import { findingsOf } from '../findings/findings.ts';
import { reachOf } from '../reach/reach.ts';
import { mend } from '../repair/mend.ts';
import type { ClearancePreset } from '../setup/clearance.ts';
import { parseSetup } from '../setup/file.ts';
import { SOURCE_KINDS } from '../setup/schema.ts';
import { answered, answerTo, questionsFor } from './questions.ts';
import { costOf, READY_ROOMS } from './readyRooms.ts';
import { carriedOver, toldBy } from './replan.ts';
import { type Hardware, planRoom, type RoomSource } from './room.ts';
import { type PlannedSource, planTracks } from './tracks.ts';

const TODAY = '2026-05-01';
const PRESETS: ClearancePreset[] = ['own', 'liveOnly', 'liveAndVod', 'localOnly', 'never'];
const source = (name: string, preset: ClearancePreset, more: Partial<RoomSource> = {}): RoomSource => ({
  name,
  kind: 'game',
  preset,
  ...more,
});
const EVENING: RoomSource[] = [
  source('Narrator', 'own', { kind: 'microphone' }),
  source('Lock & Paddle', 'own'),
  source('Bosun', 'liveAndVod', { kind: 'voice chat', app: 'Towline' }),
  source('Wick', 'liveAndVod', { kind: 'voice chat', app: 'Towline' }),
  source('Reedbox', 'liveOnly', { kind: 'music', onStreaming: true }),
  source('Bellbuoy', 'own', { kind: 'alerts', onStreaming: true }),
  source('Boathouse pings', 'never', { kind: 'system' }),
];
const ALL = { live: true, vod: true, upload: true };

describe('the track sheet', () => {
  test('puts live, VOD and upload first, then a track for each source by priority', () => {
    const { tracks, reasons } = planTracks(EVENING, { ...ALL, tracks: 8 });
    expect(tracks.map(({ name }) => name)).toEqual([
      'Live mix',
      'VOD mix',
      'Upload mix',
      'Narrator',
      'Lock & Paddle',
      'Towline',
      'Reedbox',
      'Bellbuoy',
    ]);
    expect(reasons.join(' ')).toMatch(/VOD has a track of its own, since Reedbox may go live but not stay/);
  });

  test('says what shares a track when they are short, and what would free one', () => {
    const { tracks, reasons } = planTracks(EVENING, { ...ALL, tracks: 6 });
    expect(tracks.map(({ name }) => name).slice(3)).toEqual(['Narrator', 'Lock & Paddle', 'The rest']);
    expect(reasons.join(' ')).toMatch(/Bosun, Wick, Reedbox and Bellbuoy share the last track/);
    expect(reasons.join(' ')).toMatch(/To free tracks: raise the recorder’s limit by 2/);
  });

  test('of every way to fit the sources in, has the fewest that share, and the least important ones', () => {
    for (let count = 1; count <= 6; count++) {
      for (let room = 1; room <= 5; room++) {
        const sources = Array.from({ length: count }, (_, i) => source(`S${i}`, 'own'));
        const { tracks } = planTracks(sources, { live: false, vod: false, upload: false, tracks: room });
        const fused = tracks.filter((track) => track.sources.length > 1).flatMap((track) => track.sources);
        expect(loss(fused)).toBe(Math.min(...partitions(count, room).map(loss)));
        expect(tracks.flatMap((track) => track.sources).sort()).toEqual(sources.map((_, i) => i));
      }
    }
  });
});

/** What it costs that sources share a track: each more than all of lower priority together would. */
function loss(fused: number[]): number {
  return fused.reduce((sum, index) => sum + 2 ** (20 - index), 0);
}

/** The sources that share a track, for every way to deal `count` sources out to at most `room` tracks. */
function partitions(count: number, room: number): number[][] {
  const found: number[][] = [];
  const deal = (next: number, groups: number[][]) => {
    if (next === count) {
      found.push(groups.filter((group) => group.length > 1).flat());
      return;
    }
    groups.forEach((_, i) => {
      deal(
        next + 1,
        groups.map((group, k) => (k === i ? [...group, next] : group)),
      );
    });
    if (groups.length < room) deal(next + 1, [...groups, [next]]);
  };
  deal(0, []);
  return found;
}

describe('a room from nothing', () => {
  test.each([
    ['one machine', { machines: 'one', desk: false }],
    ['one machine and a desk', { machines: 'one', desk: true }],
    ['two machines', { machines: 'two', desk: false }],
    ['two machines and a desk', { machines: 'two', desk: true }],
  ] as const)('with %s has no finding', (_name, hardware) => {
    const { setup } = planRoom('Evening', EVENING, { ...ALL, tracks: 8 }, hardware);
    expect(findingsOf(parseSetup(setup), TODAY).map(({ message }) => message)).toEqual([]);
    const reach = reachOf(setup);
    expect(reach.at('reedbox', 'live')?.gainDb).toBe(-16);
    expect(reach.at('reedbox', 'vod')).toBeNull();
    expect(reach.at('bosun', 'friends')).toBeNull();
    expect(reach.at('narrator', 'friends')?.gainDb).toBe(0);
  });

  test('whatever the sources, never breaks a rule or a clearance, and never stops', () => {
    const anySource = fc.record({
      name: fc.constantFrom('Aa', 'Bb', 'Cc', 'Dd'),
      kind: fc.constantFrom(...SOURCE_KINDS),
      preset: fc.constantFrom(...PRESETS),
      onStreaming: fc.boolean(),
    });
    const aims = fc.record({
      live: fc.boolean(),
      vod: fc.boolean(),
      upload: fc.boolean(),
      tracks: fc.integer({ min: 1, max: 8 }),
    });
    const hardware = fc.record({
      machines: fc.constantFrom('one' as const, 'two' as const),
      desk: fc.boolean(),
      takes: fc.constantFrom('devices' as const, 'apps' as const),
      isGiven: fc.boolean(),
      playsBack: fc.boolean(),
      chatMix: fc.boolean(),
      studio: fc.boolean(),
    });
    fc.assert(
      fc.property(fc.array(anySource, { maxLength: 8 }), aims, hardware, (sources, wanted, room) => {
        const { setup } = planRoom('Any', sources, wanted, room);
        const stops = findingsOf(parseSetup(setup), TODAY).filter((one) => one.severity === 'stop');
        expect(stops.map(({ message }) => message)).toEqual([]);
      }),
      { numRuns: 150 },
    );
  });

  test('loudspeakers are told with what comes of them, and headphones end it', () => {
    const { setup, reasons } = planRoom(
      'Loud',
      EVENING,
      { ...ALL, tracks: 8 },
      {
        machines: 'two',
        desk: true,
        loudspeakers: true,
      },
    );
    expect(parseSetup(setup)).toEqual(setup);
    expect(reasons.join(' ')).toContain('Your microphone hears the loudspeakers');
    const codes = findingsOf(setup, TODAY).map(({ code }) => code);
    expect(codes).toEqual(expect.arrayContaining(['echo.party', 'open-loudspeakers', 'leak.vod']));
    const mended = mend(setup, TODAY);
    expect(mended.steps.map(({ remedy }) => remedy.label)).toEqual([
      'Listen on headphones instead of Own loudspeakers',
    ]);
    expect(findingsOf(mended.setup, TODAY)).toEqual([]);
  });

  const rooms = READY_ROOMS.map((room) => [room.name, room] as const);
  test.each(rooms)('the ready room “%s” is right, or says what its loudspeakers cost', (_name, room) => {
    const { setup } = planRoom('Evening', EVENING, { ...room.aims, tracks: 8 }, room.hardware);
    expect(parseSetup(setup)).toEqual(setup);
    const found = findingsOf(setup, TODAY).filter(({ severity }) => severity !== 'note');
    expect(found.map(({ message }) => message).length > 0).toBe(room.hardware.loudspeakers === true);
    expect(mend(setup, TODAY).stopStands).toBe(false);
    expect(costOf(room, EVENING, 8)).toMatch(/^\d computer/);
  });

  test('what is answered decides what comes of it', () => {
    const answer = (hardware: Hardware, id: string, words: string) => {
      const question = questionsFor(hardware).find((one) => one.id === id);
      const given = question?.answers.find((one) => one.words === words);
      if (!question || !given) throw new Error(`${id} is not asked`);
      const next = answered(hardware, given);
      expect(answerTo(question, next)).toBe(given);
      return next;
    };
    const plain: Hardware = { machines: 'one', desk: false };
    const planned = (hardware: Hardware) => planRoom('Any', EVENING, { ...ALL, tracks: 8 }, hardware).setup;
    expect(planned(answer(plain, 'playback', 'Yes')).recorder.monitorDevice).toBe('computer.headset');
    expect(planned(answer(plain, 'given', 'In the sound settings of the computer')).sources[1]).toMatchObject(
      {
        into: 'default',
        machineInto: 'computer.lock-paddle',
      },
    );
    expect(
      reachOf(planned(answer(plain, 'chat', 'A mix of microphone and game'))).at('lock-paddle', 'friends')
        ?.gainDb,
    ).toBe(-12);
    expect(reachOf(planned(answer(plain, 'studio', 'Yes'))).at('narrator', 'web-studio')?.gainDb).toBe(0);
    const apart = answer(answer(plain, 'studio', 'Yes'), 'takes', 'It takes each app by itself');
    expect(apart.studio).toBe(false);
    expect(questionsFor(apart).map(({ id }) => id)).toEqual([
      'machines',
      'desk',
      'listen',
      'takes',
      'playback',
    ]);
    expect(planned(apart).devices.filter(({ kind }) => kind === 'virtual')).toEqual([]);
    expect(questionsFor(answer(plain, 'machines', 'Two')).some(({ id }) => id === 'playback')).toBe(false);
  });

  test('a setup is gone through again: its answers are read from it, and what belongs to its sources goes along', () => {
    for (const { hardware, aims, name } of READY_ROOMS) {
      const { setup } = planRoom(name, EVENING, { ...aims, tracks: 8 }, hardware);
      const told = toldBy(setup);
      expect({ name, ...told.aims }).toEqual({ name, ...aims, tracks: 8 });
      expect(planRoom(name, told.sources, told.aims, told.hardware).setup).toEqual(setup);
    }
    const right = regattaMadeRight();
    const told = toldBy(right);
    const made = carriedOver(right, planRoom('Anew', told.sources, told.aims, told.hardware).setup);
    for (const { name, media, clearance } of right.sources)
      expect(made.sources.find((one) => one.name === name)).toMatchObject({ media, clearance });
    expect(parseSetup(made)).toEqual(made);
  });

  test('forty sources on eight tracks keep the first four alone', () => {
    const many: PlannedSource[] = Array.from({ length: 40 }, (_, i) => source(`S${i}`, 'own'));
    const { tracks } = planTracks(many, { ...ALL, tracks: 8 });
    expect(tracks).toHaveLength(8);
    expect(tracks[7].sources).toHaveLength(35);
  });
});
