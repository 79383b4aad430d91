import type { Page } from '@playwright/test';
import { newStereo, type Stereo } from '../core/audio/planes.ts';

/** Fetches the beginning of a recording as the page gets it for a rehearsal: so many frames of both sides. */
export async function readStem(page: Page, path: string, frames: number): Promise<Stereo> {
  const answer = await page.request.get(`/api/sounds/stem?${new URLSearchParams({ path })}`, {
    headers: { Range: `bytes=0-${frames * 8 - 1}` },
  });
  const body = await answer.body();
  const packed = new Float32Array(body.buffer.slice(body.byteOffset, body.byteOffset + body.length));
  const planes = newStereo(frames);
  for (let i = 0; i < packed.length / 2; i++) {
    planes[0][i] = packed[2 * i];
    planes[1][i] = packed[2 * i + 1];
  }
  return planes;
}
