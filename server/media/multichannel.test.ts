import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { toDb } from '../../core/audio/decibel.ts';
import { voiceOver } from '../../core/demo/setups.ts';
import { proofOf } from '../../core/proof/proof.ts';
import { reachOf } from '../../core/reach/reach.ts';
import { channelsOf, heardFoldOf } from '../../core/setup/channels.ts';
import { applyEdit, type SimpleEdit } from '../../core/setup/edits.ts';
import type { Setup, Track } from '../../core/setup/schema.ts';
import { noise } from '../../core/testing/tones.ts';
import { readSound, testFolder, writeSound } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { extractTrack } from './extractTrack.ts';
import { measureTake } from './measureTake.ts';
import { renderTake } from './renderTake.ts';

const folder = testFolder();
afterAll(folder.remove);
const file = (name: string) => join(folder.path, name);

/** A voice-over whose published track has five channels, the voice alone on the third, recorded with a codec. */
function fiveChannels(codec: Track['codec']): Setup {
  const edits: SimpleEdit[] = [
    {
      edit: 'updateTrack',
      id: 'master',
      values: { layout: 'multichannel', channels: channelsOf(5), codec, uses: ['live', 'file'] },
    },
    { edit: 'setSend', pickup: 'narrator.pickup', to: 'master', gainDb: -2, channels: [3] },
    { edit: 'setSend', pickup: 'game.pickup', to: 'master', gainDb: -8, channels: [4] },
  ];
  const { destinations, ...rest } = edits.reduce<Setup>(applyEdit, voiceOver());
  return { ...rest, destinations: [...destinations, { id: 'live', name: 'Live', kind: 'live' }] };
}

const { abs, log10, max } = Math;
const FRAMES = 6 * 48_000;
const quiet = (seed: number) => noise(seed, FRAMES).map((value) => value * 0.2);

describe.each(['pcm-s24', 'flac'] as const)('a track of five channels in %s', (codec) => {
  const setup = fiveChannels(codec);
  const mediaFiles = { narrator: file(`${codec}-voice.mkv`), game: file(`${codec}-game.mkv`) };
  const takePath = file(`${codec}.mkv`);

  test('is written as five channels, each sound on its own, as another program reads them too', async () => {
    const [voice, game] = [quiet(1), quiet(2)];
    await writeSound(mediaFiles.narrator, voice, { codec: 'pcm-s24' });
    await writeSound(mediaFiles.game, game, { codec: 'pcm-s24' });
    await renderTake({ setup, mediaFiles, outPath: takePath });
    const take = await AudioFile.open(takePath);
    const index = setup.tracks.findIndex(({ id }) => id === 'master');
    expect(take.tracks[index].channels).toBe(5);
    take.close();
    const raw = execFileSync(
      'ffmpeg',
      ['-v', 'error', '-i', takePath, '-map', `0:a:${index}`, '-f', 'f32le', '-'],
      { maxBuffer: 1 << 26 },
    );
    const samples = new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.byteLength));
    const powers = [0, 0, 0, 0, 0];
    for (let at = 0; at < samples.length; at += 5)
      for (let channel = 0; channel < 5; channel++) powers[channel] += samples[at + channel] ** 2;
    expect([powers[0], powers[1], powers[4]]).toEqual([0, 0, 0]);
    const power = (sound: Float32Array) => sound.reduce((sum, value) => sum + value * value, 0);
    expect(10 * log10(powers[2] / power(voice))).toBeCloseTo(reachDb('narrator') + 3, 1);
    expect(10 * log10(powers[3] / power(game))).toBeCloseTo(reachDb('game') + 3, 1);
  });

  test('is measured, and proven, as its fold-down', async () => {
    const measured = await measureTake({ setup, mediaFiles, takePath, durationS: 6, trackIds: ['master'] });
    const lines = proofOf(setup, reachOf(setup), measured.presence, '2026-05-01').filter(
      ({ trackId }) => trackId === 'master',
    );
    for (const id of ['narrator', 'game']) {
      const line = lines.find(({ sourceId }) => sourceId === id);
      expect(line).toMatchObject({ verdict: 'heard', plannedDb: reachDb(id) });
      expect(Math.abs((line?.measuredDb ?? 99) - reachDb(id))).toBeLessThan(0.3);
    }
  });

  test('is taken out whole for the editor, and folded down to be played', async () => {
    const index = setup.tracks.findIndex(({ id }) => id === 'master');
    const whole = await AudioFile.open(join(folder.path, await extractTrack(takePath, index, folder.path)));
    expect(whole.tracks[0].channels).toBe(5);
    whole.close();
    const fold = heardFoldOf(setup, setup.tracks[index]) ?? undefined;
    const name = await extractTrack(takePath, index, folder.path, fold);
    expect(name).toBe(`track-${index + 1}-stereo.wav`);
    const folded = await AudioFile.open(join(folder.path, name));
    expect(folded.tracks[0].channels).toBe(2);
    folded.close();
    const heard = await readSound(join(folder.path, name));
    const [voiceGain, gameGain] = ['narrator', 'game'].map((id) => 10 ** (reachDb(id) / 20));
    const game = quiet(2);
    const sum = quiet(1).map((value, i) => value * voiceGain + game[i] * gameGain);
    const rest = heard.reduce((worst, value, i) => max(worst, abs(value - sum[i])), 0);
    expect(toDb(rest)).toBeLessThan(-80);
  });

  const reachDb = (source: string) => reachOf(setup).at(source, 'live')?.gainDb ?? Number.NaN;
});
