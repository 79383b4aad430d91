import { execFileSync } from 'node:child_process';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, expect, test } from '@jest/globals';
import { testFolder } from '../../testing.ts';
import { FileBytes } from '../fileBytes.ts';
import { PacketEnds } from './packetEnds.ts';
import { readWhole } from './wholeRecording.ts';

const folder = testFolder();
afterAll(folder.remove);

/** Sounds of which coders use different means: noise, tones, clicks in silence. */
const SOUND =
  'anoisesrc=d=3:a=0.2:seed=3[n];sine=f=700:d=3,tremolo=f=4:d=0.9[t];sine=f=3000:d=3:beep_factor=4,agate=threshold=0.1[c];[n][t][c]amix=inputs=3';

test.each([96_000, 88_200, 64_000, 48_000, 44_100, 32_000, 24_000, 22_050, 16_000, 12_000, 11_025, 8_000])(
  'packets of AAC at %i Hz end where their index says, with one channel, two and six, loud and faint',
  async (rateHz) => {
    for (const [channels, bitrate] of [
      [1, '32k'],
      [2, '64k'],
      [2, '320k'],
      [6, '256k'],
    ] as const) {
      const path = join(folder.path, `${rateHz}-${channels}.m4a`);
      const options = ['-ar', String(rateHz), '-ac', String(channels), '-c:a', 'aac', '-b:a', bitrate];
      execFileSync('ffmpeg', ['-v', 'error', '-y', '-filter_complex', SOUND, ...options, path]);
      const { tracks } = await readWhole(path);
      const [{ layout, offsets, sizes }] = tracks;
      const handle = await open(path);
      const { size } = await handle.stat();
      const ends = new PacketEnds(new FileBytes(handle, size), layout, size, 0);
      expect(offsets.length).toBeGreaterThan(20);
      for (const [at, offset] of offsets.entries())
        expect(await ends.of(offset)).toEqual({ endsAt: offset + sizes[at], isKey: true });
      await handle.close();
    }
  },
);
