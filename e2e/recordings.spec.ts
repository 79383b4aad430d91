import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';

test.setTimeout(180_000);

/**
 * A recording as somebody makes it, written by Debian's ffmpeg: a picture, a mix for the stream, a voice, the music. The music lies in the
 * mix, 20 dB down, from the 12th to the 30th second.
 */
function writeEvening(path: string): void {
  const song = 'sin(2*PI*t*(220+110*floor(mod(t*1.7,5))))*exp(-3*mod(t*1.7,1))';
  const parts = [
    'testsrc=size=320x180:rate=25:duration=40[v]',
    `anoisesrc=duration=40:seed=1:amplitude=0.3:sample_rate=48000,volume='0.2+0.8*gt(mod(t,3),1.5)':eval=frame,asplit=2[mic][m]`,
    `aevalsrc='0.4*${song}|0.3*${song}':duration=40:sample_rate=48000[tune]`,
    'anoisesrc=duration=40:seed=2:amplitude=0.05:sample_rate=48000,aformat=channel_layouts=stereo[hiss]',
    '[tune][hiss]amix=inputs=2:normalize=0,asplit=2[music][r]',
    "[r]volume='0.1*between(t,12,30)':eval=frame[leak]",
    '[m]aformat=channel_layouts=stereo[wide]',
    '[wide][leak]amix=inputs=2:normalize=0[mix]',
  ];
  const args = ['-v', 'error', '-y', '-filter_complex', parts.join(';'), '-map', '[v]'];
  for (const track of ['mix', 'mic', 'music']) args.push('-map', `[${track}]`);
  for (const [at, title] of ['Stream', 'Mic', 'Music'].entries())
    args.push(`-metadata:s:a:${at}`, `title=${title}`);
  args.push('-c:v', 'libx264', '-preset', 'ultrafast', '-c:a', 'aac', '-b:a', '160k', path);
  execFileSync('ffmpeg', args);
}

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
  await page.getByRole('link', { name: 'notes.mkv', exact: true }).click();
  await expect(page.getByRole('alert')).toContainText(
    'notes.mkv is not an audio file that Northfen can read',
  );
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
