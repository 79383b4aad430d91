import { writeFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { twoMachinesMadeRight } from '../core/demo/twoMachines.ts';
import { applyEdit, type SimpleEdit } from '../core/setup/edits.ts';
import type { Setup } from '../core/setup/schema.ts';
import { recordTestSounds } from '../server/media/simulatedRecording.ts';

test.setTimeout(180_000);

/** The two-machine room as it really is: otherwise than its setup says in three ways. */
const OTHERWISE: SimpleEdit[] = [
  { edit: 'updateSource', id: 'game', values: { into: 'boathouse.call' } },
  { edit: 'setSend', pickup: 'pages', to: 'live-mix', gainDb: null },
  { edit: 'setSend', pickup: 'bells', to: 'vod-mix', gainDb: -28 },
];

test('a real room is sounded, and the three ways in which it differs from its setup are named', async ({
  page,
}, info) => {
  const recording = info.outputPath('evening.mkv');
  await recordTestSounds({
    room: OTHERWISE.reduce<Setup>(applyEdit, twoMachinesMadeRight()),
    outPath: recording,
    seconds: 36,
    seed: 6,
  });
  const { id } = await (
    await page.request.post('/api/setups', { data: { from: 'two-machines-made-right' } })
  ).json();
  await page.goto(`/setups/${id}/takes`);
  await page.getByRole('link', { name: 'Sound the real room' }).click();

  const saved = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save the test sound of Reedbox' }).click();
  expect((await saved).suggestedFilename()).toBe('Test sound Reedbox.wav');

  await page.getByLabel('Recording of the test sounds').setInputFiles(recording);
  const causes = page.getByRole('list', { name: 'Causes' }).getByRole('listitem');
  await expect(causes).toHaveCount(3, { timeout: 120_000 });
  await expect(causes.filter({ hasText: 'In your room: Lock & Paddle plays into “Call”' })).toContainText(
    'To mend the room: In Lock & Paddle, choose “Game channel” as the output.',
  );
  await expect(causes.filter({ hasText: 'Bellbuoy' })).toContainText('is at −28.0 dB');
  await expect(causes.filter({ hasText: 'Quillpage is closed on track 1' })).toBeVisible();
  const game = page.getByRole('row', { name: /^Lock & Paddle/ });
  await expect(game.getByRole('cell').nth(0)).toContainText('−1.0 differs');
  await expect(game.getByRole('cell').nth(0)).toContainText('wished −10.0, computed −10.0');

  await page.getByRole('button', { name: 'Let Lock & Paddle play into “Call”' }).click();
  await expect(causes).toHaveCount(2);
  await page.getByRole('link', { name: 'All takes' }).click();
  await page.getByRole('link', { name: 'Sound the real room' }).click();
  await expect(causes).toHaveCount(2);
});

test('a file that is no recording is refused in words, and what was read before stays', async ({
  page,
}, info) => {
  const { id } = await (await page.request.post('/api/setups', { data: { from: 'voice-over' } })).json();
  const text = info.outputPath('notes.mkv');
  writeFileSync(text, 'this is a text');
  await page.goto(`/setups/${id}/takes/sounding`);
  await page.getByLabel('Recording of the test sounds').setInputFiles(text);
  await expect(page.getByRole('alert')).toContainText(
    'notes.mkv is not an audio file that Northfen can read',
  );
  await expect(page.getByRole('button', { name: 'Choose the recording' })).toBeEnabled();
});
