import { expect, test } from '@playwright/test';
import { openFresh } from './openFresh.ts';

test('loudspeakers in the room of the microphone are told with what they leak, and headphones end it', async ({
  page,
}) => {
  await openFresh(page, 'two-machines-made-right');
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
  await page
    .getByRole('columnheader', { name: /^Own headphones/ })
    .getByRole('button')
    .click();
  await page.getByLabel('Who or what').selectOption('loudspeakers');
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue('Own loudspeakers');
  await expect(page.getByLabel(/^They stand in the room of the microphone/)).toBeChecked();
  await page.getByRole('button', { name: 'Save' }).click();

  const cause = page
    .locator('[data-finding]', { hasText: 'A microphone in the room hears Own loudspeakers' })
    .first();
  await expect(cause).toBeVisible();
  await expect(page.getByTestId('findings-count')).toContainText('to stop');
  await expect(page.getByRole('gridcell', { name: /^Lock & Paddle at Voice: −3/ })).toBeVisible();

  await page.goto(page.url().replace('/reach', '/wiring'));
  await expect(
    page.getByLabel('The microphone of Narrator is in the room of Own loudspeakers'),
  ).toBeChecked();
  await page.getByLabel('How much of Own loudspeakers the microphone of Narrator hears').fill('-50');
  await page.keyboard.press('Enter');
  await page.goto(page.url().replace('/wiring', '/reach'));
  await expect(page.getByRole('gridcell', { name: /^Lock & Paddle at Voice: −5/ })).toBeVisible();

  await expect(cause.getByTestId('effects').first()).toContainText(/No longer at .*: .*Boathouse pings/);
  await cause.getByRole('button', { name: 'Done' }).first().click();
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
});
