import { expect, type Page } from '@playwright/test';

/** Opens the board of a fresh copy of a demo setup. */
export async function openFresh(page: Page, from: string): Promise<void> {
  const { id } = await (await page.request.post('/api/setups', { data: { from } })).json();
  await page.goto(`/setups/${id}/reach`);
  await expect(page.getByTestId('findings-count')).toHaveAttribute('data-current', 'true');
}
