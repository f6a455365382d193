/** Frames that a page draws. */
import type { Page } from '@playwright/test';

/** For a page, before it loads: counts the frames in which a pane was drawn. As text: the loader adds helpers that pages do not know. */
export const COUNT_FRAMES = `
  window.brindleDrawn = 0;
  let drawn = false;
  for (const name of ['drawElements', 'drawArrays']) {
    const real = WebGL2RenderingContext.prototype[name];
    WebGL2RenderingContext.prototype[name] = function (...given) { drawn = true; return real.apply(this, given); };
  }
  const tick = () => { if (drawn) window.brindleDrawn++; drawn = false; requestAnimationFrame(tick); };
  requestAnimationFrame(tick);
`;

const TURNED_MS = 3000;

/** Milliseconds a frame while the model is turned; `COUNT_FRAMES` runs in the page. */
export async function turning(page: Page, box: { x: number; y: number }): Promise<number> {
  await page.mouse.move(box.x + 280, box.y + 300);
  await page.mouse.down({ button: 'right' });
  await page.evaluate('window.brindleDrawn = 0');
  const start = performance.now();
  for (let i = 0; performance.now() < start + TURNED_MS; i++) {
    await page.mouse.move(box.x + 280 + (i % 40), box.y + 300);
    await page.waitForTimeout(8);
  }
  const drawn = (await page.evaluate('window.brindleDrawn')) as number;
  const each = (performance.now() - start) / Math.max(1, drawn);
  await page.mouse.up({ button: 'right' });
  return each;
}
