import { defineConfig } from '@playwright/test';

/** They look at what is heard while it plays, or at times: nothing else may be at work beside them. */
const ALONE = /(main-way|picture|sound-check)\.spec\.ts$/;

/** The real interface in Debian's Chromium, against the built product with a database of its own. */
export default defineConfig({
  testDir: '.',
  projects: [
    { name: 'beside', testIgnore: ALONE },
    { name: 'alone', testMatch: ALONE },
  ],
  // For a machine that is several times slower, or shared: what holds does not wait any longer for it.
  timeout: 900_000,
  expect: { timeout: 240_000 },
  globalSetup: './support/global-setup.ts',
  reporter: [['list'], ['json', { outputFile: process.env['PLAYWRIGHT_JSON_OUTPUT_NAME'] ?? 'test-results/report.json' }]],
  use: {
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    screenshot: 'off',
    trace: 'off',
    launchOptions: {
      executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
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
