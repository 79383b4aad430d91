import { expect, type Page, test } from '@playwright/test';
import { independentLoudness, northfen, trackNames } from './measure.ts';

test.setTimeout(300_000);

/** Makes an evening with its faults that no other test works on, and returns its address. */
async function ownEvening(page: Page): Promise<string> {
  const answer = await page.request.post('/api/setups', { data: { from: 'regatta-with-faults' } });
  return `/setups/${((await answer.json()) as { id: string }).id}`;
}

/** Applies the first remedy of the first finding until none is left. */
async function mendAll(page: Page): Promise<void> {
  for (let left = 6; left > 0; left--) {
    await expect(page.getByTestId('findings-count')).toContainText(`${left} cause`);
    const first = page.locator('[data-finding]').first();
    await expect(first).toBeVisible();
    if ((await first.getByRole('button', { name: 'Apply', exact: true }).count()) === 0)
      await first.getByRole('button').first().click();
    await first.getByRole('button', { name: 'Apply', exact: true }).first().click();
  }
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
}

const cell = (page: Page, source: string, destination: string) =>
  page.getByRole('gridcell', { name: new RegExp(`^${source} at ${destination}:`) });

async function render(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByRole('progressbar', { name: 'Render', exact: true })).toBeVisible();
  await expect(page.getByTestId('running-render')).toHaveCount(0, { timeout: 200_000 });
}

async function downloadTake(page: Page): Promise<string> {
  const started = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download the take' }).click();
  return (await started).path();
}

/** Whether a demo source is in a track of a downloaded take, measured again by the command line. */
async function isPresent(
  mediaId: string,
  file: string,
  track: number,
): Promise<{ present: boolean; levelDb: number | null }> {
  return northfen('presence', '--reference', mediaId, '--in', file, '--track', String(track));
}

async function saveMedia(page: Page, name: string, to: string): Promise<string> {
  const media = (await (await page.request.get('/api/media')).json()) as { id: string; name: string }[];
  const id = media.find((one) => one.name === name)?.id;
  const { writeFile } = await import('node:fs/promises');
  await writeFile(to, await (await page.request.get(`/api/media/${id}/file`)).body());
  return to;
}

test('opens on the board, where the faults of the evening are told', async ({ page }) => {
  await page.goto('/');
  await expect(page).toHaveURL(/\/reach$/);
  await page.goto('/setups/regatta-evening/reach');
  await expect(page.getByTestId('findings-count')).toHaveText('6 causes, 4 to stop');
  await expect(page.getByRole('complementary')).toContainText(
    'Reedbox stays in the VOD at −16.0 dB, and is not cleared for the VOD.',
  );
  await expect(page.getByRole('complementary')).toContainText(
    'Wick has no track of its own, so you cannot edit it by itself',
  );
  await expect(cell(page, 'Reedbox', 'VOD')).toHaveAttribute('data-verdict', 'leak');
  await expect(cell(page, 'Bellbuoy', 'VOD')).toHaveAttribute('data-verdict', 'dry');
  await expect(cell(page, 'Lock & Paddle', 'Friends in chat')).toHaveAttribute('data-verdict', 'stray');
  const pageScrolls = await page.evaluate(() => document.documentElement.scrollHeight > window.innerHeight);
  expect(pageScrolls).toBe(false);
  await page.getByText('Reedbox stays in the VOD').click();
  await expect(page.getByRole('table', { name: 'Route card' }).first()).toContainText('Track 2 · VOD mix');
});

test('a leak is heard in the take, remedied with the remedies, and gone from the next take', async ({
  page,
}, info) => {
  await page.goto(`${await ownEvening(page)}/reach`);
  const record = await saveMedia(page, 'Reedbox record (demo)', info.outputPath('reedbox.flac'));
  await render(page);
  await expect(page.getByText('Not safe to publish:')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Reedbox in VOD mix: leak −16\.[0-2]/ })).toBeVisible();
  const faulty = await downloadTake(page);
  const heard = await isPresent(record, faulty, 2);
  expect(heard.present).toBe(true);
  expect(heard.levelDb ?? 0).toBeCloseTo(-16, 0);

  await page.getByRole('link', { name: /Reach$/ }).click();
  await mendAll(page);

  await render(page);
  await expect(page.getByText('Proven:')).toBeVisible();
  await expect(page.getByRole('button', { name: /^Reedbox in VOD mix: absent/ })).toBeVisible();
  const clean = await downloadTake(page);
  expect(await trackNames(clean)).toEqual([
    'Live mix',
    'VOD mix',
    'Upload mix',
    'Voice',
    'Game',
    'Bosun',
    'Records',
    'Wick',
  ]);
  expect((await isPresent(record, clean, 2)).present).toBe(false);
  expect((await isPresent(record, clean, 1)).present).toBe(true);
  const { tracks } = await northfen<{ tracks: { name: string; integratedLufs: number }[] }>(
    'loudness',
    clean,
  );
  for (const [index, track] of tracks.entries()) {
    expect(Math.abs(track.integratedLufs - (await independentLoudness(clean, index)))).toBeLessThanOrEqual(
      0.2,
    );
  }
  const shown = (await page.locator('tr[data-track=live-mix] td').nth(3).textContent()) ?? '';
  expect(shown.replace('−', '-')).toBe(`${tracks[0].integratedLufs.toFixed(1)} LUFS`);
});

test('a track plays on its own, and is downloaded as WAV', async ({ page }, info) => {
  await page.goto(`${await ownEvening(page)}/reach`);
  await render(page);
  await page.getByRole('button', { name: 'Play track 4, Voice' }).click();
  await expect(page.getByRole('button', { name: 'Pause track 4, Voice' })).toBeVisible();
  await page.getByRole('button', { name: 'Play track 5, Game' }).click();
  await expect(page.getByRole('button', { name: 'Pause track 5, Game' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Play track 4, Voice' })).toBeVisible();
  const started = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download track 4, Voice, as WAV' }).click();
  const wav = info.outputPath('voice.wav');
  await (await started).saveAs(wav);
  const narrator = await saveMedia(page, 'Narrator (demo)', info.outputPath('narrator.flac'));
  const bosun = await saveMedia(page, 'Bosun (demo)', info.outputPath('bosun.flac'));
  const voice = await isPresent(narrator, wav, 1);
  expect(voice.present).toBe(true);
  expect(Math.abs(voice.levelDb ?? 9)).toBeLessThan(0.5);
  expect((await isPresent(bosun, wav, 1)).present).toBe(false);
});

test('undo and redo go through the whole evening, and survive a reload', async ({ page }) => {
  await page.goto(`${await ownEvening(page)}/reach`);
  await mendAll(page);
  await page.getByRole('button', { name: /^Undo:/ }).click();
  await expect(page.getByTestId('findings-count')).toHaveText(/1 cause/);
  await page.reload();
  await expect(page.getByRole('button', { name: /^Redo:/ })).toBeEnabled();
  await page.keyboard.press('Control+y');
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
  for (let step = 0; step < 6; step++) {
    const undo = page.getByRole('button', { name: /^Undo:/ });
    await undo.click();
    await page.waitForTimeout(150);
  }
  await expect(page.getByTestId('findings-count')).toHaveText('6 causes, 4 to stop');
});
