/**
 * From a pointer event to the texels on the graphics card, in the real page at 2048²: a stroke over the lantern, and a
 * slider of its strata, with the mouse of the browser itself. The reference is the time between two frames while the
 * same pane is merely turned: what the machine needs for drawing alone. Also the longest task of the page's own thread
 * while three seconds of each go on.
 */
import { chromium, type Page } from '@playwright/test';
import { address, startApps } from '../../e2e/app';
import { CHROMIUM } from '../../e2e/chromium';
import { COUNT_FRAMES, turning } from './frames';
import type { Result } from './result';
import { ensureBuild } from '../serve';

export const share = (values: number[], p: number) =>
  values.toSorted((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * p))];

/** Runs with the lantern open and drawn; gives the time of a frame while the model is turned. */
export async function onBench<T>(work: (page: Page, box: { x: number; y: number }, frame: number) => Promise<T>): Promise<T> {
  await ensureBuild(() => undefined);
  const stop = await startApps(2048, 1);
  const browser = await chromium.launch(CHROMIUM);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(COUNT_FRAMES);
    await page.goto(`${address()}/pieces/demo-lantern`);
    await page.getByTestId('bench').waitFor({ timeout: 120_000 });
    // Until all is drawn exactly.
    await page.waitForTimeout(45_000);
    const box = (await page.getByTestId('pane-model').boundingBox())!;
    const frame = await turning(page, box);
    await page.evaluate(
      "window.brindleTasks = []; new PerformanceObserver((l) => window.brindleTasks.push(...l.getEntries().map((e) => e.duration))).observe({ type: 'longtask' });",
    );
    return await work(page, box, frame);
  } finally {
    await browser.close();
    await stop();
  }
}

const longest = async (page: Page): Promise<number> =>
  (await page.evaluate('Math.max(0, ...window.brindleTasks.splice(0))')) as number;

const against =
  (frame: number) =>
  (name: string, value: number): Result => ({
    name,
    value,
    unit: 'ms',
    reference: 'time of a frame while turning',
    referenceValue: frame,
    ratio: value / frame,
  });

export function pointerToPixel(): Promise<Result[]> {
  return onBench(async (page, box, frame) => {
    await page.mouse.move(box.x + 190, box.y + 260);
    await page.mouse.down();
    for (let i = 0; i < 180; i++) {
      await page.mouse.move(box.x + 190 + i, box.y + 260 + 15 * Math.sin(i / 6));
      await page.waitForTimeout(10);
    }
    await page.mouse.up();
    await page.waitForTimeout(1500);
    const times = (await page.evaluate(
      "performance.getEntriesByName('brindle:pointer-to-pixel').map((e) => e.duration)",
    )) as number[];
    const of = against(frame);
    return [
      of('pointer-to-pixel p50', share(times, 0.5)),
      of('pointer-to-pixel p95', share(times, 0.95)),
      of('longest task during a stroke', await longest(page)),
    ];
  });
}

/** From asking for a bake of the lantern to its first try in the panes: the very first one of the page, and one from its dense model. */
export function bakeFirstTry(): Promise<Result[]> {
  return onBench(async (page, _box, frame) => {
    await page.keyboard.press('Control+b');
    // Nobody finds the menu sooner; the page uses it to make itself ready.
    await page.waitForTimeout(1000);
    const tried = async (what: string): Promise<number> => {
      await page.getByRole('button', { name: 'Add a map' }).click();
      const item = page.getByRole('menuitem', { name: what, exact: true });
      await item.waitFor();
      await page.evaluate(
        "window.brindleAsked = null; window.addEventListener('pointerup', (e) => (window.brindleAsked ??= e.timeStamp), { capture: true, once: true });",
      );
      await item.click();
      return (await page.evaluate(`(async () => {
        for (;;) {
          const tried = performance.getEntriesByName('brindle:bake-tried').at(-1)?.startTime ?? 0;
          const shown = performance.getEntriesByName('brindle:pixels').find((e) => e.startTime > tried)?.startTime;
          if (tried > window.brindleAsked && shown) return shown - window.brindleAsked;
          await new Promise((resolve) => setTimeout(resolve, 20));
        }
      })()`)) as number;
    };
    const of = against(frame);
    const first = of('bake-first-try', await tried('Position'));
    // Until the dense model that the lantern is baked from has been read.
    await page.waitForTimeout(8000);
    return [first, of('bake-first-try-dense', await tried('Bent normal'))];
  });
}

/** From the last move of a drag of the opacity slider to the first texels that come of it. */
export function sliderToPixel(): Promise<Result[]> {
  return onBench(async (page, _box, frame) => {
    await page.getByRole('row', { name: 'Verdigris, coat', exact: true }).getByTestId('layer-name').click();
    await page.waitForTimeout(3000);
    const slider = page.getByRole('slider', { name: 'Opacity' }).first();
    const track = (await slider.boundingBox())!;
    await page.evaluate(
      "window.brindleMoved = []; window.addEventListener('pointermove', (e) => window.brindleMoved.push(e.timeStamp), true);",
    );
    await longest(page);
    await page.mouse.move(track.x + track.width * 0.9, track.y + track.height / 2);
    await page.mouse.down();
    for (let i = 0; i < 60; i++) {
      await page.mouse.move(track.x + track.width * (0.9 - (0.5 * i) / 60), track.y + track.height / 2);
      await page.waitForTimeout(40);
    }
    await page.mouse.up();
    await page.waitForTimeout(2500);
    const times = (await page.evaluate(`(() => {
      const shown = performance.getEntriesByName('brindle:pixels').map((e) => e.startTime);
      return window.brindleMoved.map((t) => shown.find((s) => s > t) - t).filter((d) => d > 0);
    })()`)) as number[];
    const of = against(frame);
    return [
      of('slider-to-pixel p50', share(times, 0.5)),
      of('slider-to-pixel p95', share(times, 0.95)),
      of('longest task during a drag', await longest(page)),
    ];
  });
}
