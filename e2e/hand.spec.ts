/** The hand: what a brush is set to above the hand is what its strokes do. */
import { expect, test } from '@playwright/test';
import { keptAfterStroke, layerIdOf, makeCanvas, Pen, storedTile, stroke } from './helpers';

/** Coverage of a row of a tile's colour paint. */
const coverage = (tile: Uint16Array, x: number, y: number) => tile[(y * 128 + x) * 4 + 3] / 65535;

test('a square tip on the texel grid, chosen above the hand, paints whole texels, and the card says so', async ({ page }) => {
  const id = await makeCanvas(page, 'Grid');
  const layer = await layerIdOf(id, 'Hand');
  const card = page.getByRole('button', { name: /^Brush:/ });
  await expect(card).toContainText('Size by pressure.');
  await card.click();
  const panel = page.getByRole('dialog', { name: 'Brush' });
  await panel.getByRole('radio', { name: 'This brush' }).click();
  const sample = panel.getByRole('img', { name: 'A stroke of this brush' }).locator('canvas');
  await expect(sample).toBeVisible();
  await panel.getByRole('radio', { name: 'Square' }).click();
  await panel.getByRole('switch', { name: 'Texel grid' }).click();
  await panel.getByRole('button', { name: 'Remove: Size by pressure' }).click();
  await expect(card).toContainText('Square, on the texel grid.');

  // The panel stays while its owner paints.
  await stroke(
    page,
    'flat',
    [
      [0.3, 0.3],
      [0.45, 0.3],
    ],
    10,
  );
  await keptAfterStroke(page);
  await expect(panel).toBeVisible();
  const tile = (await storedTile(id, `${layer}/base-colour`, 0))!;
  const rows = new Set<number>();
  const between: number[] = [];
  for (let y = 0; y < 128; y++)
    for (let x = 0; x < 128; x++) {
      const c = coverage(tile, x, y);
      if (c > 0) rows.add(y);
      // By flow a stroke builds up, but each dab covers a texel wholly or not at all: a row is even along its middle.
      if (x === 90) between.push(c);
    }
  const covered = between.filter((c) => c > 0);
  expect(covered.length).toBe(rows.size);
  expect(new Set(covered).size).toBe(1);

  await page.keyboard.press('Escape');
  await expect(panel).toBeHidden();
  // It is the artist's: another piece finds the same brush in hand.
  await makeCanvas(page, 'Another');
  await expect(page.getByRole('button', { name: /^Brush:/ })).toContainText('Square, on the texel grid.');
});

test('a line that is added by hand tapers the pen’s stroke', async ({ page }) => {
  const id = await makeCanvas(page, 'Taper');
  const layer = await layerIdOf(id, 'Hand');
  await page.getByRole('button', { name: /^Brush:/ }).click();
  const panel = page.getByRole('dialog', { name: 'Brush' });
  await panel.getByRole('radio', { name: 'This brush' }).click();
  await panel.getByRole('button', { name: 'Vary more' }).click();
  await panel.getByLabel('Driven by').selectOption('length');
  await expect(panel.getByRole('button', { name: 'Size to nothing over 10 diameters', exact: true })).toBeVisible();
  await panel.getByLabel('Counted in').selectOption('texels');
  const over = panel.getByRole('textbox', { name: 'Over' });
  await over.fill('60');
  await over.press('Enter');
  await expect(panel.getByRole('button', { name: 'Size to nothing over 60 texels', exact: true })).toBeVisible();
  await page.keyboard.press('Escape');

  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const way = Array.from({ length: 13 }, (_, n): [number, number, number] => [
    box.x + box.width * (0.2 + n * 0.04),
    box.y + box.height * 0.35,
    1,
  ]);
  await (await Pen.on(page)).stroke(way);
  await keptAfterStroke(page);
  const tiles = [await storedTile(id, `${layer}/base-colour`, 0), await storedTile(id, `${layer}/base-colour`, 1)];
  const thick = Array.from({ length: 256 }, (_, x) => {
    const tile = tiles[x >> 7];
    return tile ? Array.from({ length: 128 }, (_, y) => coverage(tile, x & 127, y)).filter((c) => c > 0.2).length : 0;
  });
  const begins = thick.findIndex((n) => n > 0);
  const widest = Math.max(...thick);
  expect(widest).toBeGreaterThan(8);
  expect(thick[begins + 45]).toBeLessThan(widest * 0.6);
  expect(thick[begins + 45]).toBeGreaterThan(0);
});

test('mirrored strokes: the chip says how, the ring shows its images, the other half is painted', async ({ page }) => {
  const id = await makeCanvas(page, 'Mirrored');
  const layer = await layerIdOf(id, 'Hand');
  await page.keyboard.press('y');
  const chip = page.getByRole('button', { name: /^Mirror:/ });
  await expect(chip).toHaveText('X');
  await chip.click();
  const panel = page.getByRole('dialog', { name: 'Mirror' });
  await panel.getByRole('button', { name: 'Y', exact: true }).click();
  await expect(panel.getByText('Across X and Y.')).toBeVisible();
  await page.keyboard.press('Escape');
  await stroke(
    page,
    'flat',
    [
      [0.3, 0.35],
      [0.4, 0.35],
    ],
    8,
  );
  const ring = page.getByTestId('pane-flat').locator('xpath=..').locator('svg[aria-hidden] g path').first();
  expect(((await ring.getAttribute('d')) ?? '').match(/M[^M]*a/g)).toHaveLength(4);
  await keptAfterStroke(page);
  const tiles = await Promise.all([0, 1, 256, 257].map((t) => storedTile(id, `${layer}/base-colour`, t)));
  const at = (x: number, y: number) => coverage(tiles[(y >> 7) * 2 + (x >> 7)]!, x & 127, y & 127);
  let covered = 0;
  let worst = 0;
  for (let y = 0; y < 128; y++)
    for (let x = 0; x < 128; x++) {
      if (at(x, y) > 0.5) covered++;
      for (const other of [at(255 - x, y), at(x, 255 - y), at(255 - x, 255 - y)])
        worst = Math.max(worst, Math.abs(other - at(x, y)));
    }
  expect(covered).toBeGreaterThan(100);
  expect(worst).toBeLessThan(2 / 255);
});

test('a mirror through a place of one’s own: its plane is dragged by its handle, and strokes follow', async ({ page }) => {
  const id = await makeCanvas(page, 'Off the middle');
  const layer = await layerIdOf(id, 'Hand');
  await page.keyboard.press('y');
  const handle = page.getByRole('slider', { name: 'Mirror across X: drag, or arrow keys' });
  const at = (await handle.locator('circle').last().boundingBox())!;
  const [x, y] = [at.x + at.width / 2, at.y + at.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 40, y, { steps: 4 });
  await page.mouse.up();
  await page.getByRole('button', { name: /^Mirror:/ }).click();
  const panel = page.getByRole('dialog', { name: 'Mirror' });
  await expect(panel.getByRole('radio', { name: 'Own' })).toHaveAttribute('aria-checked', 'true');
  const through = Number(await panel.getByRole('textbox', { name: 'X', exact: true }).inputValue());
  expect(through).toBeLessThan(120);
  const field = panel.getByRole('textbox', { name: 'X', exact: true });
  await field.fill('96');
  await field.press('Enter');
  await page.keyboard.press('Escape');
  await stroke(page, 'flat', [[0.25, 0.5], [0.3, 0.5]], 6); // prettier-ignore
  await keptAfterStroke(page);
  const tiles = await Promise.all([0, 1, 256, 257].map((t) => storedTile(id, `${layer}/base-colour`, t)));
  const covered = (tx: number, ty: number) => {
    const tile = tiles[(ty >> 7) * 2 + (tx >> 7)];
    return tile ? coverage(tile, tx & 127, ty & 127) : 0;
  };
  let painted = 0;
  let worst = 0;
  for (let ty = 0; ty < 256; ty++)
    for (let tx = 0; tx < 96; tx++) {
      if (covered(tx, ty) > 0.5) painted++;
      worst = Math.max(worst, Math.abs(covered(tx, ty) - covered(191 - tx, ty)));
    }
  expect(painted).toBeGreaterThan(50);
  expect(worst).toBeLessThan(2 / 255);
});

test('a tip out of what is seen: the rectangle is dragged, the tip paints what stood out in it', async ({ page }) => {
  const id = await makeCanvas(page, 'Seen');
  const layer = await layerIdOf(id, 'Hand');
  await stroke(page, 'flat', [[0.3, 0.3], [0.4, 0.3]], 4); // prettier-ignore
  await keptAfterStroke(page);
  await page.getByRole('button', { name: /^Brush:/ }).click();
  const panel = page.getByRole('dialog', { name: 'Brush' });
  await panel.getByRole('radio', { name: 'This brush' }).click();
  await panel.getByRole('radio', { name: 'Picture' }).click();
  await panel.getByRole('button', { name: /A tip out of what is seen/ }).click();
  await expect(page.getByText('Drag over what is to be the tip.').first()).toBeVisible();
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const at = (u: number, v: number): [number, number] => [box.x + box.width * u, box.y + box.height * v];
  // Esc ends it; then again.
  await page.keyboard.press('Escape');
  await expect(page.getByText('Drag over what is to be the tip.')).toHaveCount(0);
  await panel.getByRole('button', { name: /A tip out of what is seen/ }).click();
  await page.mouse.move(...at(0.22, 0.22));
  await page.mouse.down();
  await page.mouse.move(...at(0.48, 0.38), { steps: 3 });
  await expect(page.getByTestId('capture')).toBeVisible();
  await page.mouse.up();
  await expect(page.getByText('What stands out there is the tip now.')).toBeVisible();
  await expect(panel.getByLabel('Picture', { exact: true })).toHaveValue(/^[0-9a-f]{64}$/);
  await page.keyboard.press('Escape');
  await page.mouse.move(...at(0.5, 0.75));
  await page.mouse.down();
  await page.mouse.up();
  await keptAfterStroke(page);
  const tiles = await Promise.all([256, 257].map((t) => storedTile(id, `${layer}/base-colour`, t)));
  expect(tiles.some((tile) => tile !== null)).toBe(true);
});
