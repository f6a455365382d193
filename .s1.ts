import { chromium } from '@playwright/test';
import { CHROMIUM } from './e2e/chromium';
const browser = await chromium.launch(CHROMIUM);
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on('pageerror', (e) => console.log('pageerror:', e.message.slice(0, 500)));
for (const [id, n] of [['demo-lantern','b'],['demo-setts','c']]) {
  const t = Date.now();
  await page.goto(`http://127.0.0.1:3100/pieces/${id}`);
  await page.getByTestId('bench').waitFor({ timeout: 120_000 });
  console.log(id, 'bench after', Date.now() - t);
  await page.waitForTimeout(3500);
  await page.screenshot({ path: `/tmp/${n}1.png` });
  await page.waitForTimeout(9000);
  await page.screenshot({ path: `/tmp/${n}2.png` });
}
await browser.close();
