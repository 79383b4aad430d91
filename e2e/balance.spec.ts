import { writeFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { compileDestinations } from '../core/engine/destinations.ts';
import { Renderer } from '../core/engine/renderer.ts';
import type { Setup } from '../core/setup/schema.ts';
import { independentLoudness, northfen } from './measure.ts';
import { levelAt, record, recordAudio, recordedSoFar, writeWav } from './recordAudio.ts';
import { readStem } from './stems.ts';

async function openBalance(page: Page, from = 'regatta-with-faults'): Promise<string> {
  const answer = await page.request.post('/api/setups', { data: { from } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/setups/${id}/balance`);
  await expect(page.getByRole('button', { name: 'Solve', exact: true })).toBeVisible({ timeout: 60_000 });
  return id;
}

const destination = (page: Page, name: string) =>
  page
    .getByRole('list', { name: 'Destinations' })
    .getByRole('button', { name: new RegExp(`^${name}[\\s−–]`) });

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
  await obstacles.getByRole('button', { name: 'Put a limiter on everything here, and solve again' }).click();
  await expect(page.getByTestId('figures')).toContainText('→ −16.0 LUFS');
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

test('every loudness that is shown agrees with another meter, measured in a render for each destination', async ({
  page,
}) => {
  test.setTimeout(180_000);
  const id = await openBalance(page);
  const { setup } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { setup: Setup };
  const { schedule, destinations } = compileDestinations(setup);
  const frames = 90 * 48_000;
  const stems = await Promise.all(
    setup.sources.map(({ media }) => readStem(page, media?.path ?? '', frames)),
  );
  const renderer = new Renderer(schedule, frames);
  renderer.render(stems, frames);
  for (const { name, parts } of destinations) {
    const [left, right] = renderer.outputs[parts[0].output];
    const path = test.info().outputPath(`${name}.wav`);
    await writeWav(path, { left, right }, schedule.outputs[parts[0].output].layout);
    const lufs = await independentLoudness(path, 0);
    expect(Math.abs((await loudnessAt(page, name)) - lufs), name).toBeLessThan(0.2);
  }
});

test('a place on the chart is heard with one click, as the right destination hears it', async ({ page }) => {
  await openBalance(page);
  const chart = page.getByRole('figure', { name: 'Voices and bed over time' });
  const box = await chart.boundingBox();
  if (!box) throw new Error('the chart is there');
  await page.mouse.move(box.x + box.width * 0.55, box.y + 90);
  await page.mouse.click(box.x + box.width * 0.55, box.y + 90);
  await expect(page.getByRole('button', { name: 'Stop listening' })).toBeVisible({ timeout: 60_000 });
  await expect(page.getByLabel('Hear it as')).toHaveValue('live');
  await expect(page.getByTestId('heard-at')).toHaveText(/0:4\d/);
  await destination(page, 'VOD').click();
  await expect(page.getByLabel('Hear it as')).toHaveValue('vod');
  await page.getByRole('link', { name: /Rehearse$/ }).click();
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  await expect(page.getByRole('button', { name: /VOD/, pressed: true })).toBeVisible();
});

test.describe('what the audio thread plays', () => {
  test.use({ bypassCSP: true });

  test('from a loud game, a drowned voice and a humming microphone to every figure in its bracket, heard at each step', async ({
    page,
  }) => {
    test.setTimeout(480_000);
    await recordAudio(page);
    const answer = await page.request.post('/api/setups', { data: { from: 'regatta-with-faults' } });
    const { id } = (await answer.json()) as { id: string };
    await page.goto(`/setups/${id}/reach`);
    const section = page.getByRole('region', { name: 'In the sound' });
    const found = (code: string, text: string) =>
      section.locator(`[data-heard="${code}"]`).filter({ hasText: text });
    const count = (code: string) => section.locator(`[data-heard="${code}"]`).count();
    const apply = (label: string) =>
      section.locator('div').filter({ hasText: label }).getByRole('button', { name: 'Apply' }).click();
    await expect(found('buried', 'At Live')).toBeVisible({ timeout: 90_000 });
    await expect(found('off-target', 'Live comes to')).toContainText('than its target of −16.0');

    // The microphone hums: heard, cut out, and heard to be gone, without a stop.
    await expect(found('hum', 'Narrator hums: 50 Hz')).toBeVisible({ timeout: 60_000 });
    await found('hum', 'Narrator hums').getByRole('button', { name: 'hear it' }).click();
    await expect(page.getByRole('button', { name: 'Stop listening' })).toBeVisible({ timeout: 60_000 });
    await expect(page.getByLabel('Hear it as')).toHaveValue('voice');
    await expect(page.getByTestId('heard-at')).toContainText(/0:0[1-9]/);
    const humming = levelAt(50, await record(page, 3));
    await apply('Cut the hum out of Narrator');
    await expect(found('hum', 'Narrator hums')).toHaveCount(0);
    await page.waitForTimeout(1000);
    expect(levelAt(50, await record(page, 3))).toBeLessThan(humming - 20);
    await expect(section).toContainText('Peaks are measured in a render once nothing plays.');
    await apply('Cut the hum out of Minnow');
    await expect.poll(() => count('hum'), { timeout: 60_000 }).toBe(0);

    // The game is too loud, and the record drowns the voice: heard, balanced, and ducked where that is not enough.
    await found('buried', 'At Live').getByRole('button', { name: 'hear it' }).click();
    await expect(page.getByLabel('Hear it as')).toHaveValue('live');
    await apply('Balance Live, VOD');
    await expect.poll(() => count('off-target'), { timeout: 90_000 }).toBe(0);
    await expect.poll(() => count('buried'), { timeout: 90_000 }).toBeGreaterThan(0);
    await apply('by 9 dB under the voices, at Live');
    await expect(section).toContainText(
      'Nobody is buried, nothing hums or clips, and every audience gets its loudness.',
      { timeout: 90_000 },
    );
    await page.getByRole('button', { name: 'Stop listening' }).click();
    await expect(section).toContainText('Measuring a render of it', { timeout: 30_000 });
    await expect(section).not.toContainText('Measuring a render of it', { timeout: 90_000 });
    await expect(section.locator('[data-heard]')).toHaveCount(0);
    await expect(page.getByTestId('heard-count')).toHaveCount(0);

    // The proof: what the audio thread plays, from beginning to end, is in its bracket, and as loud as the page says.
    await page.goto(`/setups/${id}/rehearse`);
    await page.getByRole('button', { name: 'Play' }).click({ timeout: 60_000 });
    await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible({ timeout: 60_000 });
    await expect(page.getByRole('button', { name: 'Play' })).toBeVisible({ timeout: 120_000 });
    const path = test.info().outputPath('live.wav');
    const heard = await recordedSoFar(page);
    await writeWav(path, heard);
    const lufs = await independentLoudness(path, 0);
    expect(Math.abs(lufs + 16)).toBeLessThan(0.5);
    const { tracks } = await northfen<{ tracks: { truePeakDbtp: number }[] }>('loudness', path);
    expect(tracks[0].truePeakDbtp).toBeLessThanOrEqual(-1);
    await page.getByRole('link', { name: /Balance$/ }).click();
    await expect(destination(page, 'Live')).toContainText('LUFS', { timeout: 60_000 });
    expect(Math.abs((await loudnessAt(page, 'Live')) - lufs)).toBeLessThan(0.2);
    await expect(destination(page, 'Live')).not.toContainText(/off target|buried/);

    await page.getByRole('link', { name: /Reach$/ }).click();
    await page.keyboard.press('Control+z');
    await expect(section.locator('[data-heard="buried"]').first()).toBeVisible({ timeout: 30_000 });
  });
});
