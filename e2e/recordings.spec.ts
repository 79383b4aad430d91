import { writeFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { writeEvening } from './evening.ts';

test.setTimeout(180_000);

test('a recording of another program goes from “is there music in it?” to a verdict, and its places are heard', async ({
  page,
}, info) => {
  const path = info.outputPath('evening.mkv');
  writeEvening(path);
  await page.goto('/setups');
  await page.getByRole('link', { name: 'Recordings' }).click();
  await page.getByLabel('Recordings to check').setInputFiles(path);
  await page.getByRole('link', { name: 'evening.mkv', exact: true }).click();

  const tracks = page.getByRole('table', { name: 'Tracks' });
  await expect(tracks.getByRole('row')).toHaveCount(4, { timeout: 90_000 });
  await expect(tracks.getByRole('row', { name: /3 Music/ })).toContainText('music, as it seems (70 %)');
  await expect(page.getByRole('button', { name: 'track 1 goes to: upload' })).toHaveAttribute(
    'aria-pressed',
    'true',
  );
  await page.getByRole('button', { name: 'Check', exact: true }).click();

  const verdicts = page.getByRole('region', { name: 'Verdicts' });
  await expect(verdicts).toContainText('upload: not clean', { timeout: 90_000 });
  await expect(verdicts).toContainText('Found in track 1, and not allowed there: Music.');
  await expect(verdicts).toContainText('Not checked: live');
  const places = page.getByRole('list', { name: 'Places' }).getByRole('listitem');
  await expect(places).toHaveCount(1);
  const [from, to] = ((await places.textContent()) ?? '').match(/\d+:\d\d/g) ?? [];
  expect(['0:11', '0:12', '0:13']).toContain(from);
  expect(['0:29', '0:30', '0:31']).toContain(to);

  const heard = page.waitForResponse((response) => response.url().includes('/passage.wav?'));
  await page.getByRole('button', { name: 'Track 1', exact: true }).click();
  expect((await heard).status()).toBeLessThan(300);
  const alone = page.waitForResponse((response) => response.url().includes('reference=Music'));
  await page.getByRole('button', { name: 'Music alone' }).click();
  expect((await alone).status()).toBeLessThan(300);
  await expect(page.getByRole('button', { name: 'Music alone' })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toHaveCount(0);

  // Another question: the answer that stands is marked as old.
  await page.getByRole('button', { name: 'track 1 goes to: upload' }).click();
  await expect(verdicts).toContainText('You changed the question');
  await page.getByRole('link', { name: 'All recordings' }).click();
  const row = page.getByRole('row').filter({ hasText: 'evening.mkv' }).filter({ hasText: '3 tracks' });
  await expect(row).toContainText('not clean');
});

test('a file that is no recording is refused in words; the list is found in, sorted, and shown in part', async ({
  page,
}, info) => {
  const text = info.outputPath('notes.mkv');
  writeFileSync(text, 'this is a text');
  await page.goto('/recordings');
  await page.getByLabel('Recordings to check').setInputFiles(text);
  const row = page.getByRole('row').filter({ hasText: 'notes.mkv' });
  await expect(row).toContainText('failed', { timeout: 60_000 });
  await expect(row).toContainText('is not an audio file that Northfen can read');
  await expect(row.getByRole('button')).toHaveText('Try again');
  await page.getByRole('link', { name: 'notes.mkv', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText(
    'notes.mkv is not an audio file that Northfen can read',
  );
  await page.getByRole('alert').getByRole('link', { name: 'Repair it' }).click();
  await expect(page.getByRole('region', { name: 'Copy or repair' })).toBeVisible();
  await page.getByRole('link', { name: 'All recordings' }).click();

  await page.getByRole('combobox', { name: 'Show' }).selectOption('failed');
  await expect(row).toBeVisible();
  await page.getByRole('combobox', { name: 'Show' }).selectOption('clean');
  await expect(row).toHaveCount(0);
  await page.getByRole('combobox', { name: 'Show' }).selectOption('');
  await page.getByRole('searchbox', { name: 'Find a recording' }).fill('NOTES');
  await expect(page.getByRole('row')).toHaveCount(2);
  await page.getByRole('button', { name: 'Name' }).click();
  await expect(page.getByRole('columnheader', { name: /Name/ })).toHaveAttribute('aria-sort', 'ascending');

  await page.getByRole('link', { name: 'notes.mkv', exact: true }).click();
  await page.getByRole('button', { name: 'Remove notes.mkv' }).click();
  await page.getByRole('button', { name: 'Remove it' }).click();
  await expect(page.getByRole('heading', { name: 'Recordings' })).toBeVisible();
  await expect(row).toHaveCount(0);
});
