/**
 * Pages of one worker share a browser context, as an artist's tabs do: scripts are fetched and compiled once. What the
 * artist's hand remembers is forgotten between tests.
 */
import { test as base, type BrowserContext } from '@playwright/test';
import { address } from './app';

export { expect, type Locator, type Page } from '@playwright/test';

export const test = base.extend<object, { shared: BrowserContext }>({
  shared: [
    async ({ browser }, give, { project }) => {
      const context = await browser.newContext({ viewport: project.use.viewport });
      context.setDefaultTimeout(project.use.actionTimeout ?? 20_000);
      await give(context);
      await context.close();
    },
    { scope: 'worker' },
  ],
  context: async ({ shared }, give) => give(shared),
  page: async ({ shared }, give, info) => {
    const page = await shared.newPage();
    await page.goto(`${address()}/icon.svg`);
    await page.evaluate(() => localStorage.clear());
    await give(page);
    if (info.status !== info.expectedStatus)
      await page.screenshot({ path: info.outputPath('failed.png') }).catch(() => undefined);
    // Whatever the test opened beside it.
    for (const other of shared.pages()) await other.close();
  },
});
