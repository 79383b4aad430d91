/** Takes the pictures of docs/screenshots anew, from fresh demo data. Needs Debian's chromium. */
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { ensureBuild, root } from './ensure.mjs';

/** A media folder with recordings that somebody might have, to be seen in the list. */
async function demoMedia() {
  const folder = mkdtempSync(join(tmpdir(), 'northfen-media-'));
  mkdirSync(join(folder, 'summer'));
  for (const name of ['run 11.mkv', 'run 12.mkv', 'summer/locks at dusk.mp4', 'summer/practice.mkv'])
    writeFileSync(join(folder, name), Buffer.alloc(40_000_000));
  return folder;
}

ensureBuild();
const dataDir = mkdtempSync(join(tmpdir(), 'northfen-pictures-'));
const server = spawn(process.execPath, ['dist/node/server.js'], {
  cwd: root,
  env: { ...process.env, PORT: '4793', NORTHFEN_DATA_DIR: dataDir, NORTHFEN_MEDIA_DIR: await demoMedia() },
});
await new Promise((resolve) =>
  server.stdout.on('data', (text) => String(text).includes('is ready') && resolve()),
);

const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});
const page = await browser.newPage({
  viewport: { width: 1280, height: 800 },
  baseURL: 'http://127.0.0.1:4793',
});
const picture = async (name) => {
  await page.waitForTimeout(800);
  await page.screenshot({ path: join(root, 'docs/screenshots', `${name}.png`) });
};
const take = async (setup) => {
  await page.goto(`/setups/${setup}/reach`);
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await page.getByRole('table', { name: 'Tracks' }).waitFor({ timeout: 300_000 });
};

await page.goto('/setups/regatta-evening/reach');
await page.getByTestId('heard-count').waitFor({ timeout: 120_000 });
await page.getByRole('gridcell', { name: /^Reedbox at VOD/ }).click();
await picture('reach');
await page.goto('/setups/two-machines/sources');
await picture('sources');
await page.goto('/setups/two-machines/wiring');
await picture('wiring');
await page.goto('/setups/two-machines/wiring/steps');
await picture('set-up-sheet');
await page.goto('/setups/two-machines/reach/drills');
await page.getByRole('button', { name: /^Towline restarts/ }).click();
await picture('drills');
await page.goto('/plan');
await page.getByText('How you work').evaluate((heading) => heading.scrollIntoView());
await picture('start-from-nothing');
await page.goto('/setups');
await picture('setups');
await page.setViewportSize({ width: 390, height: 844 });
await page.goto('/setups/regatta-evening/reach');
await page.getByRole('gridcell', { name: /^Reedbox at VOD/ }).click();
await page.getByRole('button', { name: /· [0-9]+ causes/ }).click();
await picture('reach-phone');
await page.setViewportSize({ width: 1280, height: 800 });
await take('regatta-evening');
await picture('takes');
await page.goto('/recordings');
await page.getByRole('button', { name: 'Add run 11.mkv' }).click();
await page.getByText(/^is not an audio file/).waitFor({ timeout: 60_000 });
await page.getByRole('button', { name: 'Date' }).click();
await picture('recordings');
await page.getByRole('link', { name: 'Lock & Paddle, the evening.mkv', exact: true }).click();
await page
  .getByRole('button', { name: /Reedbox in track 2/ })
  .first()
  .click({ timeout: 120_000 });
await picture('recording');
await page.getByRole('link', { name: 'Make files' }).click();
await page
  .getByRole('button', { name: 'Listen from a place on the waveform' })
  .click({ position: { x: 420, y: 20 } });
await page.waitForTimeout(2500);
await page.keyboard.press('k');
await page.waitForTimeout(4000);
await page.keyboard.press('Shift+K');
await page.keyboard.press('Escape');
await page.getByRole('textbox', { name: /^Name of the mark/ }).fill('Overtaken at the lock');
await page.keyboard.press('Enter');
await page.getByRole('checkbox', { name: /^Clip: Overtaken/ }).check();
await page.getByRole('heading', { name: 'Video to upload' }).evaluate((heading) => heading.scrollIntoView());
await page.evaluate(() => document.activeElement?.blur());
await picture('make-files');
await page.getByText('The video is kept only if its check says clean', { exact: true }).click();
await page.getByRole('checkbox', { name: /^Make it even if not everything/ }).check();
await page.getByRole('button', { name: /^Make 2 videos/ }).click();
await page.getByRole('table', { name: 'Videos' }).waitFor({ timeout: 300_000 });
await page.getByRole('button', { name: 'Take it out' }).click();
await page.getByRole('figure', { name: /^How loud it was/ }).waitFor({ timeout: 300_000 });
await page.getByRole('heading', { name: 'What was made' }).evaluate((heading) => heading.scrollIntoView());
await picture('made');
const proof = page.waitForEvent('popup');
await page.getByRole('link', { name: 'Proof' }).first().click();
const proofPage = await proof;
await proofPage.waitForTimeout(800);
await proofPage.screenshot({ path: join(root, 'docs/screenshots/proof.png') });
await proofPage.close();
await page.goto('/setups/regatta-evening/balance');
await page.getByRole('button', { name: /^Live/ }).click({ timeout: 60_000 });
await page.getByRole('button', { name: 'Solve', exact: true }).click();
await page.getByText(/^A render/).waitFor({ timeout: 180_000 });
await page.getByRole('button', { name: 'Hear the new levels' }).click();
await page.getByRole('button', { name: 'Stop listening' }).waitFor({ timeout: 60_000 });
await page.mouse.move(0, 0);
await page.waitForTimeout(6000);
await picture('balance');
await page.goto('/setups/regatta-evening/rehearse');
await page
  .getByRole('button', { name: /Bellbuoy over Narrator/ })
  .first()
  .click({ timeout: 60_000 });
await page.getByRole('button', { name: 'Pause' }).waitFor({ timeout: 60_000 });
await page.waitForTimeout(5000);
await picture('rehearse');
await page.getByRole('button', { name: 'Bellbuoy over Narrator', exact: false }).first().click();
await page.waitForTimeout(1000);
await page.getByRole('button', { name: 'Loop here' }).click();
await page.getByRole('button', { name: 'Processing of Narrator' }).click();
await page
  .getByRole('button', { name: 'Set high-pass, noise reduction, gate and trim' })
  .click({ timeout: 60_000 });
await page.getByRole('button', { name: /^Hear it without the noise gate/ }).click({ timeout: 20_000 });
await page.getByText(/^without step/).waitFor({ timeout: 60_000 });
await page.getByTestId('spectrum').locator('polygon[points*=" "]').waitFor({ timeout: 20_000 });
await picture('processing');
await page.goto('/setups/two-machines/takes/sounding');
await page.getByRole('button', { name: 'Try it in a simulated room' }).click();
await page.getByRole('heading', { name: '3. What your room does' }).waitFor({ timeout: 120_000 });
await page.getByRole('heading', { name: /^2\. Hand in/ }).evaluate((heading) => heading.scrollIntoView());
await picture('sounding');
await page.goto('/setups/regatta-made-right/reach');
await page.getByRole('button', { name: 'Change to the dusk theme' }).click();
await picture('reach-dusk');

await browser.close();
server.kill();
rmSync(dataDir, { recursive: true, force: true });
