import { expect, test } from '@playwright/test';
import { keptAfterStroke, makeCanvas, openPiece, shownAtAll, still, stored, storedTile, stroke } from './helpers';

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

test('with a brush of the rack and a palette to keep to, only its colours come, in whole texels and patterns', async ({
  page,
}) => {
  const id = await makeCanvas(page, 'Sixteen', 64, 64, false);
  await page.getByRole('button', { name: /^Brush:/ }).click();
  const panel = page.getByRole('dialog', { name: 'Brush' });
  await panel.getByLabel('Find a brush').fill('rows');
  await panel.getByRole('button', { name: 'Dither rows', exact: true }).click();
  await page.keyboard.press('Escape');
  // A colour at hand, then another in the well.
  await page.getByTestId('well').click();
  await page.getByLabel('Hex').fill('#2255aa');
  await page.getByLabel('Hex').press('Enter');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Add to palette' }).click();
  await page.getByRole('button', { name: 'Palettes' }).click();
  await page.getByRole('switch', { name: 'Only these colours' }).click();
  await page.keyboard.press('Escape');
  await page.getByTestId('well').click();
  await page.getByLabel('Hex').fill('#335599');
  await page.getByLabel('Hex').press('Enter');
  await page.keyboard.press('Escape');
  await stroke(page, 'flat', [
    [0.4, 0.5],
    [0.6, 0.5],
  ]);
  await keptAfterStroke(page);
  const piece = await stored(id);
  const plane = `${piece.document.sheets[0].layers.at(-1)!.id}/base-colour`;
  const texels = (await storedTile(id, plane, 0))!;
  const rows = new Map<number, number>();
  for (let i = 0; i < texels.length / 4; i++) {
    if (texels[i * 4 + 3] === 0) continue;
    expect([...texels.subarray(i * 4, i * 4 + 4)]).toEqual([...[0x22, 0x55, 0xaa].map((v) => v * 257), 65535]);
    const row = Math.floor(i / 128);
    rows.set(row, (rows.get(row) ?? 0) + 1);
  }
  // Half the flow: every second row, the same in each.
  expect([...rows.keys()].every((row) => row % 2 === [...rows.keys()][0] % 2)).toBe(true);
  expect(rows.size).toBe(4);
  expect(new Set(rows.values()).size).toBe(1);
});

test('unlit, the buoy is shaded by its form; pressed again it is lit', async ({ page }) => {
  await openPiece(page, 'demo-buoy');
  const form = page.getByRole('button', { name: /^Unlit, with form/ });
  await page.getByRole('radio', { name: 'Colour', exact: true }).click();
  await still(page);
  const rows = Array.from({ length: 60 }, (_, n): [number, number] => [0.5, 0.1 + n * 0.0135]);
  const plain = await shownAtAll(page, 'model', rows);
  const sum = (of: number[][]) => of.flat().reduce((a, b) => a + b, 0);
  await form.click();
  await expect(form).toHaveAttribute('aria-pressed', 'true');
  // It takes a moment to find out what is hollow: under the cap, and where the tower stands on the deck.
  await expect.poll(async () => sum(await shownAtAll(page, 'model', rows))).not.toBe(sum(plain));
  const formed = await shownAtAll(page, 'model', rows);
  const darker = rows.filter((_, n) => sum([formed[n]]) < sum([plain[n]]) - 40).length;
  expect(darker).toBeGreaterThan(4);
  expect(darker).toBeLessThan(50);
  await form.click();
  await expect(page.getByRole('radio', { name: 'Lit', exact: true })).toBeChecked();
});
