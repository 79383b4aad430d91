import { writeFile } from 'node:fs/promises';
import { expect, type Locator, type Page, test } from '@playwright/test';
import { northfen } from './measure.ts';

/** The sources of the evening, each with the recording that it rehearses with. */
const EVENING = [
  ['Narrator', 'Narrator (demo)'],
  ['Lock & Paddle', 'Lock & Paddle (demo)'],
  ['Bosun', 'Bosun (demo)'],
  ['Reedbox', 'Reedbox record (demo)'],
  ['Bellbuoy', 'Bellbuoy (demo)'],
];
const MOST_TABS = 90;

/** Goes to something with the Tab key. */
async function tabTo(page: Page, aim: Locator): Promise<void> {
  for (let tab = 0; tab < MOST_TABS; tab++) {
    if (await aim.evaluate((element) => element === document.activeElement)) return;
    await page.keyboard.press('Tab');
  }
  throw new Error(`Tab does not lead to ${aim}`);
}

/** What the command line says about a recording in a track of a take. */
function presence(reference: string, file: string, track: number) {
  return northfen<{ present: boolean; levelDb: number | null; offsetMs: number | null }>(
    ...['presence', '--reference', reference, '--in', file, '--track', String(track)],
  );
}

test('a room is entered from nothing by keyboard in under forty actions, rendered, and sounds as it was entered', async ({
  page,
}, info) => {
  test.setTimeout(300_000);
  let actions = 0;
  const type = async (aim: Locator, text: string) => {
    actions += 1;
    await tabTo(page, aim);
    await page.keyboard.press('Control+A');
    await page.keyboard.type(text);
  };
  const press = async (aim: Locator, key: string) => {
    actions += 1;
    await tabTo(page, aim);
    await page.keyboard.press(key);
  };
  await page.goto('/plan');
  await type(page.getByLabel('Name of the setup'), 'Played back');
  const rooms = page.getByRole('group', { name: 'Ready rooms' });
  await press(rooms.getByRole('radio').first(), 'ArrowDown');
  for (let room = 1; room < 4; room++) {
    actions += 1;
    await page.keyboard.press('ArrowDown');
  }
  await expect(page.getByLabel('About “The recorder plays the music back”')).toContainText(
    'late by the recorder’s delay',
  );
  for (const [index, [name]] of EVENING.entries())
    await type(page.getByLabel(`Name of source ${index + 1}`), name);
  await press(page.getByLabel('In the app itself'), 'ArrowRight');
  await expect(page.getByText('which gives each one its output')).toBeVisible();
  await press(page.getByLabel('The microphone', { exact: true }), 'ArrowRight');
  await expect(page.getByLabel('Reasons')).toContainText('a mix of your microphone and the game');
  await press(page.getByRole('button', { name: 'Make this setup' }), 'Enter');

  await expect(page).toHaveURL(/\/reach$/);
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
  await expect(page.getByRole('gridcell', { name: /^Lock & Paddle at Friends in chat: −12/ })).toBeVisible();
  await press(page.getByRole('link', { name: /Sources$/ }), 'Enter');
  for (const [name, recording] of EVENING) {
    const field = page.getByLabel(`Recording of ${name}`, { exact: true });
    await tabTo(page, field);
    actions += 1;
    await page.keyboard.type(recording);
    await expect(field.locator('option:checked')).toHaveText(recording);
  }
  await expect(page.getByLabel('What Computer gives to Reedbox')).toHaveValue('computer.reedbox');
  await press(page.getByRole('button', { name: 'Render', exact: true }), 'Enter');
  expect(actions).toBeLessThan(40);

  await expect(page.getByText('Proven:')).toBeVisible({ timeout: 200_000 });
  const started = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download the take' }).click();
  const take = await (await started).path();
  const media = (await (await page.request.get('/api/media')).json()) as { id: string; name: string }[];
  const save = async (name: string) => {
    const id = media.find((one) => one.name === name)?.id;
    const path = info.outputPath(`${id}.flac`);
    await writeFile(path, await (await page.request.get(`/api/media/${id}/file`)).body());
    return path;
  };
  const record = await save('Reedbox record (demo)');
  const game = await save('Lock & Paddle (demo)');
  // As the plan says: the record at −16 dB live and not in the VOD, the game at −10 dB in both.
  expect((await presence(record, take, 1)).levelDb ?? 0).toBeCloseTo(-16, 0);
  expect((await presence(record, take, 2)).present).toBe(false);
  expect((await presence(game, take, 1)).levelDb ?? 0).toBeCloseTo(-10, 0);
  expect((await presence(game, take, 2)).levelDb ?? 0).toBeCloseTo(-10, 0);
});

test('the questions are gone through again for a setup that there is, and nothing of it is lost', async ({
  page,
}) => {
  const answer = await page.request.post('/api/setups', { data: { from: 'two-machines-made-right' } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/setups/${id}/wiring`);
  await page.getByRole('link', { name: 'The questions again' }).click();
  await expect(page.getByRole('heading', { name: 'The questions again' })).toBeVisible();
  await expect(page.getByLabel('Name of source 1')).toHaveValue('Narrator');
  const machines = page.getByRole('group', { name: 'How many computers do you use?' });
  await expect(machines.getByLabel('Two')).toBeChecked();
  await machines.getByLabel('One').check();
  await page.getByRole('button', { name: 'Make this setup' }).click();
  await expect(page).toHaveURL(/\/reach$/);
  await expect(page).not.toHaveURL(new RegExp(id));
  await page.getByRole('link', { name: /Sources$/ }).click();
  await expect(page.getByLabel('Recording of Reedbox', { exact: true }).locator('option:checked')).toHaveText(
    'Reedbox record (demo)',
  );
  const kept = await (await page.request.get(`/api/setups/${id}`)).json();
  expect(kept.setup.machines.length).toBeGreaterThan(2);
});

test('Wiring finds as one types, follows a source by key, folds machines, and says who would notice', async ({
  page,
}) => {
  const answer = await page.request.post('/api/setups', { data: { from: 'two-machines-made-right' } });
  await page.goto(`/setups/${(await answer.json()).id}/wiring`);
  const device = (id: string) => page.locator(`[data-device="${id}"]`);
  await expect(device('loft.records')).toContainText('Live, Records');
  await expect(device('loft.main')).toContainText('nobody would notice');
  await page.keyboard.press('v');
  await expect(page.getByRole('status').filter({ hasText: 'Narrator arrives at' })).toBeVisible();
  await page.keyboard.press('v');
  await expect(page.getByText('Lock & Paddle arrives at Own headphones, Live, VOD')).toBeVisible();
  await expect(device('loft.capture')).toHaveAttribute('data-passes', 'true');
  await expect(device('loft.records')).toHaveAttribute('data-passes', 'false');
  await page.keyboard.press('Shift+V');
  await page.keyboard.press('Shift+V');
  await expect(page.getByText(/arrives at .*Its way is marked below/)).toHaveCount(0);
  await page.getByRole('button', { name: 'Fold Boathouse' }).press('Enter');
  await expect(page.getByText('5 devices, 2 mixes')).toBeVisible();
  await page.keyboard.press('f');
  await page.keyboard.type('reedbox');
  await expect(device('loft.records')).toBeVisible();
  await expect(page.locator('[data-device]')).toHaveCount(1);
  await expect(page.locator('[data-pickup]')).toHaveCount(1);
  await page.keyboard.press('Escape');
  await expect(page.getByText('5 devices, 2 mixes')).toBeVisible();
  await page.getByRole('button', { name: 'Fold all' }).click();
  await expect(page.locator('[data-device]')).toHaveCount(0);
});

test('the two settings of the chat stand side by side, and its voices move together', async ({ page }) => {
  const answer = await page.request.post('/api/setups', { data: { from: 'two-machines-made-right' } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/setups/${id}/wiring`);
  const output = page.getByLabel('What Towline plays into');
  await expect(output.locator('option:checked')).toHaveText('Call');
  await output.selectOption({ label: 'HDMI to the capture' });
  await expect(page.getByTestId('findings-count')).toContainText(/cause/);
  await page.keyboard.press('Control+z');
  await expect(output.locator('option:checked')).toHaveText('Call');
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
});

test('what an app names and what its computer gives it are both written down, and which counts is said', async ({
  page,
}) => {
  const answer = await page.request.post('/api/setups', { data: { from: 'two-machines-made-right' } });
  await page.goto(`/setups/${(await answer.json()).id}/sources`);
  const output = page.getByLabel('Lock & Paddle plays into', { exact: true });
  const given = page.getByLabel('What Boathouse gives to Lock & Paddle');
  await expect(given).toHaveCount(0);
  await output.selectOption('given');
  await expect(page.getByText('does not count: the app names its own')).toHaveCount(0);
  await given.selectOption({ label: 'Call' });
  await expect(page.getByText('does not count: the app names its own')).toBeVisible();
  // That is told, and stops nothing.
  await expect(page.getByTestId('findings-count')).toHaveText('1 cause');
  await output.selectOption('default');
  await expect(page.getByText('does not count: the app names its own')).toHaveCount(0);
  // Now it plays where the computer sends it: into the call, and no longer onto its own track.
  await page.getByRole('link', { name: /Reach$/ }).click();
  await expect(page.getByRole('gridcell', { name: /^Lock & Paddle at Game: dry/ })).toBeVisible();
});
