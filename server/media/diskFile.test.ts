import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { BufferTarget, EncodedAudioPacketSource, EncodedPacket, MkvOutputFormat, Output } from 'mediabunny';
import { testFolder } from '../testing.ts';
import { DiskFullError, diskTarget } from './diskFile.ts';

const MEGABYTE = 1 << 20;
const folder = testFolder();
afterAll(folder.remove);
let files = 0;

/** What the media library calls of a target. */
interface Target {
  _start(): void;
  _write(data: Uint8Array, position: number): void;
  _flush(): Promise<void>;
  _finalize(): Promise<void>;
}

interface Write {
  position: number;
  length: number;
  flush: boolean;
}

const some = randomBytes(3 * MEGABYTE);
/** Some bytes, others for each number. */
const bytes = (length: number, number: number) =>
  new Uint8Array(some.subarray(number * 13, number * 13 + length));

/** Writes as the media library does; returns what is in the file, and what should be. */
async function written(writes: Write[]): Promise<{ found: Buffer; expected: Buffer }> {
  files += 1;
  const path = join(folder.path, `${files}`);
  const target = diskTarget(path) as unknown as Target;
  const expected = Buffer.alloc(Math.max(...writes.map(({ position, length }) => position + length)));
  target._start();
  for (const [index, { position, length, flush }] of writes.entries()) {
    const data = bytes(length, index);
    target._write(data, position);
    expected.set(data, position);
    data.fill(0xee);
    if (flush) await target._flush();
  }
  await target._finalize();
  return { found: readFileSync(path), expected };
}

describe('what is written to a file is there', () => {
  test('wherever it is written, and in whatever order', async () => {
    const anywhere = fc.record({
      position: fc.oneof(fc.nat(300), fc.nat(3 * MEGABYTE)),
      length: fc.oneof(fc.integer({ min: 1, max: 40 }), fc.integer({ min: 1, max: 2 * MEGABYTE })),
      flush: fc.boolean(),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(anywhere, { minLength: 1, maxLength: 12 }), async (writes) => {
        const { found, expected } = await written(writes);
        expect(found.equals(expected)).toBe(true);
      }),
      { numRuns: 60 },
    );
  });

  test('a size that is filled in afterwards, with room left for it, across the ends of buffers', async () => {
    const writes: Write[] = [];
    for (let at = 0; at < 4 * MEGABYTE; at += 70_004) {
      const flush = at % 3 === 0;
      writes.push({ position: at + 4, length: 70_000, flush }, { position: at, length: 4, flush: false });
    }
    const { found, expected } = await written(writes);
    expect(found.equals(expected)).toBe(true);
  });

  test('a recording is the same to the byte as one that is made in memory', async () => {
    const path = join(folder.path, 'evening.mka');
    const memory = new BufferTarget();
    for (const target of [diskTarget(path), memory]) {
      const output = new Output({ format: new MkvOutputFormat(), target });
      const source = new EncodedAudioPacketSource('pcm-s16');
      output.addAudioTrack(source);
      await output.start();
      const decoderConfig = { codec: 'pcm-s16', sampleRate: 48_000, numberOfChannels: 1 };
      for (let i = 0; i < 600; i++)
        await source.add(new EncodedPacket(bytes(9_600, i), 'key', i / 10, 0.1), { decoderConfig });
      await output.finalize();
    }
    expect(readFileSync(path).equals(Buffer.from(memory.buffer ?? new ArrayBuffer(0)))).toBe(true);
  });
});

test('a disk that is full is told in words', async () => {
  const path = join(folder.path, 'full');
  const target = diskTarget(path, MEGABYTE) as unknown as Target;
  target._write(bytes(MEGABYTE, 0), 0);
  await target._flush();
  target._write(bytes(10, 0), MEGABYTE);
  await expect(target._finalize()).rejects.toThrow(DiskFullError);
  expect(existsSync(path)).toBe(true);
});
