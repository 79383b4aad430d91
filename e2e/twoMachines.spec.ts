import { expect, type Page, test } from '@playwright/test';
import { northfen } from './measure.ts';

test.setTimeout(300_000);

async function open(page: Page, from: string, station: string): Promise<void> {
  const answer = await page.request.post('/api/setups', { data: { from } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/setups/${id}/${station}`);
}

/** Presses Tab until what has the focus fits; answers with its text. */
async function tabTo(page: Page, fits: string): Promise<string> {
  for (let step = 0; step < 60; step++) {
    await page.keyboard.press('Tab');
    const text = await page.evaluate((selector) => {
      const at = document.activeElement;
      return at?.matches(selector) ? (at.textContent ?? '') : null;
    }, fits);
    if (text !== null) return text;
  }
  throw new Error(`no ${fits} within 60 steps`);
}

test('from the faults of two machines to none with the keyboard alone, and the take proves it', async ({
  page,
}, info) => {
  await open(page, 'two-machines', 'reach');
  const count = page.getByTestId('findings-count');
  await expect(count).toHaveText('8 causes, 4 to stop');
  const cells = page.getByRole('gridcell', { name: /^Lock & Paddle at Live:/ });
  await expect(cells).toHaveAttribute('data-verdict', 'twice');

  await expect(page.getByText('of 22 findings')).toBeVisible();
  await expect(page.locator('[data-finding]')).toHaveCount(8);
  await page.keyboard.press('g');
  await expect(page.locator('[data-finding] > button:focus')).toHaveCount(1);
  for (let step = 0; step < 12 && (await count.textContent()) !== 'nothing is wrong'; step++) {
    const before = await count.textContent();
    await expect(page.locator('[data-finding] > button[aria-expanded=true]')).toHaveCount(1);
    expect(await tabTo(page, '[data-finding] li button')).toMatch(/^(Apply|Done)$/);
    await page.keyboard.press('Enter');
    await expect(count).not.toHaveText(before ?? '');
    await expect(count).toHaveAttribute('data-current', 'true');
    await expect(
      page.locator(
        '[data-finding] > button[aria-expanded=true]:focus, [data-testid=findings-count]:text("nothing is wrong")',
      ),
    ).toHaveCount(1);
  }
  await expect(count).toHaveText('nothing is wrong');

  await page.getByRole('button', { name: 'Render', exact: true }).press('Enter');
  await expect(page.getByRole('progressbar', { name: 'Render', exact: true })).toBeVisible();
  await expect(page.getByTestId('running-render')).toHaveCount(0, { timeout: 200_000 });
  await expect(page.getByText('Proven:')).toBeVisible();
  const started = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download the take' }).click();
  const take = await (await started).path();
  const media = (await (await page.request.get('/api/media')).json()) as { id: string; name: string }[];
  const id = media.find((one) => one.name.startsWith('Lock & Paddle'))?.id;
  const { writeFile } = await import('node:fs/promises');
  const game = info.outputPath('game.flac');
  await writeFile(game, await (await page.request.get(`/api/media/${id}/file`)).body());
  const found = await northfen<{ present: boolean; levelDb: number; offsetMs: number }>(
    ...['presence', '--reference', game, '--in', take, '--track', '5'],
  );
  expect(found.present).toBe(true);
  expect(Math.abs(found.levelDb)).toBeLessThan(1);
  expect(Math.abs(found.offsetMs - 42)).toBeLessThan(1);
});

test('the wiring is worked as lists: names, mixes, a device in use, a mix-minus', async ({ page }) => {
  await open(page, 'two-machines', 'wiring');
  await page.getByLabel('Name of the device Spare cable').fill('Page cable');
  await page.getByLabel('Name of the device Spare cable').press('Enter');
  await expect(page.locator('[data-device="loft.cable"]')).toContainText('nobody hears it');

  await page.getByRole('button', { name: 'Remove the device Page cable' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Quillpage plays into it');
  await dialog.getByLabel('Device that takes over').selectOption('loft.main');
  await dialog.getByRole('button', { name: 'Move and remove' }).click();
  await expect(page.locator('[data-device="loft.cable"]')).toHaveCount(0);
  await expect(page.locator('[data-device="loft.main"]')).toContainText('Quillpage');

  await page.getByRole('button', { name: 'Make it a mix-minus' }).click();
  await expect(page.getByLabel('Mute Call in Mix for the friends')).toBeChecked();
  await page.keyboard.press('Control+z');
  await expect(page.getByLabel('Mute Call in Mix for the friends')).not.toBeChecked();

  const listening = page.getByRole('button', { name: 'Listen in on Feed to Loft' });
  await listening.click();
  await expect(listening).toHaveAttribute('aria-pressed', 'true');
  await listening.click();
  await expect(listening).toHaveAttribute('aria-pressed', 'false');

  await page.getByLabel('Records is played back').selectOption('heard');
  await expect(page.getByLabel('Device that the recorder plays back on')).toHaveValue('loft.main');
  await page.getByLabel('Mute Bellbuoy').check();
  await page.getByRole('link', { name: /Reach$/ }).click();
  await expect(page.getByRole('gridcell', { name: /^Reedbox at Live: dry/ })).toBeVisible();
  await expect(page.getByRole('gridcell', { name: /^Bellbuoy at Live: dry/ })).toBeVisible();
  await page.goBack();

  await page.getByRole('button', { name: 'Remove Loft', exact: true }).click();
  await expect(page.getByRole('alert').first()).toContainText('Loft still holds');
  await page.getByRole('button', { name: 'Virtual device' }).first().click();
  await expect(page.getByLabel('Name of the device Virtual device 6')).toBeVisible();
});

test('fused rows are bracketed, move together, and can be separated', async ({ page }) => {
  await open(page, 'two-machines', 'reach');
  const bosun = page.getByRole('gridcell', { name: /^Bosun at Live:/ });
  await bosun.focus();
  await page.keyboard.press('-');
  await expect(bosun).toHaveAccessibleName('Bosun at Live: −2.0 dB');
  await expect(page.getByRole('gridcell', { name: /^Wick at Live:/ })).toHaveAccessibleName(
    'Wick at Live: −2.0 dB',
  );
  await expect(page.getByLabel('The chosen cell')).toContainText('fused with Wick');
  await page.getByLabel('Scene', { exact: true }).selectOption('break');
  await expect(page.getByRole('gridcell', { name: /^Narrator at Live:/ })).toHaveAttribute(
    'data-verdict',
    'dry',
  );
});

test('drills show what would be lost and gained, and change nothing', async ({ page }) => {
  await open(page, 'two-machines-made-right', 'reach');
  await page.getByRole('link', { name: 'Drills' }).click();
  await page.getByRole('button', { name: /^Reedbox restarts/ }).click();
  const detail = page.getByRole('region', { name: /^Reedbox restarts/ });
  await expect(detail.getByRole('table', { name: 'What would change' })).toContainText('Live');
  await expect(detail).toContainText('lost');
  await page.getByRole('button', { name: /^Loft’s “Capture” is unplugged/ }).click();
  await expect(page.getByRole('region', { name: /Capture/ })).toContainText(
    'You want Lock & Paddle at Live, and it does not arrive: it gets no further than Boathouse · HDMI to the capture.',
  );
  await page.getByRole('button', { name: 'Run all drills' }).click();
  const all = page.getByRole('table', { name: 'All drills' });
  const capture = all.getByRole('row', { name: /Capture” is unplugged/ });
  await expect(capture.getByTitle('Live: 1 lost')).toHaveText('−1');
  await expect(capture).toContainText('stop');
  await capture.getByRole('button').click();
  await expect(page.getByRole('region', { name: /Capture/ })).toContainText('lost');
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
});

test('the set-up sheet is ticked, and a change asks for just what it touches again', async ({ page }) => {
  await open(page, 'two-machines-made-right', 'wiring/steps');
  const step = page.locator('[data-step="apps:reedbox"]');
  await step.getByRole('checkbox').check();
  await expect(step).toHaveAttribute('data-state', 'done');
  await page.getByRole('link', { name: 'Sources' }).click();
  await page.getByLabel('Reedbox plays into').selectOption('loft.cable');
  await page.goBack();
  await expect(step).toHaveAttribute('data-state', 'again');
  const started = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Markdown' }).click();
  const { readFile } = await import('node:fs/promises');
  const text = await readFile(await (await started).path(), 'utf8');
  expect(text).toContain('- [ ] In Reedbox on Loft, choose “Spare cable” as the output');
  expect(text).toContain('_(again: it changed)_');
});

test('a setup is made from nothing, and has no finding', async ({ page }) => {
  await page.goto('/plan');
  await page.getByLabel('Name of source 1').fill('Narrator');
  await page.getByLabel('Two', { exact: true }).check();
  await page.getByLabel('Machine of Music').selectOption('streaming');
  await page.getByLabel('Tracks of the recorder').fill('5');
  await expect(page.getByLabel('Reasons')).toContainText('share the last track');
  await page.getByRole('button', { name: 'Make this setup' }).click();
  await expect(page).toHaveURL(/\/reach$/);
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
  await expect(page.getByRole('gridcell', { name: /^Music at VOD: closed/ })).toBeVisible();
});

test('a new app arrives in the tray and is placed; a changed output is told', async ({ page }) => {
  // The server is slow: what was changed meanwhile must not be taken back by an older answer.
  await page.route('**/api/setups/*/room', async (route) => {
    if (route.request().method() === 'PUT') await new Promise((done) => setTimeout(done, 400));
    await route.continue();
  });
  await open(page, 'two-machines-made-right', 'sources');
  const tray = page.getByLabel('The room', { exact: true });
  await expect(tray).toContainText('everything is as this setup says');
  await page.getByRole('button', { name: 'The room (simulated)' }).click();
  const room = page.getByRole('dialog');
  await room.getByLabel('Name of another app').fill('Ropeway');
  await room.getByRole('button', { name: 'Start it' }).click();
  await room.getByLabel('Reedbox plays into, in the room').selectOption('loft.main');
  await room.getByLabel('Bellbuoy has sounded').uncheck();
  await page.keyboard.press('Escape');
  await expect(tray).toContainText('Reedbox plays into “Desktop”; the setup says “Records”.');
  await expect(page.locator('[data-source=bellbuoy]')).toContainText('expected, not heard yet');
  await page.getByLabel('Place Ropeway on').selectOption('boathouse');
  await expect(page.locator('[data-source=ropeway]')).toBeVisible();
  await expect(page.getByTestId('findings-count')).toContainText(/cause|finding/);
  await page.getByRole('button', { name: 'Put the room right' }).click();
  await expect(tray).toContainText('everything is as this setup says');
});
