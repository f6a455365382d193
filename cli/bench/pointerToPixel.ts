/**
 * From a pointer event to the texels on the graphics card, in the real page at 2048²: a stroke over the
 * lantern, with the mouse of the browser itself. The reference is the time between two frames while the same
 * pane is merely turned: what the machine needs for drawing alone.
 */
import { chromium } from '@playwright/test';
import { address, startApp } from '../../e2e/app';
import { CHROMIUM } from '../../e2e/chromium';
import type { Result } from '../bench';
import { ensureBuild } from '../serve';

const share = (values: number[], p: number) =>
  values.toSorted((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * p))];

export async function pointerToPixel(): Promise<Result[]> {
  await ensureBuild(() => undefined);
  const stop = await startApp(2048);
  const browser = await chromium.launch(CHROMIUM);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${address()}/pieces/demo-lantern`);
    await page.getByTestId('bench').waitFor({ timeout: 120_000 });
    await page.waitForTimeout(8000);
    const box = (await page.getByTestId('pane-model').boundingBox())!;
    // As text: the loader of this file adds helpers to functions that the page would not know.
    await page.evaluate(
      'window.brindleFrames = []; const tick = (t) => { window.brindleFrames.push(t); requestAnimationFrame(tick); }; requestAnimationFrame(tick);',
    );
    await page.mouse.move(box.x + 280, box.y + 300);
    await page.mouse.down({ button: 'right' });
    for (let i = 0; i < 20; i++) await page.mouse.move(box.x + 280 + i, box.y + 300);
    await page.mouse.up({ button: 'right' });
    const frames = (await page.evaluate('window.brindleFrames.slice(2)')) as number[];
    const gaps = frames.slice(1).map((t, i) => t - frames[i]);
    await page.mouse.move(box.x + 190, box.y + 260);
    await page.mouse.down();
    for (let i = 0; i < 60; i++) await page.mouse.move(box.x + 190 + i * 3, box.y + 260 + 15 * Math.sin(i / 6));
    await page.mouse.up();
    await page.waitForTimeout(1500);
    const times = (await page.evaluate(
      "performance.getEntriesByName('brindle:pointer-to-pixel').map((e) => e.duration)",
    )) as number[];
    const frame = share(gaps, 0.5);
    return [['pointer-to-pixel p50', share(times, 0.5)] as const, ['pointer-to-pixel p95', share(times, 0.95)] as const].map(
      ([name, value]) => ({
        name,
        value,
        unit: 'ms',
        reference: 'time of a frame while turning',
        referenceValue: frame,
        ratio: value / frame,
      }),
    );
  } finally {
    await browser.close();
    await stop();
  }
}
