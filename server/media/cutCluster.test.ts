import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { EncodedPacketSink } from 'mediabunny';
import { testFolder } from '../testing.ts';
import { readAsCut } from './cutCluster.ts';
import { openInput } from './openInput.ts';
import { repairRecording } from './repairRecording.ts';

const folder = testFolder();
const file = (name: string) => join(folder.path, name);
afterAll(folder.remove);

/** One cluster; several; and several whose lengths were not known when they were written. */
const WRITTEN: Record<string, string[]> = {
  'one.mkv': ['-g', '300', '-t', '4'],
  'several.mkv': ['-g', '20'],
  'live.mkv': ['-g', '20', '-live', '1'],
};

beforeAll(() => {
  const picture = ['-f', 'lavfi', '-i', 'testsrc2=size=160x90:rate=10:duration=12'];
  const sound = ['-f', 'lavfi', '-i', 'sine=duration=12', '-map', '0', '-map', '1', '-map', '1'];
  const codecs = ['-c:v', 'libx264', '-c:a:0', 'aac', '-c:a:1', 'libopus'];
  for (const [name, options] of Object.entries(WRITTEN))
    execFileSync('ffmpeg', ['-v', 'error', '-y', ...picture, ...sound, ...codecs, ...options, file(name)]);
});

/** How many packets each track has: by ffprobe, which reads block by block. */
function packetsBy(path: string): number[] {
  const asked = ['-show_entries', 'packet=stream_index', '-of', 'csv=p=0', path];
  const told = execFileSync('ffprobe', ['-v', 'quiet', ...asked], { encoding: 'utf8' });
  const tracks = told.match(/\d+/g) ?? [];
  return [0, 1, 2].map((track) => tracks.filter((one) => Number(one) === track).length);
}

async function packetsOf(path: string): Promise<number[]> {
  const input = await openInput(path);
  try {
    const counts: number[] = [];
    for (const track of await input.getTracks()) {
      const sink = new EncodedPacketSink(track);
      let count = 0;
      for (let one = await sink.getFirstPacket(); one; one = await sink.getNextPacket(one)) count += 1;
      counts.push(count);
    }
    return counts;
  } finally {
    input.dispose();
  }
}

describe.each(Object.keys(WRITTEN))('%s, cut anywhere', (name) => {
  test.each([0.2, 0.37, 0.5, 0.71, 0.9, 0.99])(
    'at %d of it, is read up to its last whole block',
    async (share) => {
      const bytes = readFileSync(file(name));
      const cut = file(`cut-${share}-${name}`);
      writeFileSync(cut, bytes.subarray(0, Math.floor(share * bytes.length)));
      expect(await packetsOf(cut)).toEqual(packetsBy(cut));
    },
  );
});

test('is repaired up to there', async () => {
  const bytes = readFileSync(file('one.mkv'));
  writeFileSync(file('cut.mkv'), bytes.subarray(0, bytes.length / 2));
  await repairRecording(file('cut.mkv'), file('whole.mkv'));
  expect(packetsBy(file('whole.mkv'))).toEqual(packetsBy(file('cut.mkv')));
  expect(Math.min(...packetsBy(file('whole.mkv')))).toBeGreaterThan(10);
});

test('a whole file is read as it is, also with something behind it', async () => {
  for (const name of Object.keys(WRITTEN)) expect(await readAsCut(file(name))).toBeNull();
  writeFileSync(file('tail.mkv'), Buffer.concat([readFileSync(file('several.mkv')), Buffer.alloc(5000)]));
  expect(await readAsCut(file('tail.mkv'))).toBeNull();
  expect(await packetsOf(file('tail.mkv'))).toEqual(packetsBy(file('several.mkv')));
});
