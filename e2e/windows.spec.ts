import { expect, type Page, test } from '@playwright/test';

async function fresh(page: Page): Promise<string> {
  const { id } = await (
    await page.request.post('/api/setups', { data: { from: 'regatta-made-right' } })
  ).json();
  return `/setups/${id}`;
}

for (const [width, height] of [
  [1024, 700],
  [853, 533],
  [390, 844],
  [360, 640],
]) {
  test(`everything can be reached at ${width} by ${height}`, async ({ page }) => {
    await page.setViewportSize({ width, height });
    for (const screen of ['sources', 'wiring', 'reach', 'balance', 'rehearse', 'takes', 'reach/drills']) {
      await page.goto(`/setups/two-machines/${screen}`);
      await page.getByRole('heading', { level: 1 }).first().waitFor({ timeout: 60_000 });
      const past = await page.evaluate(() => {
        const box = document.querySelector('main')?.getBoundingClientRect();
        return Math.max(document.documentElement.scrollWidth, box?.right ?? 0) - innerWidth;
      });
      expect(past, `${screen} is wider than the window`).toBeLessThanOrEqual(0);
      await expect(page.getByRole('button', { name: 'Render' })).toBeInViewport({ ratio: 1 });
    }
  });
}

test('on a phone a remedy is applied in the sheet at the foot, and the heads of the board stay', async ({
  page,
}) => {
  await page.setViewportSize({ width: 390, height: 844 });
  const { id } = await (
    await page.request.post('/api/setups', { data: { from: 'regatta-with-faults' } })
  ).json();
  await page.goto(`/setups/${id}/reach`);
  const summary = page.getByRole('button', { name: /· 6 causes/ });
  await summary.click();
  await page.getByRole('button', { name: 'Apply' }).first().click();
  await expect(page.getByRole('button', { name: /· 5 causes/ })).toBeVisible();
  await page.getByRole('button', { name: /· 5 causes/ }).click();

  const frame = page.getByTestId('board-frame');
  await frame.evaluate((element) => element.scrollTo(300, 200));
  await expect(page.getByRole('rowheader', { name: /^Quillpage/ })).toBeInViewport();
  const head = await page.getByRole('columnheader', { name: /^Upload mix/ }).boundingBox();
  const box = await frame.boundingBox();
  expect(head && box && head.y - box.y).toBeLessThan(60);
});

test('edits while the server is away are kept over a reload, and sent when it is back', async ({
  page,
  context,
}) => {
  const path = await fresh(page);
  await page.goto(`${path}/sources`);
  const name = page.getByRole('textbox', { name: 'Name of the source' }).first();
  await name.waitFor();
  await context.route('**/api/setups/*/edits*', (route) => route.abort('connectionrefused'));
  await name.fill('Kept while away');
  await name.press('Enter');
  await expect(page.getByText('1 change not saved yet')).toBeVisible();
  await page.reload();
  await expect(page.getByRole('textbox', { name: 'Name of the source' }).first()).toHaveValue(
    'Kept while away',
  );
  await expect(page.getByText('1 change not saved yet')).toBeVisible();
  await context.unroute('**/api/setups/*/edits*');
  await page.getByText('1 change not saved yet').click();
  await expect(page.getByText('not saved yet')).toBeHidden();
  const stored = await (await page.request.get(`/api${path}`)).json();
  expect(stored.setup.sources[0].name).toBe('Kept while away');
});

test('two windows that both edit are told nothing wrong, and each takes back its own', async ({
  page,
  context,
}) => {
  const path = await fresh(page);
  const other = await context.newPage();
  await page.goto(`${path}/sources`);
  await other.goto(`${path}/sources`);
  const rename = async (window: Page, at: number, text: string) => {
    const field = window.getByRole('textbox', { name: 'Name of the source' }).nth(at);
    await field.fill(text);
    await field.press('Enter');
  };
  await Promise.all([rename(page, 0, 'By this window'), rename(other, 1, 'By the other')]);
  for (const window of [page, other]) {
    const names = window.getByRole('textbox', { name: 'Name of the source' });
    await expect(names.nth(0)).toHaveValue('By this window');
    await expect(names.nth(1)).toHaveValue('By the other');
    await expect(window.getByRole('alert')).toHaveCount(0);
  }
  await page.getByRole('button', { name: /^Undo: change By this window/ }).click();
  await expect(other.getByRole('textbox', { name: 'Name of the source' }).nth(0)).toHaveValue('Narrator');
  await expect(other.getByRole('textbox', { name: 'Name of the source' }).nth(1)).toHaveValue('By the other');
});

test('the focus stays where somebody works', async ({ page }) => {
  const path = await fresh(page);
  await page.goto(`${path}/sources`);
  const focused = () =>
    page.evaluate(
      () => document.activeElement?.getAttribute('aria-label') ?? document.activeElement?.tagName,
    );
  await page.getByRole('button', { name: 'Move Narrator down' }).click();
  await expect.poll(focused).toBe('Move Narrator down');
  await page.getByRole('button', { name: 'Remove Bosun' }).click();
  await expect.poll(focused).not.toBe('BODY');
  const field = page.getByRole('textbox', { name: 'Name of the source' }).first();
  await field.fill('Renamed');
  await field.press('Enter');
  await expect.poll(focused).toBe('Name of the source');
  await page.keyboard.press('Control+z');
  await expect(field).not.toHaveValue('Renamed');
  await page.goto(`${path}/reach`);
  await page.getByRole('button', { name: 'Recorder' }).click();
  await page.keyboard.press('Escape');
  await expect.poll(() => page.evaluate(() => document.activeElement?.textContent)).toContain('Recorder');
});

test('a sheet owns its keys, and the board has keys to its findings and to all keys', async ({ page }) => {
  await page.goto('/setups/regatta-evening/reach');
  await page.getByRole('gridcell').first().focus();
  await page.keyboard.press('g');
  await expect(page.locator('[data-finding] button[aria-expanded=true]')).toBeFocused();
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys and words' })).toBeVisible();
  const before = await (await page.request.get('/api/setups/regatta-evening')).json();
  for (const key of ['p', 'Control+z', 'g', '+', ']']) await page.keyboard.press(key);
  await expect(page.getByRole('dialog', { name: 'Keys and words' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Stop listening' })).toHaveCount(0);
  const after = await (await page.request.get('/api/setups/regatta-evening')).json();
  expect(after.revision).toBe(before.revision);
});

test('setups are renamed, copied and deleted on their page, and the last one opens', async ({ page }) => {
  const path = await fresh(page);
  await page.goto(`${path}/reach`);
  await page.getByRole('grid').waitFor();
  await page.goto('/');
  await expect(page).toHaveURL(new RegExp(`${path}/reach`));
  await page.goto('/setups');
  await expect(page).toHaveTitle('Setups – Northfen');
  const row = page.locator(`[data-setup="${path.split('/')[2]}"]`);
  await row.getByRole('textbox').fill('Friday run');
  await row.getByRole('textbox').press('Enter');
  await row.getByRole('button', { name: 'Copy Friday run' }).click();
  await page.getByRole('button', { name: 'Delete Friday run, copy', exact: true }).click();
  await page.getByRole('button', { name: 'Delete the setup' }).click();
  await expect(page.getByRole('button', { name: 'Delete Friday run, copy', exact: true })).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'Delete Friday run', exact: true })).toBeVisible();
});

test('who listens can be added, renamed and removed; tracks move by key; the history leads back', async ({
  page,
}) => {
  const path = await fresh(page);
  await page.goto(`${path}/reach`);
  await page.getByRole('button', { name: 'Add destination' }).click();
  await page.getByLabel('Who or what').selectOption('friends');
  await page.getByLabel('Name', { exact: true }).fill('Second crew');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  const head = page.getByRole('columnheader', { name: /^Second crew/ });
  await head.getByRole('button').click();
  await page.getByLabel('Name', { exact: true }).fill('Night crew');
  await page.getByRole('button', { name: 'Save' }).click();
  await page
    .getByRole('columnheader', { name: /^Night crew/ })
    .getByRole('button')
    .click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('columnheader', { name: /^Night crew/ })).toHaveCount(0);

  await page
    .getByRole('columnheader', { name: /^Voice/ })
    .getByRole('button')
    .focus();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(page.getByRole('columnheader', { name: /^Voice track 5/ })).toBeVisible();

  await page.getByRole('button', { name: 'All setups' }).click();
  await page.getByRole('menuitem', { name: /^History/ }).click();
  await page.getByRole('button', { name: 'Back to here: add Second crew' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('columnheader', { name: /^Second crew/ })).toBeVisible();
  await expect(page.getByRole('columnheader', { name: /^Voice track 4/ })).toBeVisible();
});

test('the level and the verdict of a cell are said', async ({ page }) => {
  const path = await fresh(page);
  await page.goto(`${path}/reach`);
  const cell = page.getByRole('gridcell', { name: /^Reedbox at VOD/ });
  await cell.click();
  await page.keyboard.press(' ');
  await expect(
    page.getByRole('status').filter({ hasText: /Reedbox at VOD: .* leak, in dB: not cleared/ }),
  ).toHaveCount(1);
  await expect(page.getByRole('region', { name: 'The chosen cell' })).toContainText(
    'Reedbox stays in the VOD at full level (0.0 dB), and is not cleared for the VOD.',
  );
});

test('a new friend does not go into the upload, and the end of a clearance is told', async ({ page }) => {
  const path = await fresh(page);
  await page.goto(`${path}/sources`);
  await page.getByRole('button', { name: 'Add source' }).click();
  const row = page.locator('tr[data-source]').last();
  await row.getByLabel(/^Kind of/).selectOption('voice chat');
  await expect(row.getByLabel(/^Clearance of/).first()).toHaveValue('liveAndVod');
  await row.getByRole('button', { name: /in detail/ }).click();
  const day = new Date(Date.now() + 5 * 86_400_000).toISOString().slice(0, 10);
  await page.getByLabel('Holds until').fill(day);
  await page.keyboard.press('Escape');
  await expect(row.getByText(/^until .*[45] days left/)).toBeVisible();
});

test('recordings that are dropped go to the sources that they are named after, once somebody says so', async ({
  page,
}) => {
  const path = await fresh(page);
  await page.goto(`${path}/sources`);
  await page.getByRole('button', { name: 'Add source' }).waitFor();
  await page.evaluate(() => {
    const wav = () => {
      const frames = 24_000;
      const view = new DataView(new ArrayBuffer(44 + 2 * frames));
      const text = (at: number, word: string) => {
        for (const [i, one] of [...word].entries()) view.setUint8(at + i, one.charCodeAt(0));
      };
      text(0, 'RIFF');
      view.setUint32(4, 36 + 2 * frames, true);
      text(8, 'WAVEfmt ');
      for (const [at, value] of [
        [16, 16],
        [24, 48_000],
        [28, 96_000],
      ])
        view.setUint32(at, value, true);
      for (const [at, value] of [
        [20, 1],
        [22, 1],
        [32, 2],
        [34, 16],
      ])
        view.setUint16(at, value, true);
      text(36, 'data');
      view.setUint32(40, 2 * frames, true);
      for (let i = 0; i < frames; i++) view.setInt16(44 + 2 * i, 8000 * Math.sin(i / 20), true);
      return view.buffer;
    };
    const dataTransfer = new DataTransfer();
    for (const name of ['evening_bosun.wav', 'Reedbox set.wav', 'holiday.wav'])
      dataTransfer.items.add(new File([wav()], name, { type: 'audio/wav' }));
    window.dispatchEvent(new DragEvent('drop', { dataTransfer, bubbles: true, cancelable: true }));
  });
  const sheet = page.getByRole('dialog', { name: '3 recordings were dropped' });
  await expect(sheet.getByLabel('Source of evening_bosun.wav')).toHaveValue('bosun');
  await expect(sheet.getByLabel('Source of Reedbox set.wav')).toHaveValue('reedbox');
  await expect(sheet.getByLabel('Source of holiday.wav')).toHaveValue('');
  await sheet.getByLabel('Source of Reedbox set.wav').selectOption('quillpage');
  await sheet.getByRole('button', { name: 'Upload 2 recordings' }).click();
  await expect(sheet.getByText('there', { exact: true })).toHaveCount(2);
  await sheet.getByRole('button', { name: 'Close' }).last().click();
  const chosen = (name: string) => page.getByLabel(`Recording of ${name}`).locator('option:checked');
  await expect(chosen('Bosun')).toHaveText('evening_bosun.wav');
  await expect(chosen('Quillpage')).toHaveText('Reedbox set.wav');
  await expect(chosen('Reedbox')).toHaveText('Reedbox record (demo)');
});
