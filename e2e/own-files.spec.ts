import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { northfen } from './measure.ts';

test.setTimeout(180_000);

/** Makes a sound file with ffmpeg from a generator of its own. */
const generate = (path: string, generator: string, ...more: string[]) =>
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', generator, ...more, path]);

const tone = (path: string, hz: number, dbfs: number, ...more: string[]) =>
  generate(
    path,
    `sine=frequency=${hz}:duration=8:sample_rate=44100`,
    '-af',
    `volume=${dbfs + 18}dB`,
    ...more,
  );

test('own recordings take the place of the demo’s, from an empty setup to a measured take', async ({
  page,
}, info) => {
  const voice = info.outputPath('voice.wav');
  const music = info.outputPath('music.m4a');
  tone(voice, 997, -20);
  generate(music, 'anoisesrc=color=pink:duration=8:amplitude=0.2:seed=3', '-c:a', 'aac', '-b:a', '192k');

  const answer = await page.request.post('/api/setups', { data: { from: 'blank', name: 'My own evening' } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/setups/${id}/reach`);
  await expect(page.getByText('There is nothing to route yet')).toBeVisible();
  await page.getByRole('link', { name: 'Add the first source' }).click();
  await page.getByRole('button', { name: 'Add source', exact: true }).click();
  await page.getByRole('button', { name: 'Add source', exact: true }).click();
  const names = page.getByLabel('Name of the source');
  await names.nth(0).fill('My voice');
  await names.nth(0).press('Enter');
  await names.nth(1).fill('My music');
  await names.nth(1).press('Enter');
  await page.getByLabel('Clearance of My music', { exact: true }).selectOption({ label: 'Live only' });
  await page.getByLabel('File for My voice').setInputFiles(voice);
  await expect(page.locator('tr[data-source]').nth(0)).toContainText('44.1 kHz');
  await page.getByLabel('File for My music').setInputFiles(music);
  await expect(page.locator('tr[data-source]').nth(1)).toContainText('aac');

  await page.getByRole('link', { name: /Reach$/ }).click();
  const set = async (source: string, destination: string, figure: string) => {
    await page.getByRole('gridcell', { name: new RegExp(`^${source} at ${destination}:`) }).focus();
    await page.keyboard.type(figure);
    await page.keyboard.press('Enter');
  };
  await set('My voice', 'Live', '0');
  await set('My voice', 'VOD', '0');
  await set('My music', 'Live', '-6');
  await set('My music', 'VOD', '-6');
  await expect(page.getByLabel('The chosen cell')).toContainText('My music stays in the VOD at −6.0 dB');
  await page.getByRole('button', { name: 'Render', exact: true }).click();
  await expect(page.getByText('Not safe to publish:')).toBeVisible({ timeout: 120_000 });

  const started = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download the take' }).click();
  const take = await (await started).path();
  const { tracks } = await northfen<{ tracks: { name: string; durationS: number }[] }>('loudness', take);
  expect(tracks.map(({ name }) => name)).toEqual(['Live mix', 'VOD mix']);
  for (const { durationS } of tracks) expect(durationS).toBeCloseTo(8, 0);
  const found = await northfen<{ present: boolean; levelDb: number }>(
    'presence',
    '--reference',
    music,
    '--in',
    take,
    '--track',
    '2',
  );
  expect(found.present).toBe(true);
  expect(Math.abs(found.levelDb + 6)).toBeLessThan(1);
});

test('files that are no use are refused in words, and the one before stays', async ({ page }, info) => {
  const answer = await page.request.post('/api/setups', { data: { from: 'voice-over' } });
  const { id } = (await answer.json()) as { id: string };
  await page.goto(`/setups/${id}/sources`);
  const row = page.locator('tr[data-source=narrator]');
  const input = page.getByLabel('File for Narrator');

  const text = info.outputPath('text.wav');
  writeFileSync(text, 'this is not sound');
  await input.setInputFiles(text);
  await expect(row.getByRole('alert')).toContainText('is not an audio file that Northfen can read');

  const silent = info.outputPath('silent.mp4');
  generate(silent, 'testsrc=duration=1', '-pix_fmt', 'yuv420p');
  await input.setInputFiles(silent);
  await expect(row.getByRole('alert')).toContainText('has no audio track');

  const whole = info.outputPath('whole.wav');
  tone(whole, 440, -20);
  const cut = info.outputPath('cut.wav');
  const { readFileSync } = await import('node:fs');
  const bytes = readFileSync(whole);
  writeFileSync(cut, bytes.subarray(0, bytes.length / 2));
  await input.setInputFiles(cut);
  await expect(row.getByRole('alert')).toContainText('is cut off');
  await expect(page.getByLabel('Recording of Narrator')).toContainText('Narrator (demo)');
  await row.getByRole('button', { name: 'Use the part that is there' }).click();
  await expect(row).toContainText('0:04');

  for (const [name, more] of [
    ['8k.wav', ['-ar', '8000']],
    ['192k.wav', ['-ar', '192000']],
    ['eight.wav', ['-ac', '8']],
  ] as const) {
    const path = info.outputPath(name);
    tone(path, 440, -20, ...more);
    await input.setInputFiles(path);
    await expect(row.locator('option:checked').filter({ hasText: name })).toHaveCount(1);
  }
});

test('a setup file is exported and comes in again; a broken one is refused and nothing is lost', async ({
  page,
}, info) => {
  await page.goto('/setups/voice-over/reach');
  await page.getByRole('button', { name: 'All setups' }).click();
  const started = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Export this setup' }).click();
  const exported = info.outputPath('setup.json');
  await (await started).saveAs(exported);
  const { readFileSync } = await import('node:fs');
  const broken = info.outputPath('broken.json');
  writeFileSync(broken, readFileSync(exported, 'utf8').replace('"version": 2', '"version": 7'));
  await page.getByLabel('Setup file').setInputFiles(broken);
  await expect(page.getByRole('alert')).toContainText('open the file with a newer Northfen');
  await expect(page).toHaveURL(/voice-over\/reach/);
  await page.getByLabel('Setup file').setInputFiles(exported);
  await expect(page).not.toHaveURL(/voice-over\/reach/);
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
});
