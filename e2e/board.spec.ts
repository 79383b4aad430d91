import { expect, type Page, test } from '@playwright/test';
import { largeWithFaults } from '../bench/largeRoom.ts';
import { writeSetupFile } from '../core/setup/file.ts';

const cell = (page: Page, source: string, destination: string) =>
  page.getByRole('gridcell', { name: new RegExp(`^${source} at ${destination}:`) });

async function openBoard(page: Page, from = 'regatta-made-right'): Promise<void> {
  const answer = await page.request.post('/api/setups', { data: { from } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/setups/${id}/reach`);
}

test('the board is worked with the keyboard alone', async ({ page }) => {
  await openBoard(page);
  await cell(page, 'Narrator', 'Own headphones').focus();
  await page.keyboard.press('ArrowDown');
  await expect(cell(page, 'Lock & Paddle', 'Own headphones')).toBeFocused();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  const live = cell(page, 'Lock & Paddle', 'Live');
  await expect(live).toBeFocused();
  await page.keyboard.press('+');
  await expect(live).toHaveAccessibleName('Lock & Paddle at Live: −10.5 dB');
  await page.keyboard.press('-');
  await page.keyboard.press('-');
  await expect(live).toHaveAccessibleName('Lock & Paddle at Live: −12.5 dB');
  await page.keyboard.press('Space');
  await expect(live).toHaveAccessibleName('Lock & Paddle at Live: closed');
  await page.keyboard.press('Space');
  await expect(live).toHaveAccessibleName('Lock & Paddle at Live: −12.5 dB');
  await page.waitForTimeout(1100);
  await page.keyboard.type('4.5');
  await page.keyboard.press('Enter');
  await expect(live).toHaveAccessibleName('Lock & Paddle at Live: +4.5 dB');
  await page.keyboard.type('-7');
  await page.keyboard.press('Enter');
  await expect(live).toHaveAccessibleName('Lock & Paddle at Live: −7.0 dB');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(live).toHaveAccessibleName('Lock & Paddle at Live: +4.5 dB');
  await page.keyboard.press('Home');
  await expect(cell(page, 'Lock & Paddle', 'Own headphones')).toBeFocused();
});

test('keys that come faster than the board is drawn all count', async ({ page }) => {
  await openBoard(page);
  const live = cell(page, 'Lock & Paddle', 'Live');
  await live.focus();
  await live.evaluate((element) => {
    for (const key of ['-', '-', '-', '-', '+', '-'])
      element.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
  });
  await expect(live).toHaveAccessibleName('Lock & Paddle at Live: −15.5 dB');
  await page.keyboard.press('Control+z');
  await expect(live).toHaveAccessibleName('Lock & Paddle at Live: −14.5 dB');
});

test('a level that no send can reach is refused in words', async ({ page }) => {
  await openBoard(page);
  await cell(page, 'Lock & Paddle', 'Live').focus();
  await page.keyboard.type('99');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('a send goes from -96 to +24 dB');
  await expect(cell(page, 'Lock & Paddle', 'Live')).toHaveAccessibleName('Lock & Paddle at Live: −11.5 dB');
});

test('two windows on one setup see each other’s edits', async ({ page, context }) => {
  await openBoard(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await cell(other, 'Wick', 'Live').focus();
  await other.keyboard.press('Space');
  await expect(cell(page, 'Wick', 'Live')).toHaveAttribute('data-verdict', 'closed');
  await cell(page, 'Wick', 'Live').dblclick();
  await expect(cell(other, 'Wick', 'Live')).toHaveAttribute('data-verdict', 'open');
});

test('edits are still seen when the window that listens for all is closed', async ({ page, context }) => {
  await openBoard(page);
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(cell(other, 'Wick', 'Live')).toHaveAttribute('data-verdict', 'open');
  await page.close();
  const setup = /setups\/([^/]+)/.exec(other.url())?.[1];
  const edit = { edit: 'setSend', pickup: 'wick.pickup', to: 'live-mix', gainDb: null };
  const answer = await other.request.post(`/api/setups/${setup}/edits`, { data: { revision: 1, edit } });
  expect(answer.ok()).toBe(true);
  await expect(cell(other, 'Wick', 'Live')).not.toHaveAttribute('data-verdict', 'open');
});

test('twelve sources by ten destinations stand on the screen without a scroll', async ({ page }) => {
  await openBoard(page);
  await page.getByRole('link', { name: /Sources$/ }).click();
  for (let i = 0; i < 3; i++) await page.getByRole('button', { name: 'Add source', exact: true }).click();
  await expect(page.locator('tr[data-source]')).toHaveCount(12);
  await page.getByRole('link', { name: /Reach$/ }).click();
  await expect(page.getByRole('gridcell')).toHaveCount(120);
  const box = await page.getByRole('grid').boundingBox();
  expect((box?.y ?? 0) + (box?.height ?? 999)).toBeLessThanOrEqual(800);
  const overflow = await page
    .getByRole('grid')
    .evaluate((grid) => (grid.parentElement?.scrollWidth ?? 0) - (grid.parentElement?.clientWidth ?? 0));
  expect(overflow).toBeLessThanOrEqual(0);
});

test('levels of linked destinations move together, and are taken back in one step', async ({ page }) => {
  await openBoard(page);
  const live = cell(page, 'Lock & Paddle', 'Live');
  const vod = cell(page, 'Lock & Paddle', 'VOD');
  await live.click();
  const before = [await live.textContent(), await vod.textContent()] as string[];
  await page.getByLabel('What the levels of Live move with').selectOption({ label: 'with VOD' });
  await live.click();
  await page.keyboard.press('-');
  await expect(live).not.toHaveText(before[0]);
  await expect(vod).not.toHaveText(before[1]);
  await page.keyboard.press('Control+z');
  await expect(live).toHaveText(before[0]);
  await expect(vod).toHaveText(before[1]);
});

test('a long board draws the rows that are seen, and says all of them', async ({ page }) => {
  const answer = await page.request.post('/api/setups/import', {
    headers: { 'Content-Type': 'text/plain' },
    data: writeSetupFile(largeWithFaults()),
  });
  await page.goto(`/setups/${(await answer.json()).id}/reach`);
  const first = page.locator('[data-place="0-0"]');
  const last = page.locator('[data-place="39-0"]');
  const waterOf = (source: string) => page.locator(`[data-row="${source}"] svg`);
  await expect(page.getByRole('gridcell')).toHaveCount(640);
  await expect(waterOf('s0')).not.toHaveCount(0);
  await expect(last).toHaveAccessibleName(/^Source 39 at /);
  await expect(waterOf('s39')).toHaveCount(0);
  await first.focus();
  await last.focus();
  await expect(waterOf('s39')).not.toHaveCount(0);
  await expect(waterOf('s0')).toHaveCount(0);
  // A row that comes back while the board is open is drawn like any other.
  await page.getByRole('link', { name: /Sources$/ }).click();
  await page.getByRole('button', { name: 'Remove Source 0', exact: true }).click();
  await page.getByRole('link', { name: /Reach$/ }).click();
  await expect(first).toHaveAccessibleName(/^Source 1 at /);
  await expect(waterOf('s1')).not.toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(first).toHaveAccessibleName(/^Source 0 at /);
  await expect(waterOf('s0')).not.toHaveCount(0);
});

test('tracks are added, changed, moved and removed, and each can be undone', async ({ page }) => {
  await openBoard(page, 'voice-over');
  await page.getByRole('button', { name: 'Add track', exact: true }).click();
  await page.getByRole('button', { name: 'Add the track', exact: true }).click();
  await expect(page.getByText('The name must not be empty')).toBeVisible();
  await page.getByLabel('Name', { exact: true }).fill('Spare "take" 🚤');
  await page.getByRole('button', { name: 'Add the track', exact: true }).click();
  await expect(page.getByRole('columnheader', { name: /Spare "take" 🚤/ })).toBeVisible();
  await page.getByRole('columnheader', { name: /Spare/ }).getByRole('button').click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('columnheader', { name: /Spare/ })).toHaveCount(0);
  await page.getByRole('button', { name: /^Undo: remove Spare/ }).click();
  await expect(page.getByRole('columnheader', { name: /Spare/ })).toBeVisible();
});

test('the dusk theme holds after a reload, at every station', async ({ page }) => {
  await openBoard(page);
  await page.getByRole('button', { name: 'Change to the dusk theme' }).click();
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dusk');
  for (const [station, heading] of [
    ['Sources', 'Who makes sound'],
    ['Balance', 'Balance'],
    ['Rehearse', 'Rehearse'],
    ['Takes', 'Takes'],
  ]) {
    await page.getByRole('link', { name: new RegExp(`${station}$`) }).click();
    await expect(page.getByRole('heading', { name: heading, level: 1 })).toBeVisible({ timeout: 60_000 });
    await expect(page.locator('html')).toHaveAttribute('data-theme', 'dusk');
  }
});
