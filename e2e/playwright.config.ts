import { defineConfig } from '@playwright/test';

/** The real interface in Debian's Chromium, against the built server on a data folder of its own. */
export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  timeout: 60_000,
  expect: { timeout: 15_000 },
  workers: 1,
  // On a machine that is shared a test is tried once more; the report names those that needed it.
  retries: process.env.CI ? 1 : 0,
  reporter: [['list'], ['json', { outputFile: '../.cache/reports/playwright.json' }]],
  outputDir: '../test-results',
  globalSetup: './startServer.ts',
  use: {
    baseURL: 'http://127.0.0.1:4791',
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--autoplay-policy=no-user-gesture-required',
      ],
    },
  },
});
