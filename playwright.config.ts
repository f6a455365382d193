import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './e2e/chromium';

export default defineConfig({
  testDir: 'e2e',
  // One browser at a time: without a graphics card two would starve each other.
  workers: 1,
  timeout: 180_000,
  expect: { timeout: 30_000 },
  retries: 0,
  reporter: [['list']],
  outputDir: 'test-results',
  globalSetup: './e2e/globalSetup.ts',
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 20_000,
    trace: 'retain-on-failure',
    screenshot: 'only-on-failure',
    launchOptions: CHROMIUM,
  },
});
