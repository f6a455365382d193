import { expect, test } from '@playwright/test';
import {
  coveredTiles,
  kept,
  keptAfterStroke,
  layerIdOf,
  makeCanvas,
  makeCubeByHand,
  Pen,
  shownAt,
  stored,
  storedTile,
  stroke,
} from './helpers';

const orangeish = ([r, g, b]: number[]) => r > g + 40 && r > b + 40;

test('a model is imported, painted across a seam, undone, reloaded and redone; both islands have the paint', async ({ page }) => {
  const id = await makeCubeByHand(page, 'Seam cube');
  const layer = await layerIdOf(id, 'Hand');
  // Look straight at the edge between two sides, so that the stroke crosses it.
  await page.getByRole('button', { name: 'front', exact: true }).click();
  const pane = (await page.getByTestId('pane-model').boundingBox())!;
  await page.mouse.move(pane.x + 300, pane.y + 300);
  await page.mouse.down({ button: 'right' });
  await page.mouse.move(pane.x + 300 - pane.height / 4, pane.y + 300, { steps: 4 });
  await page.mouse.up({ button: 'right' });
  await stroke(
    page,
    'model',
    [
      [0.35, 0.5],
      [0.65, 0.5],
    ],
    12,
  );
  await keptAfterStroke(page);
  expect((await stored(id)).position).toBe(1);

  // Islands of the front (left third) and of the right side (right third) of the upper half of a 256 sheet.
  const isPainted = async (x: number, y: number) => {
    const tile = await storedTile(id, `${layer}/base-colour`, (y >> 7) * 256 + (x >> 7));
    return tile ? tile[((y & 127) * 128 + (x & 127)) * 4 + 3] / 65535 : 0;
  };
  const middle = Math.round(0.165 * 256);
  const frontEdge = Math.round(0.3 * 256);
  const sideEdge = Math.round((2 / 3 + 0.03) * 256);
  for (const x of [frontEdge - 12, frontEdge - 2, frontEdge + 1]) expect(await isPainted(x, middle)).toBeGreaterThan(0.5);
  for (const x of [sideEdge - 2, sideEdge + 1, sideEdge + 12]) expect(await isPainted(x, middle)).toBeGreaterThan(0.5);
  // The side between them on the sheet (the back) stays clean.
  expect(await isPainted(Math.round(0.5 * 256), middle)).toBe(0);
  expect(orangeish(await shownAt(page, 'flat', 0.5, 0.5 - 0.335 * 0.55))).toBe(false);

  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: /^Undo/ })).toBeDisabled();
  await kept(page);
  expect([...(await coveredTiles(id, `${layer}/base-colour`))]).toEqual([]);

  await page.reload();
  await expect(page.getByTestId('bench')).toBeVisible({ timeout: 90_000 });
  await page.keyboard.press('Control+Shift+z');
  await keptAfterStroke(page);
  expect(await isPainted(frontEdge - 2, middle)).toBeGreaterThan(0.5);
});

test('paint runs over the border of a tile and comes in on the other side', async ({ page }) => {
  const id = await makeCanvas(page, 'Border tile');
  const layer = await layerIdOf(id, 'Hand');
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  // The sheet is fitted with 16 px around it: its right border lies 16 px from the pane's side.
  const side = box.width - 32;
  const right = (16 + side) / box.width;
  await stroke(
    page,
    'flat',
    [
      [right - 0.1, 0.5],
      [right + 0.04, 0.5],
    ],
    10,
  );
  await keptAfterStroke(page);
  const row = 128;
  const cover = async (x: number) => {
    const tile = await storedTile(id, `${layer}/base-colour`, (row >> 7) * 256 + (x >> 7));
    return tile ? tile[((row & 127) * 128 + (x & 127)) * 4 + 3] / 65535 : 0;
  };
  for (const x of [245, 255, 0, 5]) expect(await cover(x)).toBeGreaterThan(0.4);
  expect(await cover(100)).toBe(0);
  // Seen in the repeats beside the sheet as well.
  expect(orangeish(await shownAt(page, 'flat', 18 / box.width, 0.5))).toBe(true);
});

test('a pen presses lightly and firmly: the stroke is thin, then broad', async ({ page }) => {
  const id = await makeCanvas(page, 'Pen tile');
  const layer = await layerIdOf(id, 'Hand');
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const y = box.y + box.height / 2;
  const pen = await Pen.on(page);
  const points = Array.from({ length: 24 }, (_, i): [number, number, number] => [box.x + 60 + i * 11, y, 0.1 + (0.9 * i) / 23]);
  await pen.stroke(points);
  await keptAfterStroke(page);
  const scale = 256 / (box.width - 32);
  const widthAt = async (px: number) => {
    const x = Math.round((px - 16) * scale);
    let n = 0;
    for (const ty of [0, 1]) {
      const tile = await storedTile(id, `${layer}/base-colour`, ty * 256 + (x >> 7));
      for (let r = 0; tile && r < 128; r++) if (tile[(r * 128 + (x & 127)) * 4 + 3] > 9000) n++;
    }
    return n;
  };
  const thin = await widthAt(90);
  const broad = await widthAt(290);
  expect(thin).toBeGreaterThan(0);
  expect(broad).toBeGreaterThan(thin * 2);
});

test('keys: digits set opacity, brackets size, X swaps the wells, Shift draws straight, E erases, Escape lets go', async ({
  page,
}) => {
  const id = await makeCanvas(page, 'Keys tile');
  const layer = await layerIdOf(id, 'Hand');
  await page.getByTestId('pane-flat').click({ position: { x: 60, y: 250 } });
  await keptAfterStroke(page);
  await page.keyboard.press('5');
  await expect(page.getByRole('slider', { name: 'Opacity' }).last()).toHaveAttribute('aria-valuenow', '50');
  await page.keyboard.press('0');
  const size = page.getByRole('slider', { name: 'Size' });
  const before = Number(await size.getAttribute('aria-valuenow'));
  await page.keyboard.press(']');
  expect(Number(await size.getAttribute('aria-valuenow'))).toBeGreaterThan(before);
  const well = page.getByTestId('well');
  const colour = await well.getAttribute('aria-label');
  await page.keyboard.press('x');
  await expect(well).not.toHaveAttribute('aria-label', colour!);
  await page.keyboard.press('x');

  // A straight line from the first dab: texels half way are covered.
  await page.getByTestId('pane-flat').click({ position: { x: 300, y: 250 }, modifiers: ['Shift'] });
  await expect.poll(async () => (await stored(id)).position, { timeout: 20_000 }).toBe(2);
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const at = (px: number, py: number) => {
    const scale = 256 / (box.width - 32);
    return [Math.floor((px - box.width / 2) * scale + 128), Math.floor((py - box.height / 2) * scale + 128)];
  };
  const alpha = async (px: number, py: number) => {
    const [x, y] = at(px, py);
    const tile = await storedTile(id, `${layer}/base-colour`, (y >> 7) * 256 + (x >> 7));
    return tile ? tile[((y & 127) * 128 + (x & 127)) * 4 + 3] / 65535 : 0;
  };
  expect(await alpha(180, 250)).toBeGreaterThan(0.5);

  await page.keyboard.press('e');
  await stroke(
    page,
    'flat',
    [
      [180 / box.width, 230 / box.height],
      [180 / box.width, 270 / box.height],
    ],
    12,
  );
  await expect.poll(async () => (await stored(id)).position, { timeout: 20_000 }).toBe(3);
  expect(await alpha(180, 250)).toBeLessThan(0.5);

  await page.keyboard.press('b');
  await page.mouse.move(box.x + 100, box.y + 150);
  await page.mouse.down();
  await page.mouse.move(box.x + 200, box.y + 150, { steps: 5 });
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect(page.getByTestId('kept')).toHaveAttribute('data-state', 'kept');
  expect((await stored(id)).position).toBe(3);
});

test('one stroke writes colour, height and metallic; the pick brings a value back', async ({ page }) => {
  const id = await makeCanvas(page, 'Maps tile');
  const layer = await layerIdOf(id, 'Hand');
  await page.locator('[data-write=height]').click();
  await page.locator('[data-write=metallic]').click();
  await stroke(page, 'flat', [
    [0.4, 0.5],
    [0.6, 0.5],
  ]);
  await keptAfterStroke(page);
  for (const map of ['base-colour', 'height', 'metallic'])
    expect((await coveredTiles(id, `${layer}/${map}`)).size).toBeGreaterThan(0);
  expect((await coveredTiles(id, `${layer}/roughness`)).size).toBe(0);
  // Another well, then pick the first colour back off the sheet.
  const well = page.getByTestId('well');
  const painted = await well.getAttribute('aria-label');
  await page.keyboard.press('x');
  await page.keyboard.press('i');
  const rgb = (label: string | null) =>
    label!
      .match(/#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})/)!
      .slice(1)
      .map((c) => parseInt(c, 16));
  const apart = async () => {
    const [a, b] = [rgb(await well.getAttribute('aria-label')), rgb(painted)];
    return Math.max(...a.map((v, k) => Math.abs(v - b[k])));
  };
  expect(await apart()).toBeGreaterThan(40);
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  await page.getByTestId('pane-flat').click({ position: { x: box.width / 2, y: box.height / 2 } });
  // In the middle of the stroke nearly all is its own colour.
  await expect.poll(apart).toBeLessThanOrEqual(3);
});

test('a canvas can be painted on its plane in the model pane, across its repeats', async ({ page }) => {
  const id = await makeCanvas(page, 'Plane tile');
  const layer = await layerIdOf(id, 'Hand');
  await page.getByRole('button', { name: 'front', exact: true }).click();
  // Two repeats across: the middle of the plane is the canvas's corner, where all four sides meet.
  await stroke(page, 'model', [
    [0.48, 0.5],
    [0.52, 0.5],
  ]);
  await keptAfterStroke(page);
  expect([...(await coveredTiles(id, `${layer}/base-colour`)).keys()].sort()).toEqual([0, 1, 256, 257]);
});
