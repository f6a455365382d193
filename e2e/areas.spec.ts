import { expect, test, type Page } from '@playwright/test';
import sharp from 'sharp';
import { coveredTiles, keptAfterStroke, layerIdOf, makeCanvas, makeCube, still, stored, storedTile, stroke } from './helpers';

const lay = (page: Page, name: RegExp) =>
  page.getByRole('group', { name: 'How paint is laid' }).getByRole('button', { name }).click();
const ALL = async (id: string, plane: string) => [...(await coveredTiles(id, plane)).values()].reduce((a, b) => a + b, 0);

/** A place of the flat sheet as a share of its pane: the sheet is fitted into it. */
async function flatShare(page: Page, side: number): Promise<(x: number, y: number) => [number, number]> {
  const pane = (await page.getByTestId('pane-flat').boundingBox())!;
  const zoom = Math.min((pane.width - 32) / side, (pane.height - 32) / side);
  return (x, y) => [0.5 + ((x - side / 2) * zoom) / pane.width, 0.5 + ((y - side / 2) * zoom) / pane.height];
}

test('shapes, a gradient and fills on a canvas: what is drawn is what the database has; undone by one step each', async ({
  page,
}) => {
  const id = await makeCanvas(page, 'Areas');
  const plane = `${await layerIdOf(id, 'Hand')}/base-colour`;
  const at = await flatShare(page, 256);
  await lay(page, /^Rectangle/);
  await stroke(page, 'flat', [at(40, 40), at(120, 90)]);
  await keptAfterStroke(page);
  const covered = await ALL(id, plane);
  expect(covered / (80 * 50)).toBeGreaterThan(0.93);
  expect(covered / (80 * 50)).toBeLessThan(1.07);
  const tile = (await storedTile(id, plane, 0))!;
  expect(tile[(60 * 128 + 80) * 4 + 3]).toBe(65535);
  expect(tile[(20 * 128 + 80) * 4 + 3]).toBe(0);

  // The numbers are shown while it is drawn; Escape takes it back.
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const [x, y] = at(20, 200);
  await page.mouse.move(box.x + x * box.width, box.y + y * box.height);
  await page.mouse.down();
  await page.mouse.move(box.x + x * box.width + 60, box.y + y * box.height - 30, { steps: 3 });
  await expect(page.getByTestId('area')).toContainText(/× \d+ tx/);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect(page.getByTestId('area')).toHaveCount(0);
  expect((await stored(id)).position).toBe(1);

  // A polygon by clicks, closed by Enter; a lasso around nothing is told.
  await lay(page, /^Polygon/);
  for (const [px, py] of [
    [150, 150],
    [230, 150],
    [190, 230],
  ]) {
    const [sx, sy] = at(px, py);
    await page.mouse.click(box.x + sx * box.width, box.y + sy * box.height);
  }
  await page.keyboard.press('Enter');
  await keptAfterStroke(page);
  const more = (await ALL(id, plane)) - covered;
  expect(more / ((80 * 80) / 2)).toBeGreaterThan(0.9);
  expect(more / ((80 * 80) / 2)).toBeLessThan(1.1);
  await lay(page, /^Lasso/);
  await stroke(page, 'flat', [at(20, 20), at(21, 20)], 1);
  await expect(page.getByText('A lasso goes around something')).toBeVisible();

  // What looks the same is filled where it hangs together: all around the shapes.
  await lay(page, /^Fill the same colour/);
  const [fx, fy] = at(10, 10);
  await page.mouse.click(box.x + fx * box.width, box.y + fy * box.height);
  await expect.poll(async () => (await stored(id)).position).toBe(3);
  await keptAfterStroke(page);
  expect(await ALL(id, plane)).toBe(256 * 256);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => ALL(id, plane)).toBe(covered + more);
});

test('a turned and flipped sheet is painted under the pen, and laid straight by a key', async ({ page }) => {
  const id = await makeCanvas(page, 'Turned');
  const plane = `${await layerIdOf(id, 'Hand')}/base-colour`;
  await page.mouse.move(640, 400);
  for (let n = 0; n < 6; n++) await page.keyboard.press('Shift+BracketRight');
  await page.keyboard.press('Shift+M');
  await expect(page.getByRole('button', { name: '90°' })).toBeVisible();
  // Turned by 90° and seen in a mirror: right of the middle on the screen is above it in the sheet.
  await stroke(page, 'flat', [
    [0.7, 0.5],
    [0.72, 0.5],
  ]);
  await keptAfterStroke(page);
  const tile = (await storedTile(id, plane, 0)) ?? new Uint16Array(65536);
  const other = (await storedTile(id, plane, 256)) ?? new Uint16Array(65536);
  const count = (t: Uint16Array) => t.filter((v, i) => i % 4 === 3 && v > 0).length;
  expect(Math.abs(count(tile) - count(other))).toBeGreaterThan(20);
  await page.keyboard.press('Shift+K');
  await expect(page.getByRole('button', { name: '90°' })).toHaveCount(0);
});

test('a fence by one click limits fills, reads as a sentence, survives a reload, becomes a mask, and says when nothing is left', async ({
  page,
}) => {
  const id = await makeCube(page, 'Fenced');
  const plane = `${await layerIdOf(id, 'Hand')}/base-colour`;
  const at = await flatShare(page, 256);
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const click = async (x: number, y: number) => {
    const [sx, sy] = at(x, y);
    await page.mouse.click(box.x + sx * box.width, box.y + sy * box.height);
  };
  // Held O and Ctrl: only this island.
  await page.keyboard.down('o');
  await page.keyboard.down('Control');
  await click(42, 42);
  await page.keyboard.up('Control');
  await page.keyboard.up('o');
  const chip = page.getByRole('button', { name: /^Fence:/ });
  await expect(chip).toHaveAccessibleName(/Only one island/);
  await lay(page, /^Fill\. /);
  await page.getByLabel('What a click fills').selectOption('sheet');
  await click(200, 200);
  await keptAfterStroke(page);
  const filled = await ALL(id, plane);
  // An island is 0.27 of a side wide, with a gutter of four texels around it.
  expect(filled).toBeGreaterThan((0.27 * 256) ** 2);
  expect(filled).toBeLessThan((0.27 * 256 + 12) ** 2);

  await page.reload();
  await still(page);
  await expect(chip).toHaveAccessibleName(/Only one island/);
  // Outside it says so, and nothing is painted.
  await lay(page, /^Strokes/);
  await stroke(page, 'flat', [at(200, 200), at(210, 200)]);
  await expect(page.getByText('The fence lets nothing through there')).toBeVisible();
  expect(await ALL(id, plane)).toBe(filled);

  await chip.click();
  await page.getByRole('switch', { name: 'Invert' }).click();
  await expect(chip).toHaveAccessibleName(/All but one island/);
  await page.getByRole('button', { name: 'More about the fence' }).click();
  await page.getByRole('menuitem', { name: 'Keep it under a name' }).click();
  await expect(page.getByRole('group', { name: 'Kept fences' })).toContainText('Fence');
  await page.getByRole('button', { name: 'More about the fence' }).click();
  await page.getByRole('menuitem', { name: 'Make it the layer’s mask' }).click();
  await keptAfterStroke(page);
  const { document } = (await stored(id)) as unknown as {
    document: { sheets: { masks: { steps: { source: { type: string } }[]; invert: boolean }[]; fences: unknown[] }[] };
  };
  const [sheet] = document.sheets;
  expect(sheet.masks[0]).toMatchObject({ invert: true, steps: [{ source: { type: 'islands', ids: [0] } }] });
  expect(sheet.fences).toHaveLength(1);
});

test('faces are hidden by the fence and come back: what is hidden is neither seen nor painted', async ({ page }) => {
  const id = await makeCube(page, 'Hidden');
  const plane = `${await layerIdOf(id, 'Hand')}/base-colour`;
  const at = await flatShare(page, 256);
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const [sx, sy] = at(42, 42);
  await page.keyboard.down('o');
  await page.keyboard.down('Control');
  await page.mouse.click(box.x + sx * box.width, box.y + sy * box.height);
  await page.keyboard.up('Control');
  await page.keyboard.up('o');
  await expect(page.getByRole('button', { name: /^Fence:/ })).toHaveAccessibleName(/one island/);
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder(/./).first().fill('Hide what the fence');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: /faces hidden/ })).toBeVisible();
  await page.keyboard.press('Shift+O');
  await lay(page, /^Fill\. /);
  await page.getByLabel('What a click fills').selectOption('material');
  const [fx, fy] = at(200, 42);
  await page.mouse.click(box.x + fx * box.width, box.y + fy * box.height);
  await keptAfterStroke(page);
  const tile = (await storedTile(id, plane, 0))!;
  expect(tile[(42 * 128 + 42) * 4 + 3]).toBe(0);
  expect(tile[(42 * 128 + 120) * 4 + 3]).toBe(65535);
  await page.getByRole('button', { name: /faces hidden/ }).click();
  await page.getByRole('button', { name: /^Show all/ }).click();
  await expect(page.getByRole('button', { name: /faces hidden/ })).toHaveCount(0);
});

test('a picture is a stencil: its ghost lies over the sheet, its colours are painted there and nowhere else, and it is kept', async ({
  page,
}) => {
  const id = await makeCanvas(page, 'Stencilled');
  const plane = `${await layerIdOf(id, 'Hand')}/base-colour`;
  const at = await flatShare(page, 256);
  const png = await sharp({ create: { width: 64, height: 64, channels: 4, background: { r: 20, g: 90, b: 200, alpha: 1 } } })
    .png()
    .toBuffer();
  await page.getByRole('button', { name: /^Stencil: / }).click();
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    page.getByRole('button', { name: 'Picture', exact: true }).click(),
  ]);
  await chooser.setFiles({ name: 'glass blue.png', mimeType: 'image/png', buffer: png });
  await expect(page.getByRole('switch', { name: 'glass blue' })).toHaveAttribute('aria-checked', 'true');
  await page.getByLabel('Paints').selectOption('colour');
  await expect(page.getByTestId('stencil')).toBeVisible();
  await page.keyboard.press('Escape');
  await lay(page, /^Fill\. /);
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const [fx, fy] = at(10, 10);
  await page.mouse.click(box.x + fx * box.width, box.y + fy * box.height);
  await keptAfterStroke(page);
  // It begins in the middle of the canvas, four tenths of its side high.
  const side = 0.4 * 256;
  const covered = await ALL(id, plane);
  expect(covered / side ** 2).toBeGreaterThan(0.97);
  expect(covered / side ** 2).toBeLessThan(1.05);
  const tile = (await storedTile(id, plane, 0))!;
  const o = (110 * 128 + 110) * 4;
  expect([...tile.subarray(o, o + 4)].map((v) => Math.round(v / 257))).toEqual([20, 90, 200, 255]);

  // The handle moves it; undo brings it back; after a reload it is still there.
  const handle = page.locator('[data-handle="stencil-middle"]');
  const before = (await handle.boundingBox())!;
  await page.mouse.move(before.x + before.width / 2, before.y + before.height / 2);
  await page.mouse.down();
  await page.mouse.move(before.x + 40, before.y + 20, { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => Math.abs((await handle.boundingBox())!.x - before.x) > 15).toBe(true);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => Math.abs((await handle.boundingBox())!.x - before.x) < 1).toBe(true);
  await page.reload();
  await still(page);
  await page.getByRole('button', { name: /^Stencil: / }).click();
  await expect(page.getByRole('switch', { name: 'glass blue' })).toBeVisible();
});

test('the well is chosen in OKLCH by hand and keys, its tones lie beside it, and colours that no surface has are marked', async ({
  page,
}) => {
  await makeCanvas(page, 'Tones');
  const well = page.getByTestId('well');
  const tones = page.getByRole('listbox', { name: 'Tone steps' });
  await expect(tones.getByRole('option', { name: /^Tone/ })).toHaveCount(11);
  const first = await well.getAttribute('aria-label');
  await tones.getByRole('option', { name: /^Tone -3/ }).click();
  await expect(well).not.toHaveAttribute('aria-label', first!);
  await well.click();
  const picker = page.getByTestId('picker');
  await picker.focus();
  const dark = await well.getAttribute('aria-label');
  for (let n = 0; n < 5; n++) await page.keyboard.press('Shift+ArrowUp');
  await expect(well).not.toHaveAttribute('aria-label', dark!);
  await page.getByLabel('Active well, hex').fill('#000000');
  await page.getByLabel('Active well, hex').press('Enter');
  await expect(page.getByText('Darker than any real surface')).toBeVisible();
});
