import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { remux } from '../deliver/remux.ts';
import { testFolder } from '../testing.ts';
import { moveIndexToFront } from './indexInFront.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(() => folder.remove());

const SOURCES = [
  ...['-f', 'lavfi', '-i', 'testsrc=size=320x180:rate=30:duration=6'],
  ...['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000:duration=6'],
];

function recorded(name: string, ...how: string[]): void {
  const coded = ['-map', '0', '-map', '1', '-map', '1', '-c:v', 'libx264', '-bf', '2', '-c:a', 'aac'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', ...SOURCES, ...coded, '-bitexact', ...how, file(name)]);
}

test.each(['mp4', 'mov'])('%s comes out as FFmpeg writes it with its index in front', async (kind) => {
  recorded(`behind.${kind}`);
  recorded(`in-front.${kind}`, '-movflags', '+faststart');
  const shares: number[] = [];
  await moveIndexToFront(file(`behind.${kind}`), (share) => shares.push(share));
  expect(readFileSync(file(`behind.${kind}`)).equals(readFileSync(file(`in-front.${kind}`)))).toBe(true);
  expect(shares.at(-1)).toBe(1);
});

const box = (name: string, ...parts: Buffer[]) => {
  const whole = Buffer.concat([Buffer.alloc(8), ...parts]);
  whole.writeUInt32BE(whole.length, 0);
  whole.write(name, 4, 'latin1');
  return whole;
};

test('offsets that no longer fit into four bytes get eight', async () => {
  const offsets = [100, 2 ** 32 - 10];
  const head = Buffer.alloc(8);
  head.writeUInt32BE(offsets.length, 4);
  const entries = Buffer.alloc(4 * offsets.length);
  for (const [i, offset] of offsets.entries()) entries.writeUInt32BE(offset, 4 * i);
  const name = box('hdlr', Buffer.from('Voice'));
  const table = box('stbl', box('stsz', Buffer.alloc(12)), box('stco', head, entries));
  const moov = box('moov', box('mvhd', Buffer.alloc(20)), box('trak', name, box('mdia', box('minf', table))));
  const sound = Buffer.from('what sounds');
  writeFileSync(file('wide.mp4'), Buffer.concat([box('ftyp', Buffer.alloc(8)), box('mdat', sound), moov]));
  await moveIndexToFront(file('wide.mp4'));
  const bytes = readFileSync(file('wide.mp4'));
  const length = moov.length + 4 * offsets.length;
  expect(bytes.readUInt32BE(16)).toBe(length);
  const at = bytes.indexOf('co64') + 4;
  expect(bytes.readUInt32BE(at + 4)).toBe(offsets.length);
  expect(offsets.map((_, i) => Number(bytes.readBigUInt64BE(at + 8 + 8 * i)))).toEqual(
    offsets.map((offset) => offset + length),
  );
  expect(bytes.subarray(16 + length).equals(box('mdat', sound))).toBe(true);
});

test('a file that does not end with its index, or is cut, is refused', async () => {
  recorded('whole.mp4', '-movflags', '+faststart');
  await expect(moveIndexToFront(file('whole.mp4'))).rejects.toThrow('does not end with its index');
  recorded('cut.mp4');
  const bytes = readFileSync(file('cut.mp4'));
  writeFileSync(file('cut.mp4'), bytes.subarray(0, bytes.length - 10));
  await expect(moveIndexToFront(file('cut.mp4'))).rejects.toThrow('does not consist of whole boxes');
});

test('a copy says how far the move is, and leaves nothing where it is stopped in the middle of it', async () => {
  recorded('evening.mkv');
  const shares: number[] = [];
  await remux(file('evening.mkv'), file('evening.mp4'), (share) => shares.push(share));
  expect(shares.at(-1)).toBe(1);
  expect(shares.every((share, at) => at === 0 || share >= shares[at - 1])).toBe(true);
  const stopped = remux(file('evening.mkv'), file('stopped.mp4'), (share) => {
    if (share > 0.95) throw new DOMException('stopped', 'AbortError');
  });
  await expect(stopped).rejects.toMatchObject({ name: 'AbortError' });
  expect(readdirSync(folder.path).filter((name) => name.startsWith('stopped'))).toEqual([]);
});
