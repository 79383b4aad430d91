import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { writeSetupFile } from '../core/setup/file.ts';
import type { Setup } from '../core/setup/schema.ts';
import { startServer } from '../e2e/startServer.ts';

const PORT = 4794;
const PRESSES = 8;

/** Opens the board of a setup in a browser, changes a level by key, and returns how long each repaint took (ms). */
export async function measureRepaint(setup: Setup): Promise<number[]> {
  const dataDir = mkdtempSync(join(tmpdir(), 'northfen-bench-board-'));
  const server = await startServer(PORT, dataDir, { NORTHFEN_DEMO: '0' });
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const answer = await page.request.post(`http://127.0.0.1:${PORT}/api/setups/import`, {
      headers: { 'Content-Type': 'text/plain' },
      data: writeSetupFile(setup),
    });
    const { id } = (await answer.json()) as { id: string };
    await page.goto(`http://127.0.0.1:${PORT}/setups/${id}/reach`);
    const cell = page.locator('[role=gridcell][data-verdict=open]').first();
    await cell.click();
    const times: number[] = [];
    for (let press = 0; press < PRESSES; press++) {
      await page.waitForTimeout(1200);
      times.push(await cell.evaluate(pressAndWaitForPaint));
    }
    return times;
  } finally {
    await browser.close();
    server.kill();
    rmSync(dataDir, { recursive: true, force: true });
  }
}

/** Runs in the page: from the key to the end of the frame that shows what it did. */
function pressAndWaitForPaint(cell: Element): Promise<number> {
  return new Promise((resolve) => {
    const start = performance.now();
    cell.dispatchEvent(new KeyboardEvent('keydown', { key: '+', bubbles: true }));
    requestAnimationFrame(() => {
      const afterwards = new MessageChannel();
      afterwards.port1.onmessage = () => resolve(performance.now() - start);
      afterwards.port2.postMessage(0);
    });
  });
}
