import { readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import type { Stereo } from '../../core/audio/planes.ts';
import { voiceOver } from '../../core/demo/setups.ts';
import { PROCESSORS, type Processing } from '../../core/processors/processing.ts';
import type { Setup } from '../../core/setup/schema.ts';
import { noise, rms, silence, sine } from '../../core/testing/tones.ts';
import { readSound, testFolder, writeSound } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { DiskFullError } from './diskFile.ts';
import { extractTrack } from './extractTrack.ts';
import { inspectMedia } from './inspectMedia.ts';
import { measureTake } from './measureTake.ts';
import { renderTake } from './renderTake.ts';
import { Stem } from './stem.ts';
import { TakeWriter, type WrittenTrack } from './takeWriter.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

const db = (amplitude: number) => 20 * Math.log10(amplitude);

describe('a written file', () => {
  const CODECS: [WrittenTrack['codec'], number][] = [
    ['pcm-s16', 1e-4],
    ['pcm-s24', 1e-6],
    ['pcm-f32', 1e-7],
    ['flac', 1e-4],
  ];

  test.each(CODECS)(
    'in %s comes back sample by sample, within its own steps (FLAC fills its last block with silence)',
    async (codec, step) => {
      const sound = noise(1, 30_000);
      await writeSound(file(`${codec}.mkv`), sound, { codec, layout: 'mono' });
      const back = await readSound(file(`${codec}.mkv`));
      const padding = back.subarray(sound.length);
      expect(padding.length).toBeLessThan(codec === 'flac' ? 4608 : 1);
      expect(padding.every((value) => value === 0)).toBe(true);
      for (let i = 0; i < sound.length; i += 7) expect(Math.abs(back[i] - sound[i])).toBeLessThan(step);
    },
  );

  test.each(['aac', 'opus'] as const)('in %s keeps the level of a tone', async (codec) => {
    await writeSound(file(`${codec}.mkv`), sine(997, -20, 4), { codec, bitrateKbps: 128 });
    const back = await readSound(file(`${codec}.mkv`));
    expect(db(rms(back.subarray(48_000, 144_000)))).toBeCloseTo(-20 - 3.01, 1);
  });

  test('holds its tracks by name, in order, each with its own codec and channels', async () => {
    const writer = await TakeWriter.create(file('sheet.mkv'), [
      { name: 'Voice “alone”', codec: 'pcm-s24', layout: 'mono' },
      { name: 'Game 🛶', codec: 'aac', bitrateKbps: 192, layout: 'stereo' },
      { name: '../up', codec: 'pcm-f32', layout: 'stereo' },
    ]);
    const second: Stereo = [noise(2, 48_000), noise(3, 48_000)];
    for (let i = 0; i < 2; i++) await writer.add([second, second, second], 48_000);
    await writer.finish();
    const { tracks } = await AudioFile.open(file('sheet.mkv'));
    expect(tracks.map(({ name, codec, channels }) => [name, codec, channels])).toEqual([
      ['Voice “alone”', 'pcm-s24', 1],
      ['Game 🛶', 'aac', 2],
      ['../up', 'pcm-f32', 2],
    ]);
    for (const { durationS } of tracks) expect(Math.abs(durationS - 2)).toBeLessThan(0.1);
  });

  test('stops where the disk is full, and says so', async () => {
    const writer = await TakeWriter.create(
      file('full.mkv'),
      [{ name: 'Sound', codec: 'pcm-f32', layout: 'stereo' }],
      { spaceBytes: 3_000_000 },
    );
    const second: Stereo = [noise(4, 48_000), noise(5, 48_000)];
    const writing = (async () => {
      for (let i = 0; i < 40; i++) await writer.add([second], 48_000);
      await writer.finish();
    })();
    await expect(writing).rejects.toBeInstanceOf(DiskFullError);
    await writer.cancel().catch(() => {});
    expect(statSync(file('full.mkv')).size).toBeLessThanOrEqual(3_000_000);
  });
});

describe('a stem', () => {
  test('is padded with silence after its end, and tells how much came from the file', async () => {
    await writeSound(file('short.mkv'), sine(440, -6, 0.5));
    const stem = await Stem.open(file('short.mkv'));
    const planes: Stereo = [new Float32Array(48_000).fill(9), new Float32Array(48_000).fill(9)];
    expect(await stem.read(planes, 48_000)).toBe(24_000);
    expect(planes[0].subarray(24_000).every((value) => value === 0)).toBe(true);
    expect(stem.ended).toBe(true);
    expect(await stem.read(planes, 100)).toBe(0);
    await stem.close();
  });

  test('reads tracks of one open file side by side, each in its own time', async () => {
    const writer = await TakeWriter.create(file('two.mkv'), [
      { name: 'A', codec: 'pcm-s16', layout: 'mono' },
      { name: 'B', codec: 'pcm-s16', layout: 'mono' },
    ]);
    const [a, b] = [sine(300, -6, 2), sine(700, -12, 2)];
    for (let at = 0; at < a.length; at += 24_000) {
      const part = (samples: Float32Array): Stereo => [
        samples.subarray(at, at + 24_000),
        samples.subarray(at, at + 24_000),
      ];
      await writer.add([part(a), part(b)], 24_000);
    }
    await writer.finish();
    const open = await AudioFile.open(file('two.mkv'));
    const stems = [Stem.of(open, 0), Stem.of(open, 1)];
    const planes: Stereo = [new Float32Array(10_000), new Float32Array(10_000)];
    for (let portion = 0; portion < 5; portion++) {
      await stems[1].read(planes, 10_000);
      expect(db(rms(planes[0]))).toBeCloseTo(-12 - 3.01, 1);
    }
    await stems[0].read(planes, 10_000);
    expect(db(rms(planes[0]))).toBeCloseTo(-6 - 3.01, 1);
    await Promise.all(stems.map((stem) => stem.close()));
    open.close();
  });
});

describe('a track taken out of a take', () => {
  test('is a WAV with the same samples, written once', async () => {
    const sound = noise(6, 60_000);
    await writeSound(file('take.mkv'), sound, { codec: 'pcm-s24' });
    const [first, second] = await Promise.all([
      extractTrack(file('take.mkv'), 0, folder.path),
      extractTrack(file('take.mkv'), 0, folder.path),
    ]);
    expect([first, second]).toEqual(['track-1.wav', 'track-1.wav']);
    const { mtimeMs } = statSync(file('track-1.wav'));
    await extractTrack(file('take.mkv'), 0, folder.path);
    expect(statSync(file('track-1.wav')).mtimeMs).toBe(mtimeMs);
    const back = await readSound(file('track-1.wav'));
    for (let i = 0; i < sound.length; i += 11) expect(Math.abs(back[i] - sound[i])).toBeLessThan(1e-6);
    expect(readdirSync(folder.path).some((name) => name.endsWith('.part'))).toBe(false);
  });
});

describe('what a file is measured to be', () => {
  test('every audio track, at its own rate, from end to end', async () => {
    await writeSound(file('tone.wav'), sine(997, -23, 10), { codec: 'pcm-s24' }, 'wav');
    const { tracks } = await inspectMedia(file('tone.wav'));
    expect(tracks).toHaveLength(1);
    expect(tracks[0]).toMatchObject({ sampleRate: 48_000, channels: 2, durationS: 10 });
    expect(tracks[0].integratedLufs).toBeCloseTo(-23, 1);
    expect(tracks[0].truePeakDbtp).toBeCloseTo(-23, 1);
  });

  test('silence has a length, but no loudness and no peak', async () => {
    await writeSound(file('silence.wav'), silence(3), {}, 'wav');
    const { tracks } = await inspectMedia(file('silence.wav'));
    expect(tracks[0]).toMatchObject({ durationS: 3, integratedLufs: null, truePeakDbtp: null });
  });
});

describe('a take', () => {
  const setup = voiceOver();

  test('is mixed as long as its longest source, and measured track by track', async () => {
    await writeSound(
      file('voice.mkv'),
      noise(7, 6 * 48_000).map((value) => value * 0.2),
    );
    await writeSound(
      file('game.mkv'),
      noise(8, 8 * 48_000).map((value) => value * 0.2),
    );
    const mediaFiles = { narrator: file('voice.mkv'), game: file('game.mkv') };
    const durationS = await renderTake({ setup, mediaFiles, outPath: file('mixed.mkv') });
    expect(durationS).toBe(8);
    const measured = await measureTake({
      setup,
      mediaFiles,
      takePath: file('mixed.mkv'),
      durationS,
      trackIds: ['boat', 'voice'],
    });
    expect(measured.tracks.map(({ trackId }) => trackId)).toEqual(['voice', 'boat']);
    const found = (sourceId: string, trackId: string) =>
      measured.presence.find((one) => one.sourceId === sourceId && one.trackId === trackId)?.presence;
    expect(found('narrator', 'voice')).toMatchObject({ present: true });
    expect(found('narrator', 'voice')?.levelDb).toBeCloseTo(0, 1);
    expect(found('narrator', 'boat')).toMatchObject({ testable: true, present: false });
    expect(found('game', 'boat')).toMatchObject({ present: true });
    expect(measured.presence.some(({ trackId }) => trackId === 'master')).toBe(false);
  });

  test('proves a source that is processed as it was processed', async () => {
    const processing: Processing = [
      { does: 'high-pass', hz: 300 },
      { ...PROCESSORS.compressor.initial, thresholdDb: -40, makeUpDb: 9 },
    ];
    const worked = {
      ...setup,
      sources: setup.sources.map((source) => (source.id === 'narrator' ? { ...source, processing } : source)),
    };
    const mediaFiles = { narrator: file('voice.mkv'), game: file('game.mkv') };
    await renderTake({ setup: worked, mediaFiles, outPath: file('worked.mkv') });
    const request = { mediaFiles, takePath: file('worked.mkv'), durationS: 8, trackIds: ['voice'] };
    const levelIn = async (one: Setup) => {
      const { presence } = await measureTake({ ...request, setup: one });
      return presence.find(({ sourceId }) => sourceId === 'narrator')?.presence.levelDb ?? Number.NaN;
    };
    expect(await levelIn(worked)).toBeCloseTo(0, 1);
    expect(Math.abs(await levelIn(setup))).toBeGreaterThan(1);
  });

  test('needs a track and a recording, and leaves nothing behind without', async () => {
    const outPath = file('none.mkv');
    await expect(renderTake({ setup, mediaFiles: {}, outPath })).rejects.toThrow(
      /No source has a recording to rehearse with. Add one on Sources/,
    );
    await expect(
      renderTake({ setup: { ...setup, tracks: [] }, mediaFiles: { game: file('game.mkv') }, outPath }),
    ).rejects.toThrow(/The track sheet is empty/);
    expect(readdirSync(folder.path)).not.toContain('none.mkv');
  });
});
