import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { regattaMadeRight } from '../../core/demo/setups.ts';
import { twoMachinesMadeRight } from '../../core/demo/twoMachines.ts';
import { gate } from '../../core/processors/gate.ts';
import { noiseReduction } from '../../core/processors/noiseReduction.ts';
import { reachOf } from '../../core/reach/reach.ts';
import { applyEdit, type SimpleEdit } from '../../core/setup/edits.ts';
import type { Setup, Track } from '../../core/setup/schema.ts';
import { loadNoiseReduction } from '../../core/signal/noiseReduction.ts';
import { soundRoom } from '../../core/sounding/sounding.ts';
import { recordTestSounds } from './simulatedRecording.ts';
import { readSoundedTracks } from './soundingFiles.ts';

const TODAY = '2026-05-01';
const folder = mkdtempSync(join(tmpdir(), 'northfen-sounding-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const setup = twoMachinesMadeRight();
const edited = (...edits: SimpleEdit[]) => edits.reduce<Setup>(applyEdit, setup);
const coded = (room: Setup, codec: Track['codec']): Setup => ({
  ...room,
  tracks: room.tracks.map((track) => ({ ...track, codec, bitrateKbps: 128 })),
});

async function sounded(room: Setup, seed: number) {
  const outPath = join(folder, `${seed}.mkv`);
  await recordTestSounds({ room, outPath, seconds: 38, seed });
  return soundRoom(setup, await readSoundedTracks(outPath), TODAY);
}

test('a room that is as its setup says reads as reach computes it, through PCM and AAC', async () => {
  const reach = reachOf(setup);
  for (const [room, within] of [
    [coded(setup, 'pcm-s24'), 0.5],
    [coded(setup, 'aac'), 1],
  ] as const) {
    const { cells, differences, causes } = await sounded(room, 5);
    expect(differences).toEqual([]);
    expect(causes).toEqual([]);
    const expected = setup.sources.flatMap(({ id }) =>
      setup.tracks.flatMap((track) => {
        const arrival = reach.onTrack(id, track.id);
        return arrival ? [{ id, track: track.id, gainDb: arrival.gainDb }] : [];
      }),
    );
    expect(cells.map(({ source, track }) => `${source} ${track}`).sort()).toEqual(
      expected.map(({ id, track }) => `${id} ${track}`).sort(),
    );
    for (const { id, track, gainDb } of expected) {
      const cell = cells.find((one) => one.source === id && one.track === track);
      expect(Math.abs((cell?.gainDb ?? 99) - gainDb)).toBeLessThan(within);
    }
  }
}, 180_000);

test('a room that differs from its setup in three ways is read so, with each cause and the step that mends it', async () => {
  const room = edited(
    { edit: 'updateSource', id: 'game', values: { into: 'boathouse.call' } },
    { edit: 'setSend', pickup: 'pages', to: 'live-mix', gainDb: null },
    { edit: 'setSend', pickup: 'bells', to: 'vod-mix', gainDb: -28 },
  );
  const { causes, differences, unheard } = await sounded(room, 6);
  expect(unheard).toEqual(['pings']);
  expect(differences.map(({ message }) => message)).toEqual(
    expect.arrayContaining([
      'Bellbuoy is in track 2 “VOD mix” at −28.0 dB, not at −8.0 dB.',
      'Quillpage is not in track 1 “Live mix”, where the setup brings it at −8.0 dB.',
      'Lock & Paddle is not in track 5 “Game”, where the setup brings it at 0.0 dB.',
    ]),
  );
  expect(causes.map(({ name }) => name).sort()).toEqual([
    'Bellbuoy on track 2, “VOD mix” is at −28.0 dB',
    expect.stringMatching(/^Lock & Paddle plays into “[^”]+”, not into “[^”]+”$/),
    expect.stringMatching(/^Pages is closed on track 1, “Live mix”$|^Quillpage/),
  ]);
  expect(causes.find(({ name }) => name.startsWith('Lock'))?.handwork.join()).toMatch(
    /^In Lock & Paddle, choose “/,
  );
  const said = causes.reduce<Setup>((now, { edit }) => applyEdit(now, edit), setup);
  const [asSaid, asItIs] = [reachOf(said), reachOf(room)];
  for (const { id } of setup.sources)
    for (const { id: track } of setup.tracks) {
      const [a, b] = [asSaid.onTrack(id, track)?.gainDb, asItIs.onTrack(id, track)?.gainDb];
      expect([id, track, a === undefined]).toEqual([id, track, b === undefined]);
      if (a !== undefined && b !== undefined) expect(Math.abs(a - b)).toBeLessThan(1);
    }
}, 180_000);

test('what a gate and noise reduction make of test sounds is not read as other sources', async () => {
  await loadNoiseReduction();
  const right = regattaMadeRight();
  const room = {
    ...right,
    sources: right.sources.map((source) =>
      source.id === 'narrator' || source.id === 'bosun'
        ? {
            ...source,
            processing: [noiseReduction.initial, gate.initial, { does: 'trim' as const, gainDb: 3 }],
          }
        : source,
    ),
  };
  const outPath = join(folder, 'reduced.mkv');
  await recordTestSounds({ room, outPath, seconds: 36, seed: 1 });
  const { differences, unheard } = await soundRoom(room, await readSoundedTracks(outPath), TODAY);
  expect(differences).toEqual([]);
  expect(unheard).toEqual(['pings']);
}, 120_000);
