import { writeFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import type { Setup } from '../core/setup/schema.ts';
import { independentLoudness } from './measure.ts';

async function openBalance(page: Page, from = 'regatta-with-faults'): Promise<string> {
  const answer = await page.request.post('/api/setups', { data: { from } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/setups/${id}/balance`);
  await expect(page.getByRole('button', { name: 'Solve', exact: true })).toBeVisible({ timeout: 60_000 });
  return id;
}

const destination = (page: Page, name: string) =>
  page.getByRole('list', { name: 'Destinations' }).getByRole('button', { name });

/** The first figure in LUFS beside a destination's name. */
async function loudnessAt(page: Page, name: string): Promise<number> {
  const text = ((await destination(page, name).textContent()) ?? '').replaceAll('−', '-');
  return Number(/(-?\d+\.\d) LUFS/.exec(text)?.[1]);
}

test('from too quiet and buried to every figure inside its bracket, peaks held, as another meter agrees', async ({
  page,
}) => {
  test.setTimeout(300_000);
  const id = await openBalance(page);
  await expect(destination(page, 'Live')).toContainText('off target');
  await destination(page, 'Live').click();
  await page.getByRole('button', { name: 'Solve', exact: true }).click();
  await expect(page.getByTestId('figures')).toContainText('→ −16.0 LUFS');
  const obstacles = page.getByRole('list', { name: 'What stood in the way' });
  await expect(obstacles).toContainText('The true peak would be above −1.0 dBTP', { timeout: 120_000 });
  await obstacles.getByRole('button', { name: 'Put a limiter on everything here' }).click();
  await expect(obstacles).toHaveCount(0);
  await page.getByRole('button', { name: 'Solve all' }).click();
  await expect(page.getByText('A render of these levels shows them, within 0.5 LU')).toBeVisible({
    timeout: 180_000,
  });
  await page.getByRole('button', { name: /^Apply to/ }).click();
  await expect(page.getByTestId('measured')).toBeVisible({ timeout: 90_000 });
  await destination(page, 'Live').click();
  const shown = ((await page.getByTestId('measured').textContent()) ?? '').replaceAll('−', '-');
  const [, peak, lufs] = /(-?\d+\.\d) dBTP.*and (-?\d+\.\d) LUFS/.exec(shown) ?? [];
  expect(Math.abs(Number(lufs) + 16)).toBeLessThanOrEqual(0.5);
  expect(Number(peak)).toBeLessThanOrEqual(-1);
  await expect(destination(page, 'Live')).not.toContainText('off target');

  await destination(page, 'VOD').click();
  const atVod = ((await page.getByTestId('measured').textContent()) ?? '').replaceAll('−', '-');
  const vodLufs = Number(/and (-?\d+\.\d) LUFS/.exec(atVod)?.[1]);

  const { setup } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { setup: Setup };
  expect(setup.tracks[0].processing?.map(({ does }) => does)).toEqual(['limiter']);
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await page.getByRole('table', { name: 'Tracks' }).waitFor({ timeout: 180_000 });
  const takes = (await (await page.request.get(`/api/takes?setup=${id}`)).json()) as { id: string }[];
  for (const [track, said] of [
    [1, Number(lufs)],
    [2, vodLufs],
  ]) {
    const file = await page.request.get(`/api/takes/${takes[0].id}/tracks/${track}.wav?download=1`);
    const path = test.info().outputPath(`track${track}.wav`);
    writeFileSync(path, await file.body());
    expect(Math.abs((await independentLoudness(path, 0)) - said)).toBeLessThan(0.2);
  }

  await page.goto(`/setups/${id}/balance`);
  await expect(destination(page, 'Live')).toContainText('LUFS', { timeout: 60_000 });
  await page.getByRole('button', { name: /^Undo: balance/ }).click();
  await expect(destination(page, 'Live')).toContainText('off target');
});

test('a level that is moved by hand moves every figure at once; a wish and an aim are kept', async ({
  page,
}) => {
  const id = await openBalance(page, 'regatta-made-right');
  await destination(page, 'Live').click();
  const before = await loudnessAt(page, 'Live');
  const game = page.getByLabel('Lock & Paddle at Live');
  await game.fill('6');
  await game.press('Enter');
  await expect.poll(() => loudnessAt(page, 'Live')).toBeGreaterThan(before + 1);
  await expect(destination(page, 'Live')).toContainText('buried');
  await page.getByLabel('Wish for Reedbox').selectOption('less');
  await page.getByLabel('Bed under the voices').fill('14');
  await page.getByLabel('Bed under the voices').press('Enter');
  await page.getByLabel('Target').fill('12');
  await page.getByLabel('Target').press('Enter');
  await expect(page.getByRole('alert')).toContainText('a figure from −60 to 0');
  await page.getByLabel('Target').fill('-20');
  await page.getByLabel('Target').press('Enter');
  await expect(page.getByTestId('figures')).toContainText('aim −20.0 LUFS');
  await page.reload();
  await expect(page.getByLabel('Wish for Reedbox')).toHaveValue('less', { timeout: 60_000 });
  await page.getByRole('button', { name: 'Solve', exact: true }).click();
  await expect(page.getByTestId('figures')).toContainText(/→ 1[34]\.\d LU/);
  const { setup } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { setup: Setup };
  expect(setup.balance).toContainEqual({
    destination: 'live',
    wishes: { reedbox: 'less' },
    bedLu: 14,
    targetLufs: -20,
  });
});

test('a check in a render is cancelled, and what was solved without it stays', async ({ page }) => {
  await openBalance(page);
  await page.getByRole('button', { name: 'Solve', exact: true }).click();
  await page.getByRole('button', { name: 'Cancel the check' }).click();
  await expect(page.getByText('Checking the new levels')).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Apply', exact: true })).toBeVisible();
  await expect(page.getByTestId('figures')).toContainText('→');
});

test('a place on the chart is heard with one click, with the right ears', async ({ page }) => {
  await openBalance(page);
  const chart = page.getByRole('figure', { name: 'Voices and bed over time' });
  const box = await chart.boundingBox();
  if (!box) throw new Error('the chart is there');
  await page.mouse.move(box.x + box.width * 0.55, box.y + 90);
  await page.mouse.click(box.x + box.width * 0.55, box.y + 90);
  await expect(page).toHaveURL(/rehearse\?at=\d+\.\d&ear=live/);
  await expect(page.getByRole('button', { name: /Live/, pressed: true })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByTestId('clock')).toHaveText(/0:4\d/);
});

test('Reach tells what is wrong in the sound itself, and its remedies mend it all, as a render shows', async ({
  page,
}) => {
  const answer = await page.request.post('/api/setups', { data: { from: 'regatta-with-faults' } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/setups/${id}/reach`);
  test.setTimeout(300_000);
  const section = page.getByRole('region', { name: 'In the sound' });
  await expect(section.locator('[data-heard="buried"]').first()).toBeVisible({ timeout: 90_000 });
  await expect(section.locator('[data-heard="off-target"]').first()).toContainText(
    'than its target of −16.0',
  );
  await expect(section.getByRole('link', { name: 'hear it' }).first()).toHaveAttribute(
    'href',
    /rehearse\?at=[\d.]+&ear=/,
  );
  await expect(section.locator('[data-heard="hum"]')).toContainText('Minnow hums: 50 Hz', {
    timeout: 60_000,
  });
  const count = (code: string) => section.locator(`[data-heard="${code}"]`).count();
  const apply = (label: string) =>
    section.locator('div').filter({ hasText: label }).getByRole('button', { name: 'Apply' }).click();
  await apply('Cut the hum out of Minnow');
  await expect
    .poll(async () => [await count('hum'), (await count('buried')) > 0], { timeout: 90_000 })
    .toEqual([0, true]);
  await apply('Balance Live, VOD');
  await expect
    .poll(async () => [await count('off-target'), (await count('buried')) > 0], { timeout: 90_000 })
    .toEqual([0, true]);
  await apply('by 9 dB under the voices, at Live');
  await expect(section).toContainText(
    'Nobody is buried, nothing hums or clips, and every audience gets its loudness.',
    { timeout: 90_000 },
  );
  await expect(section).toContainText('Measuring a render of it', { timeout: 30_000 });
  await expect(section).not.toContainText('Measuring a render of it', { timeout: 90_000 });
  await expect(section.locator('[data-heard]')).toHaveCount(0);
  await expect(page.getByTestId('heard-count')).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect(section.locator('[data-heard="buried"]').first()).toBeVisible({ timeout: 30_000 });
});
