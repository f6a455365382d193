/** The real page with a canvas open that is shown exactly, and a plain brush of 64 texels in hand. */
import { chromium, type Page } from '@playwright/test';
import { CHROMIUM } from '../../e2e/chromium';

type Box = NonNullable<Awaited<ReturnType<ReturnType<Page['getByTestId']>['boundingBox']>>>;

/** `inPage`: a script that runs before the page's own. `drawnMs`: until everything is shown exactly. `box`: that of the flat pane. */
export async function onCanvas<T>(
  address: string,
  inPage: string,
  drawnMs: number,
  work: (page: Page, box: Box) => Promise<T>,
): Promise<T> {
  const browser = await chromium.launch(CHROMIUM);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(inPage);
    const hand = { brush: { size: 64, sizeUnit: 'texel', vary: [] } };
    await page.addInitScript(`localStorage.setItem('brindle-hand', ${JSON.stringify(JSON.stringify(hand))})`);
    await page.goto(address);
    await page.getByTestId('bench').waitFor({ timeout: 120_000 });
    await page.waitForTimeout(drawnMs);
    return await work(page, (await page.getByTestId('pane-flat').boundingBox())!);
  } finally {
    await browser.close();
  }
}
