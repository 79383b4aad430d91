import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { startServer } from './startServer.ts';

test.setTimeout(180_000);

test('a render is cancelled, and leaves no take', async ({ page }) => {
  await page.goto('/setups/regatta-made-right/reach');
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByTestId('running-render')).toContainText('%');
  await page.getByRole('button', { name: 'Cancel', exact: true }).click();
  await expect(page.getByText('Cancelled. No take was made.')).toBeVisible();
  await expect(page.getByText('No take yet')).toBeVisible();
});

test('a server that is killed during a render says so when it is started again; a full disk is told too', async ({
  page,
}) => {
  const dataDir = mkdtempSync(join(tmpdir(), 'northfen-kill-'));
  const base = 'http://127.0.0.1:4792';
  const first = await startServer(4792, dataDir);
  await page.goto(`${base}/setups/voice-over/reach`);
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByTestId('running-render')).toContainText('%');
  first.kill('SIGKILL');
  await new Promise((resolve) => first.once('exit', resolve));
  await expect.poll(() => readdirSync(join(dataDir, 'takes')).length).toBe(1);

  const second = await startServer(4792, dataDir, { NORTHFEN_SIMULATED_DISK_BYTES: '2000000' });
  await page.goto(`${base}/setups/voice-over/takes`);
  await expect(page.getByText('The last render was interrupted.')).toBeVisible();
  expect(readdirSync(join(dataDir, 'takes'))).toEqual([]);
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(
    page.getByText('The disk is full, so this was not done; nothing half-written was left.'),
  ).toBeVisible({ timeout: 60_000 });
  expect(readdirSync(join(dataDir, 'takes'))).toEqual([]);
  second.kill();
  rmSync(dataDir, { recursive: true, force: true });
});
