import { expect, type Page, test } from '@playwright/test';
import { openFresh } from './openFresh.ts';

const card = (page: Page, words: string) => page.locator('[data-finding]', { hasText: words });

test('a cause has a name, says what it brings, and its remedy says what changes for whom before it is applied', async ({
  page,
}) => {
  await openFresh(page, 'two-machines');
  await expect(page.getByTestId('findings-count')).toHaveText('8 causes, 4 to stop');
  const echo = card(page, 'Call is open in the mix “Mix for the friends”');
  await expect(echo).toContainText('brings 4 more findings');
  await echo.getByRole('button').first().click();
  await expect(echo.getByTestId('effects')).toContainText(
    'No longer at Friends in chat: Bosun, Wick and Boathouse pings.',
  );
  await expect(echo.getByRole('button', { name: 'Done' })).toHaveCount(1);
  await echo.getByRole('button', { name: 'Done' }).click();
  await expect(page.getByTestId('findings-count')).toHaveText('7 causes, 3 to stop');
  await expect(echo).toHaveCount(0);
});

test('a finding that is meant leaves the count with its note, and can be counted again', async ({ page }) => {
  await openFresh(page, 'regatta-with-faults');
  const leak = card(page, 'Reedbox stays in the VOD');
  await leak.getByRole('button').first().click();
  await leak.getByText('This is meant').click();
  await leak.getByLabel('Why (for later)').fill('the record is mine');
  await leak.getByRole('button', { name: 'It is meant' }).click();
  await expect(page.getByTestId('findings-count')).toHaveText('5 causes, 3 to stop');
  await page.reload();
  const meant = page.getByTestId('meant');
  await meant.getByText('1 finding is meant').click();
  await expect(meant).toContainText('“the record is mine”');
  await meant.getByRole('button', { name: 'Count it again' }).click();
  await expect(page.getByTestId('findings-count')).toHaveText('6 causes, 4 to stop');
});

test('giving up a wish stands apart, last, and says what is lost', async ({ page }) => {
  await openFresh(page, 'regatta-with-faults');
  const missing = card(page, 'You want Bellbuoy at VOD');
  await missing.getByRole('button').first().click();
  await expect(missing.getByRole('button', { name: 'Apply' })).toHaveCount(1);
  await missing.getByText('I do not want this after all').click();
  await expect(missing).toContainText('Then Bellbuoy is not heard at VOD.');
});

test('a word that is not everyday explains itself on hover, on focus and when it is clicked; ? has them all', async ({
  page,
}) => {
  await openFresh(page, 'two-machines');
  const word = page.getByRole('main').getByRole('button', { name: 'stray', exact: true });
  const said = page.getByRole('tooltip').filter({ hasText: 'where you do not want it' });
  await word.hover();
  await expect(said).toHaveCount(1);
  await page.mouse.move(2, 2, { steps: 5 });
  await expect(said).toHaveCount(0);
  await word.focus();
  await expect(said).toHaveCount(1);
  await word.click();
  await expect(said).toHaveCount(1);
  await page.keyboard.press('Escape');
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys and words' })).toContainText(
    'fused Two sounds come to the recorder as one',
  );
});

test('the board of one scene shows what stands in it', async ({ page }) => {
  await openFresh(page, 'two-machines');
  const gap = card(page, 'In the scene “Break”, Narrator is silent at Live');
  const twice = card(page, 'In the scene “Race”, Lock & Paddle arrives at Live twice');
  await page.getByLabel('Scene', { exact: true }).selectOption({ label: 'scene Race' });
  await expect(gap).toHaveCount(0);
  await expect(card(page, 'Game is open in the mix “Feed to Loft”')).toHaveCount(1);
  await page.getByLabel('Scene', { exact: true }).selectOption({ label: 'scene Break' });
  await expect(gap).toHaveCount(1);
  await expect(twice).toHaveCount(0);
});

test('pickups go into scenes together in a group', async ({ page }) => {
  await openFresh(page, 'two-machines-made-right');
  await page.goto(page.url().replace('/reach', '/wiring'));
  await page.getByRole('button', { name: 'Group', exact: true }).click();
  await page.getByLabel('Records is in Group 1').check();
  await expect(page.getByLabel('Group 1 sounds in Race')).not.toBeChecked();
  await expect(page.getByTestId('findings-count')).toContainText('to stop');
  await page.getByLabel('Group 1 sounds in Race').check();
  await page.getByLabel('Group 1 sounds in Break').check();
  await expect(page.getByTestId('findings-count')).toHaveText('nothing is wrong');
  await expect(page.locator('[data-pickup=records]')).toContainText('with Group 1');
});
