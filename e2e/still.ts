/** When a bench can be looked at. Used by the browser tests, the soak and the script of the screenshots. */
import type { Page } from '@playwright/test';

/** Waits until the bench is open and its texels have not changed for `quietMs`. `openMs`: how long opening may take. */
export async function still(page: Page, quietMs = 250, openMs = 90_000): Promise<void> {
  await page.locator('[data-testid="bench"][data-ready="true"]').waitFor({ timeout: openMs });
  await page.waitForFunction(
    (quiet) => {
      const last = performance.getEntriesByName('brindle:pixels').at(-1);
      return last !== undefined && performance.now() - last.startTime > quiet;
    },
    quietMs,
    { polling: 50, timeout: 60_000 },
  );
}

/** Waits until no picture of an earlier visit covers the panes, which are drawn exactly by then. */
export async function uncovered(page: Page, openMs = 120_000): Promise<void> {
  await page.locator('[data-testid="bench"][data-ready="true"]').waitFor({ timeout: openMs });
  for (const cover of ['look', 'thumbnail']) await page.getByTestId(cover).waitFor({ state: 'detached', timeout: 120_000 });
}
