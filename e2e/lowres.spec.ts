import { expect, test } from '@playwright/test';
import { keptAfterStroke, makeCanvas, shownAtAll, still, stroke } from './helpers';

const apart = (a: number[], b: number[]) => Math.max(...a.slice(0, 3).map((v, k) => Math.abs(v - b[k])));

test('a small sheet shows its texels as squares on the model, a larger one blends them', async ({ page }) => {
  /** Pixels of a row of the model pane that are neither of the two colours beside an edge. */
  const between = async (side: number): Promise<number> => {
    await makeCanvas(page, `Small ${side}`, side, side, false);
    await page
      .getByRole('group', { name: 'How paint is laid' })
      .getByRole('button', { name: /^Rectangle/ })
      .click();
    const pane = (await page.getByTestId('pane-flat').boundingBox())!;
    const zoom = Math.min((pane.width - 32) / side, (pane.height - 32) / side);
    const at = (share: number): [number, number] => [
      0.5 + ((share - 0.5) * side * zoom) / pane.width,
      0.5 + ((share - 0.5) * side * zoom) / pane.height,
    ];
    await stroke(page, 'flat', [at(0.25), at(0.75)]);
    await keptAfterStroke(page);
    await page.getByRole('radio', { name: 'Colour', exact: true }).click();
    // Near enough that a texel is many pixels.
    const model = (await page.getByTestId('pane-model').boundingBox())!;
    await page.mouse.move(model.x + model.width / 2, model.y + model.height / 2);
    for (let n = 0; n < 4; n++) await page.mouse.wheel(0, -240);
    await still(page);
    const row = await shownAtAll(
      page,
      'model',
      Array.from({ length: Math.floor(model.width) - 4 }, (_, x) => [(x + 2) / model.width, 0.4] as [number, number]),
    );
    const middle = row[Math.floor(row.length / 2)];
    const first = row.find((p) => apart(p, middle) > 60);
    expect(first).toBeDefined();
    return row.filter((p) => apart(p, middle) > 8 && apart(p, first!) > 8).length;
  };
  const small = await between(64);
  expect(small).toBeLessThanOrEqual(4);
  expect(await between(256)).toBeGreaterThan(small);
});

test('as many repeats as are asked for lie around a canvas that wraps', async ({ page }) => {
  await makeCanvas(page, 'Around', 128, 128);
  await page.getByRole('button', { name: 'Repeats in the flat pane' }).click();
  const card = page.getByRole('dialog', { name: 'Repeats in the flat pane' });
  await card.getByRole('textbox').first().fill('6');
  await card.getByRole('textbox').first().press('Enter');
  await page.keyboard.press('Escape');
  // Odd, so that the sheet lies in the middle.
  await expect(page.getByRole('button', { name: 'Repeats in the flat pane' })).toHaveText('7 × 3');
});
