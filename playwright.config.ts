import { defineConfig } from '@playwright/test';
import { APPS } from './e2e/app';
import { CHROMIUM } from './e2e/chromium';

export default defineConfig({
  testDir: 'e2e',
  // Side by side: much of a test is waiting. Each worker has an application of its own (e2e/app.ts).
  workers: APPS,
  fullyParallel: true,
  timeout: 180_000,
  expect: { timeout: 30_000 },
  retries: 0,
  reporter: [['list'], ['./cli/testing/slowestTests.mjs']],
  outputDir: 'test-results',
  globalSetup: './e2e/globalSetup.ts',
  use: {
    viewport: { width: 1280, height: 620 },
    actionTimeout: 20_000,
    // Without a graphics card a trace costs as much as the test: BRINDLE_TRACE=1 to see what a failing one did.
    trace: process.env.BRINDLE_TRACE ? 'retain-on-failure' : 'off',
    screenshot: 'only-on-failure',
    launchOptions: CHROMIUM,
  },
});
