/** Frames while the model is turned with a fence on and its hatch drawn, beside frames without, in the real page. */
import { turning } from './frames';
import { median } from './timing';
import { onBench } from './pointerToPixel';
import { result, type Result } from './result';

export function fenceHatch(): Promise<Result[]> {
  return onBench(async (page, box) => {
    // Only the part in the middle: most of what is seen is hatched.
    await page.keyboard.down('o');
    await page.mouse.click(box.x + 280, box.y + 260);
    await page.keyboard.up('o');
    await page.waitForTimeout(8000);
    const times = { on: [] as number[], off: [] as number[] };
    for (let n = 0; n < 5; n++)
      for (const which of ['on', 'off'] as const) {
        times[which].push(await turning(page, box));
        await page.keyboard.press('o');
        await page.waitForTimeout(5000);
      }
    return [result('fence-hatch', median(times.on), 'ms', 'a frame without a fence', median(times.off))];
  });
}
