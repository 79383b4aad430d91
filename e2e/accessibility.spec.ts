import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { expect, type Page, test } from '@playwright/test';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
const TAGS = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice'];

/** Runs the accessibility checker on the page as it is, and returns what it finds, a line each. */
async function found(page: Page): Promise<string[]> {
  // The checker draws text to tell icons from words. A font that is still on its way draws nothing,
  // passes for icons, and hides what the checker would say: load every one before.
  await page.evaluate(() =>
    Promise.all([...document.fonts].map((font) => font.load())).then(() => undefined),
  );
  await page.evaluate(axe);
  return page.evaluate(async (tags) => {
    const { axe } = window as unknown as {
      axe: {
        run: (
          context: Document,
          options: object,
        ) => Promise<{ violations: { id: string; nodes: { html: string; failureSummary: string }[] }[] }>;
      };
    };
    const { violations } = await axe.run(document, { runOnly: { type: 'tag', values: tags } });
    return violations.flatMap(({ id, nodes }) =>
      nodes.slice(0, 3).map(({ html, failureSummary }) => `${id}: ${html.slice(0, 420)} ${failureSummary}`),
    );
  }, TAGS);
}

/** Every screen, with what to wait for and, for sheets, how to open one. */
const SCREENS: [name: string, address: string, open?: (page: Page) => Promise<void>][] = [
  ['Setups', '/setups'],
  ['Recordings', '/recordings'],
  [
    'a recording',
    '/recordings',
    async (page) => {
      await page
        .getByRole('link', { name: 'Lock & Paddle, the evening.mkv', exact: true })
        .click({ timeout: 120_000 });
      await page.getByRole('region', { name: 'Verdicts' }).waitFor({ timeout: 120_000 });
    },
  ],
  [
    'making files of a recording',
    '/recordings',
    async (page) => {
      await page
        .getByRole('link', { name: 'Lock & Paddle, the evening.mkv', exact: true })
        .click({ timeout: 120_000 });
      await page.getByRole('link', { name: 'Make files' }).click();
      await page.getByRole('table', { name: 'What it is mixed of' }).waitFor({ timeout: 120_000 });
    },
  ],
  ['Start from nothing', '/plan'],
  ['Sources', '/setups/two-machines/sources'],
  [
    'what a recording is like',
    '/setups/regatta-made-right/sources',
    (page) => page.getByRole('button', { name: 'Levels and hum of Narrator' }).click(),
  ],
  [
    'a clearance in detail',
    '/setups/regatta-made-right/sources',
    (page) => page.getByRole('button', { name: 'Clearance of Reedbox in detail' }).click(),
  ],
  ['Wiring', '/setups/two-machines/wiring'],
  [
    'adding a machine',
    '/setups/two-machines/wiring',
    (page) => page.getByRole('button', { name: 'Machine', exact: true }).click(),
  ],
  ['Set-up sheet', '/setups/two-machines/wiring/steps'],
  ['Reach', '/setups/two-machines/reach'],
  [
    'a track',
    '/setups/regatta-made-right/reach',
    (page) => page.getByRole('button', { name: /^Upload mix/ }).click(),
  ],
  [
    'adding a destination',
    '/setups/regatta-made-right/reach',
    (page) => page.getByRole('button', { name: 'Add destination' }).click(),
  ],
  [
    'the recorder',
    '/setups/regatta-made-right/reach',
    (page) => page.getByRole('button', { name: 'Recorder' }).click(),
  ],
  [
    'the menu of setups',
    '/setups/regatta-made-right/reach',
    (page) => page.getByRole('button', { name: 'All setups' }).click(),
  ],
  ['all keys', '/setups/regatta-made-right/reach', (page) => page.keyboard.press('?')],
  [
    'history',
    '/setups/regatta-made-right/reach',
    async (page) => {
      await page.getByRole('button', { name: 'All setups' }).click();
      await page.getByRole('menuitem', { name: /^History/ }).click();
    },
  ],
  ['Drills', '/setups/two-machines/reach/drills'],
  [
    'Balance',
    '/setups/regatta-made-right/balance',
    (page) => page.getByRole('table', { name: /^Levels at/ }).waitFor({ timeout: 60_000 }),
  ],
  [
    'Rehearse',
    '/setups/regatta-made-right/rehearse',
    (page) => page.getByRole('table', { name: 'Sources over time' }).waitFor({ timeout: 60_000 }),
  ],
  [
    'processing',
    '/setups/regatta-made-right/rehearse?process=narrator',
    (page) => page.getByRole('dialog').waitFor({ timeout: 60_000 }),
  ],
  ['Takes', '/setups/regatta-made-right/takes'],
];

for (const theme of ['light', 'dusk']) {
  test(`the accessibility checker finds nothing on any screen, ${theme}`, async ({ page }) => {
    test.setTimeout(240_000);
    await page.addInitScript((one) => localStorage.setItem('northfen.theme', one), theme);
    const wrong: string[] = [];
    for (const [name, address, open] of SCREENS) {
      await page.goto(address);
      await expect(page.locator('h1').first(), name).toBeVisible({ timeout: 30_000 });
      await open?.(page);
      await page.waitForTimeout(400);
      wrong.push(...(await found(page)).map((line) => `${name}: ${line}`));
    }
    expect(wrong).toEqual([]);
  });
}
