import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { seededRandom } from '../core/audio/random.ts';
import { noise } from '../core/testing/tones.ts';
import { writeSound } from '../server/testing.ts';

/** A sound file that is whole, of which damaged copies are made. */
export interface Whole {
  name: string;
  bytes: Buffer;
}

/** What ffmpeg makes of the same sound, beside what Northfen's own writer does. */
const BY_FFMPEG: [name: string, ...args: string[]][] = [
  ['mov-alac-like.mov', '-c:a', 'pcm_s24le'],
  ['aac.mp4', '-c:a', 'aac'],
  ['aac.mov', '-c:a', 'aac'],
  ['aac.aac', '-c:a', 'aac'],
  ['mp3.mp3', '-c:a', 'libmp3lame'],
  ['opus.ogg', '-c:a', 'libopus'],
  ['vorbis.ogg', '-c:a', 'libvorbis'],
  ['opus.webm', '-c:a', 'libopus'],
  ['alac.mov', '-c:a', 'alac'],
  ['alac.mkv', '-c:a', 'alac'],
  ['mp2.mkv', '-c:a', 'mp2'],
  ['mp3.mp4', '-c:a', 'libmp3lame'],
  ['two.mkv', '-map', '0:a', '-map', '0:a', '-c:a', 'aac'],
  ['many.wav', '-ac', '8', '-c:a', 'pcm_s16le'],
  ['rf64.wav', '-rf64', 'always', '-c:a', 'pcm_s24le'],
];

/** Makes one short file of each kind. Where there is no ffmpeg, only those of Northfen's own writer. */
export async function wholeFiles(folder: string): Promise<Whole[]> {
  const sound = noise(1, 72_000);
  const own = [
    ['flac.mkv', 'flac', 'mkv'],
    ['pcm.mkv', 'pcm-s24', 'mkv'],
    ['opus.mkv', 'opus', 'mkv'],
    ['aac.mkv', 'aac', 'mkv'],
    ['float.wav', 'pcm-f32', 'wav'],
    ['plain.wav', 'pcm-s16', 'wav'],
  ] as const;
  for (const [name, codec, container] of own)
    await writeSound(join(folder, name), sound, { codec }, container);
  const made: string[] = own.map(([name]) => name);
  for (const [name, ...args] of BY_FFMPEG) {
    const all = ['-v', 'error', '-y', '-i', join(folder, 'plain.wav'), ...args, join(folder, name)];
    if (spawnSync('ffmpeg', all).status === 0) made.push(name);
  }
  return made.map((name) => ({ name, bytes: readFileSync(join(folder, name)) }));
}

/** Ways to damage a file, each with what chance decides. */
const DAMAGES: ((bytes: Buffer, random: () => number) => Buffer)[] = [
  (bytes, random) => bytes.subarray(0, Math.floor(random() * bytes.length)),
  (bytes, random) => Buffer.concat([bytes, Buffer.alloc(Math.ceil(random() * 200))]),
  (bytes, random) =>
    Buffer.concat([bytes.subarray(0, place(bytes, random)), Buffer.alloc(Math.ceil(random() * 70_000))]),
  (bytes, random) => filled(bytes, random, 0),
  (bytes, random) => filled(bytes, random, 0xff),
  (bytes, random) => flipped(bytes, random, bytes.length),
  // What tells lengths, rates and channels stands at the beginning, in some formats at the end.
  (bytes, random) => flipped(bytes, random, Math.min(bytes.length, 600)),
  (bytes, random) => flippedAtEnd(bytes, random),
  (bytes, random) => bigNumber(bytes, random),
  (bytes, random) => {
    const at = place(bytes, random);
    return Buffer.concat([bytes.subarray(0, at), bytes.subarray(at + Math.ceil(random() * 3000))]);
  },
  (bytes, random) => {
    const at = place(bytes, random);
    return Buffer.concat([bytes.subarray(0, at), bytes.subarray(place(bytes, random)), bytes.subarray(at)]);
  },
];

/** Returns a damaged copy of one of the files: the same for the same number. */
export function mutant(wholes: Whole[], number: number): Whole {
  const random = seededRandom(number + 1);
  const { name, bytes } = wholes[number % wholes.length];
  const damage = DAMAGES[Math.floor(random() * DAMAGES.length)];
  return { name: `${number}-${name}`, bytes: damage(Buffer.from(bytes), random) };
}

function place(bytes: Buffer, random: () => number): number {
  return Math.floor(random() * bytes.length);
}

function filled(bytes: Buffer, random: () => number, value: number): Buffer {
  const at = place(bytes, random);
  return bytes.fill(value, at, Math.min(bytes.length, at + Math.ceil(random() * 2000)));
}

function flipped(bytes: Buffer, random: () => number, within: number): Buffer {
  for (let count = Math.ceil(random() * 12); count > 0; count--)
    bytes[Math.floor(random() * within)] = Math.floor(random() * 256);
  return bytes;
}

function flippedAtEnd(bytes: Buffer, random: () => number): Buffer {
  const tail = bytes.subarray(Math.max(0, bytes.length - 900));
  flipped(tail, random, tail.length);
  return bytes;
}

/** Numbers of four bytes that are huge, negative or nearly round. */
function bigNumber(bytes: Buffer, random: () => number): Buffer {
  const values = [0xffffffff, 0x7fffffff, 0x80000000, 0x10000000, 0x00ffffff, 0];
  const value = values[Math.floor(random() * values.length)];
  const isEarly = random() < 0.5;
  const at = isEarly
    ? Math.floor(random() * Math.min(600, bytes.length - 4))
    : Math.max(0, place(bytes, random) - 4);
  if (random() < 0.5) bytes.writeUInt32BE(value, at);
  else bytes.writeUInt32LE(value, at);
  return bytes;
}
