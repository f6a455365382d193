import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import type { Layer } from '../src/core/document/schema';
import { kept, makeCanvas, makeCube, shownAt, still, stored } from './helpers';

/** Twice as wide as high: red left, green right, nothing in the right quarter. */
const sign = () =>
  sharp(
    Buffer.from(
      '<svg xmlns="http://www.w3.org/2000/svg" width="128" height="64"><rect width="64" height="64" fill="#e01010"/><rect x="64" width="32" height="64" fill="#10c010"/></svg>',
    ),
  )
    .png()
    .toBuffer();

const decalOf = async (id: string) => {
  const layers = (await stored(id)).document.sheets[0].layers as unknown as Pick<Layer, 'placement'>[];
  return layers.find((l) => l.placement?.by === 'decal');
};

test('a decal comes to lie in the middle of the view, moves by its handle, sizes, and goes by undo', async ({ page }) => {
  const id = await makeCube(page, 'Signed');
  const before = await shownAt(page, 'model', 0.5, 0.5);
  await page.getByRole('button', { name: 'Add a layer of another kind' }).click();
  const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.getByRole('menuitem', { name: /^Decal/ }).click()]);
  await chooser.setFiles({ name: 'harbour sign.png', mimeType: 'image/png', buffer: await sign() });
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('switch', { name: /^As a decal/ })).toBeChecked();
  await dialog.getByRole('button', { name: 'Lay down' }).click();
  await expect(dialog).toHaveCount(0);
  await kept(page);
  await still(page);
  const laid = (await decalOf(id))!.placement!;
  expect(laid.aspect).toBe(2);
  // On the cube's skin: one of its coordinates is half a metre.
  expect(Math.max(...laid.centre.map(Math.abs))).toBeCloseTo(0.5, 3);
  // Left of the middle red, right of it green.
  const left = await shownAt(page, 'model', 0.47, 0.53);
  expect(left[0]).toBeGreaterThan(left[1] + 60);
  const right = await shownAt(page, 'model', 0.52, 0.53);
  expect(right[1]).toBeGreaterThan(right[0] + 60);

  // Its middle is a handle: dragged it goes over the surface, and what it covered is as it was.
  const handle = page.getByTestId('handles-model').getByRole('slider', { name: /^Middle/ });
  const box = (await handle.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + 20, y + 60, { steps: 4 });
  await page.mouse.up();
  await kept(page);
  await still(page);
  const moved = (await decalOf(id))!.placement!;
  expect(Math.hypot(...moved.centre.map((v, k) => v - laid.centre[k]))).toBeGreaterThan(0.05);
  expect(Math.max(...moved.centre.map(Math.abs))).toBeCloseTo(0.5, 2);
  // Following the surface it has no depth; its middle stays where it is.
  await page.getByRole('switch', { name: 'Follow the surface' }).click();
  await expect(page.getByRole('textbox', { name: 'Depth' })).toHaveCount(0);
  await kept(page);
  expect((await decalOf(id))!.placement).toMatchObject({ follow: true, centre: moved.centre });
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('textbox', { name: 'Depth' })).toBeVisible();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await kept(page);
  await still(page);
  expect(await decalOf(id)).toBeUndefined();
  const after = await shownAt(page, 'model', 0.5, 0.5);
  after.forEach((v, k) => expect(Math.abs(v - before[k])).toBeLessThan(4));
});

test('on a canvas a decal is refused in one sentence', async ({ page }) => {
  await makeCanvas(page, 'No model');
  await page.getByRole('button', { name: 'Add a layer of another kind' }).click();
  await page.getByRole('menuitem', { name: /^Decal/ }).click();
  await expect(page.getByText(/A decal lies on a model, and this piece is a canvas/)).toBeVisible();
});
