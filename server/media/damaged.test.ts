import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { noise, sine } from '../../core/testing/tones.ts';
import { threadRunner } from '../jobs/runner.ts';
import { testFolder, writeSound } from '../testing.ts';
import { AudioFile } from './audioFile.ts';
import { inspectMedia } from './inspectMedia.ts';
import { TakeWriter } from './takeWriter.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
let whole: Buffer;
let wholeS: number;

beforeAll(async () => {
  await writeSound(file('whole.mkv'), sine(440, -20, 3), { codec: 'flac' });
  whole = readFileSync(file('whole.mkv'));
  wholeS = (await inspectMedia(file('whole.mkv'))).tracks[0].durationS;
});
afterAll(() => folder.remove());

/** A WAV header for float samples of a rate and channels, with the samples after it. */
function floatWav(sampleRate: number, channels: number, samples: Float32Array): Buffer {
  const header = Buffer.alloc(44);
  header.write('RIFF', 0);
  header.writeUInt32LE(36 + samples.byteLength, 4);
  header.write('WAVEfmt ', 8);
  header.writeUInt32LE(16, 16);
  header.writeUInt16LE(3, 20);
  header.writeUInt16LE(channels, 22);
  header.writeUInt32LE(sampleRate, 24);
  header.writeUInt32LE((sampleRate * channels * 4) >>> 0, 28);
  header.writeUInt16LE((channels * 4) & 0xffff, 32);
  header.writeUInt16LE(32, 34);
  header.write('data', 36);
  header.writeUInt32LE(samples.byteLength, 40);
  return Buffer.concat([header, Buffer.from(samples.buffer)]);
}

async function inspected(name: string, bytes: Buffer) {
  writeFileSync(file(name), bytes);
  return inspectMedia(file(name));
}

describe('a damaged Matroska file', () => {
  test.each([8, 9, 16, 63, 64, 65, 4096, 100_000])(
    'with %s zero bytes at its end is read to its end',
    async (count) => {
      const { tracks } = await inspected(`tail-${count}.mkv`, Buffer.concat([whole, Buffer.alloc(count)]));
      expect(tracks[0].durationS).toBe(wholeS);
    },
  );

  /** The SeekHead, the Info and the Tracks of a file, and its first cluster: names that a search for the next element stops at. */
  test.each(['114d9b74', '1549a966', '1f43b675'])(
    'whose element %s does not say how long it is',
    async (name) => {
      const bytes = Buffer.from(whole);
      const at = bytes.indexOf(Buffer.from(name, 'hex'));
      expect(at).toBeGreaterThan(0);
      bytes.fill(0, at + 4, at + 12);
      const read = inspected(`no-length-${name}.mkv`, bytes).catch((error: Error) => error.name);
      expect(['MediaError', 1]).toContain(
        await read.then((one) => (typeof one === 'string' ? one : one.tracks.length)),
      );
    },
  );

  test('with junk in its middle ends in words or with what is left of it', async () => {
    const runner = threadRunner(fileURLToPath(new URL('../../dist/node/worker.js', import.meta.url)), {
      stallS: 10,
    });
    for (const size of [8, 64, 5000]) {
      const bytes = Buffer.from(whole);
      bytes.fill(0, Math.floor(bytes.length / 2), Math.floor(bytes.length / 2) + size);
      writeFileSync(file('middle.mkv'), bytes);
      const outcome = await runner.run('inspect', { path: file('middle.mkv'), allowCut: false }).then(
        ({ tracks }) => tracks[0].durationS <= wholeS,
        (error: Error) => error.name === 'MediaError',
      );
      expect(outcome).toBe(true);
    }
    await runner.close();
  });

  test('of nothing but its first bytes is refused', async () => {
    await expect(
      inspected('head.mkv', Buffer.concat([Buffer.from([0x1a, 0x45, 0xdf, 0xa3]), Buffer.alloc(64)])),
    ).rejects.toMatchObject({ name: 'MediaError' });
  });
});

/** Ogg and AAC say nowhere how long they are, so that their end is looked for. */
test.each([
  ['ogg', 'libvorbis'],
  ['opus', 'libopus'],
  ['aac', 'aac'],
])(
  '%s that was cut anywhere near its end says how long it is',
  async (ending, codec) => {
    const sound = ['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000:duration=3'];
    execFileSync('ffmpeg', ['-v', 'error', '-y', ...sound, '-c:a', codec, file(`to-cut.${ending}`)]);
    const bytes = readFileSync(file(`to-cut.${ending}`));
    for (let missing = 1; missing < 400; missing += 3) {
      writeFileSync(file(`cut.${ending}`), bytes.subarray(0, bytes.length - missing));
      const cut = await AudioFile.open(file(`cut.${ending}`), { allowCut: true });
      expect(cut.tracks[0].durationS).toBeGreaterThan(0.5);
      expect(cut.tracks[0].durationS).toBeLessThan(3.1);
      cut.close();
    }
  },
  60_000,
);

describe('what no recording of sound has is refused in words', () => {
  test.each([
    [100, 1, /100 Hz. Northfen reads 4 to 384 kHz/],
    [2 ** 31, 1, /2147483648 Hz/],
    [48_000, 33, /33 channels. Northfen reads up to 32/],
    [48_000, 1000, /1000 channels/],
  ])('%s Hz, %s channels', async (rate, channels, words) => {
    const bytes = floatWav(rate, channels, new Float32Array(channels * 100).fill(0.1));
    await expect(inspected('odd.wav', bytes)).rejects.toMatchObject({
      code: 'unsupported',
      message: expect.stringMatching(words),
    });
  });

  test('floating-point samples that are not sound', async () => {
    const samples = noise(1, 48_000);
    samples[24_000] = 1e30;
    await expect(inspected('loud.wav', floatWav(48_000, 1, samples))).rejects.toThrow(
      /not sound \(over 1000 times full scale, near 0\.\d s\)/,
    );
    samples[24_000] = Number.NaN;
    await expect(inspected('nan.wav', floatWav(48_000, 1, samples))).rejects.toThrow(/not a number/);
    samples[24_000] = 4;
    await expect(inspected('hot.wav', floatWav(48_000, 1, samples))).resolves.toMatchObject({
      tracks: [{ truePeakDbtp: expect.closeTo(12, 0) }],
    });
  });
});

test('Opus is written at no more than it can do', async () => {
  const path = file('opus.mkv');
  const writer = await TakeWriter.create(path, [
    { name: 'Voice', codec: 'opus', layout: 'mono', bitrateKbps: 512 },
  ]);
  await writer.add([[sine(440, -20, 1)]], 48_000);
  await writer.finish();
  await expect(inspectMedia(path)).resolves.toMatchObject({ tracks: [{ codec: 'opus', channels: 1 }] });
});
