import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { writeEvening } from './evening.ts';

test.setTimeout(180_000);

test('a recording whose program crashed before it wrote the index is repaired by a whole one', async ({
  page,
}, info) => {
  const [evening, whole, crashed] = ['evening.mkv', 'trial.mp4', 'crashed.mp4'].map((name) =>
    info.outputPath(name),
  );
  writeEvening(evening, 15);
  const coded = ['-map', '0', '-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac'];
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', evening, ...coded, whole]);
  const bytes = readFileSync(whole);
  writeFileSync(crashed, bytes.subarray(0, 0.6 * bytes.indexOf('moov')));

  await page.goto('/recordings');
  await page.getByLabel('Recordings to check').setInputFiles([whole, crashed]);
  const row = page.getByRole('row').filter({ hasText: 'crashed.mp4' });
  await expect(row).toContainText('has lost its index', { timeout: 90_000 });
  await expect(page.getByRole('row').filter({ hasText: 'trial.mp4' })).toContainText('3 tracks', {
    timeout: 90_000,
  });
  await page.getByRole('link', { name: 'crashed.mp4', exact: true }).click();
  await page.getByRole('alert').getByRole('link', { name: 'Repair it' }).click();

  const repair = page.getByRole('region', { name: 'Copy or repair' });
  await repair.getByRole('button', { name: 'Repair it' }).click();
  const made = page.getByRole('region', { name: 'Made' });
  await expect(made).toContainText('with the help of a whole recording made by the same program');
  await repair.getByLabel('Whole recording to go by').selectOption({ label: 'trial.mp4' });
  await repair.getByRole('button', { name: 'Repair it' }).click();
  await expect(made.getByText(/^audio track \d .*\(aac\): 0:\d\d saved/)).toHaveCount(3, { timeout: 60_000 });
  await expect(made).toContainText('Only their order in trial.mp4 tells which is which');
});
