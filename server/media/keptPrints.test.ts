import { readdirSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from '@jest/globals';
import { noise } from '../../core/testing/tones.ts';
import { testFolder, writeSound } from '../testing.ts';
import { keptPrint } from './keptPrints.ts';

const folder = testFolder();
const keepIn = join(folder.path, 'prints');
const record = join(folder.path, 'record.wav');
afterAll(folder.remove);

describe('fingerprints of files are kept', () => {
  test('a file is read once, and again when it has changed', async () => {
    await writeSound(record, noise(1, 96_000), { codec: 'pcm-s16' }, 'wav');
    const first = await keptPrint(record, keepIn);
    const [kept] = readdirSync(keepIn);
    const reports: number[] = [];
    expect(await keptPrint(record, keepIn, (share) => reports.push(share))).toEqual(first);
    expect(reports).toEqual([]);
    utimesSync(record, 1, 1);
    expect((await keptPrint(record, keepIn, (share) => reports.push(share))).print).toEqual(first.print);
    expect(reports.length).toBeGreaterThan(0);
    expect(readdirSync(keepIn)).toHaveLength(2);
    writeFileSync(join(keepIn, kept), 'something else');
    expect((await keptPrint(record, keepIn)).print).toEqual(first.print);
  });

  test('a folder that cannot be written to is no reason to fail', async () => {
    const found = await keptPrint(record, join(record, 'prints'));
    expect(found.print.soundingS).toBeGreaterThan(0);
  });
});
