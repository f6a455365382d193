import { chromium } from '@playwright/test';
import { CHROMIUM } from './e2e/chromium';
export const at = 'http://127.0.0.1:3100';
export async function open(id: string) {
  const browser = await chromium.launch(CHROMIUM);
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  page.on('console', (m) => m.type() === 'error' && console.log('console:', m.text().slice(0, 300)));
  page.on('pageerror', (e) => console.log('pageerror:', e.message.slice(0, 500)));
  await page.goto(`${at}/pieces/${id}`);
  await page.getByTestId('bench').waitFor({ timeout: 120_000 });
  await page.waitForTimeout(5000);
  return { browser, page };
}
