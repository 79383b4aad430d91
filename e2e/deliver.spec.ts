import { execFileSync, spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { writeEvening } from './evening.ts';

test.setTimeout(240_000);
const SECONDS = 26;

/** What another program measures of a file: its loudness (LUFS) and true peak (dBTP). */
function measured(path: string): { lufs: number; peak: number } {
  const args = ['-i', path, '-map', '0:a', '-af', 'ebur128=peak=true', '-f', 'null', '-'];
  const said = spawnSync('ffmpeg', args, { encoding: 'utf8' }).stderr.split('Summary:')[1];
  return { lufs: Number(/I:\s+(\S+)/.exec(said)?.[1]), peak: Number(/Peak:\s+(\S+)/.exec(said)?.[1]) };
}

function pictureHash(path: string): string {
  const args = ['-v', 'error', '-i', path, '-map', '0:v', '-c', 'copy', '-f', 'md5', '-'];
  return execFileSync('ffmpeg', args, { encoding: 'utf8' });
}

/** Brings in a recording, checks it, and opens the page on which files are made of it. */
async function checked(page: Page, path: string, name: string): Promise<void> {
  await page.goto('/recordings');
  await page.getByLabel('Recordings to check').setInputFiles(path);
  await page.getByRole('link', { name, exact: true }).click();
  await expect(page.getByRole('table', { name: 'Tracks' })).toBeVisible({ timeout: 90_000 });
  await page.getByRole('button', { name: 'Check', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Verdicts' })).toContainText('upload: not clean', {
    timeout: 90_000,
  });
  await page.getByRole('link', { name: 'Make files' }).click();
}

/** Saves what a link of the page leads to. */
async function saved(page: Page, name: string, to: string): Promise<string> {
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name, exact: true }).first().click();
  await (await download).saveAs(to);
  return to;
}

test('from its verdict to a clean video with proof, a clip, named tracks and a timeline', async ({
  page,
}, info) => {
  const path = info.outputPath('lock run.mkv');
  writeEvening(path, SECONDS);
  await checked(page, path, 'lock run.mkv');

  // The mix holds the music, so that the voice alone is proposed.
  const mix = page.getByRole('table', { name: 'What it is mixed of' });
  await expect(mix.getByRole('row', { name: /1 Stream/ })).toContainText('not clean');
  await expect(mix.getByRole('checkbox', { name: '2 Mic' })).toBeChecked();
  await expect(mix.getByRole('checkbox', { name: '1 Stream' })).not.toBeChecked();
  await expect(mix.getByRole('row', { name: /3 Music/ })).toContainText('must not be published');

  // A mark is set while it plays, ended, named, and made into a clip.
  await page
    .getByRole('button', { name: 'Listen from a place on the waveform' })
    .click({ position: { x: 450, y: 20 } });
  await expect(
    page.getByRole('region', { name: 'Marks' }).getByRole('button', { name: 'Stop' }),
  ).toBeVisible();
  await page.waitForTimeout(700);
  await page.keyboard.press('k');
  const mark = page.getByRole('textbox', { name: /Name of the mark/ });
  await expect(mark).toHaveValue('Mark 1');
  await page.waitForTimeout(1200);
  await page.keyboard.press('Shift+K');
  await mark.fill('Overtaken');
  await mark.press('Enter');
  await page.getByRole('checkbox', { name: /Clip: Overtaken/ }).check();

  await page.getByRole('button', { name: 'Make 2 videos, tracks and timeline' }).click();
  const made = page.getByRole('list', { name: 'What was made' });
  await expect(made.getByRole('progressbar')).toBeVisible();
  const videos = made.getByRole('table', { name: 'Videos' });
  await expect(videos.getByRole('row', { name: /lock run.mp4/ })).toContainText('clean', {
    timeout: 150_000,
  });
  await expect(videos.getByRole('row', { name: /Overtaken.mp4/ })).toContainText('clean');
  await expect(made).toContainText('off on the timeline: Stream and Music');

  const mp4 = await saved(page, 'Save', info.outputPath('upload.mp4'));
  expect(pictureHash(mp4)).toBe(pictureHash(path));
  const { lufs, peak } = measured(mp4);
  expect(Math.abs(lufs + 14)).toBeLessThanOrEqual(0.5);
  expect(peak).toBeLessThanOrEqual(-0.9);

  await made.getByText('All files').click();
  const otio = await saved(page, 'editor/lock run.otio', info.outputPath('run.otio'));
  const timeline = JSON.parse(readFileSync(otio, 'utf8'));
  const tracks = timeline.tracks.children as { name: string; enabled: boolean }[];
  expect(tracks.map(({ name, enabled }) => [name, enabled])).toEqual([
    ['Picture', true],
    ['Stream', false],
    ['Mic', true],
    ['Music', false],
  ]);
  expect(timeline.tracks.markers.map(({ name }: { name: string }) => name)).toContain('Overtaken');
  const wav = await saved(page, 'editor/tracks/02 Mic.wav', info.outputPath('mic.wav'));
  const length = ['-v', 'error', '-show_entries', 'stream=duration_ts,sample_rate', '-of', 'csv=p=0', wav];
  const [rate, frames] = execFileSync('ffprobe', length, { encoding: 'utf8' }).trim().split(',').map(Number);
  expect(frames / rate).toBeCloseTo(SECONDS, 0);

  const proof = page.waitForEvent('popup');
  await videos.getByRole('link', { name: 'Proof' }).first().click();
  await expect((await proof).getByText('Looked for: Music.')).toBeVisible();
});

test('what is not clean is not written unless that is said; a sound is taken out of the mix and what is left is used', async ({
  page,
}, info) => {
  const path = info.outputPath('second run.mkv');
  writeEvening(path, SECONDS);
  await checked(page, path, 'second run.mkv');
  await page.getByRole('checkbox', { name: 'Tracks and timeline for the editor' }).uncheck();
  const mix = page.getByRole('table', { name: 'What it is mixed of' });
  await mix.getByRole('checkbox', { name: '2 Mic' }).uncheck();
  await mix.getByRole('checkbox', { name: '1 Stream' }).check();
  await page.getByRole('button', { name: 'Make the video', exact: true }).click();
  const made = page.getByRole('list', { name: 'What was made' });
  await expect(made).toContainText('Not written, because it is not clean: second run.', { timeout: 120_000 });

  // One that runs is stopped, and leaves nothing.
  await page.getByRole('button', { name: 'Make the video', exact: true }).click();
  await made.getByRole('button', { name: 'Stop' }).click();
  await expect(made).toContainText('Stopped. No unfinished files were left.', { timeout: 60_000 });

  await page.getByRole('button', { name: 'Take it out' }).click();
  await expect(made).toContainText('Music went down by', { timeout: 120_000 });
  await expect(made.getByRole('figure', { name: /How loud it was/ })).toBeVisible();
  const heard = page.waitForResponse((response) => response.url().includes('/file?name=What'));
  await made.getByRole('button', { name: 'What was taken out', exact: true }).click();
  expect((await heard).status()).toBeLessThan(300);
  await made.getByRole('button', { name: 'Stop' }).click();
  await made.getByRole('button', { name: 'Use it in the video' }).click();
  await expect(mix.getByRole('combobox', { name: /Which 1 Stream/ })).toHaveValue(/.+/);
  await page.getByText('The video is kept only if its check says clean', { exact: true }).click();
  await page.getByRole('checkbox', { name: /even if something is in it/ }).check();
  await page.getByRole('button', { name: 'Make the video', exact: true }).click();
  await expect(made.getByRole('link', { name: 'Watch' })).toBeVisible({ timeout: 120_000 });
});
