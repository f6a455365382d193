/** The strata in the real page: layers of every kind, masks, clipboard, sheets; texels checked on screen and in the database. */
import { expect, test, type Page } from '@playwright/test';
import { composite, type BlendId } from '../src/core/colour/blend';
import { encodePng } from '../src/core/codec/png';
import { seededRandom } from '../src/core/testing/models';
import { coveredTiles, keptAfterStroke, layerIdOf, makeCanvas, openPiece, shownAt, stored, stroke } from './helpers';

interface StoredLayer {
  id: string;
  name: string;
  kind: string;
  parent: string | null;
  mask: { id: string } | null;
  cells: Record<string, { on: boolean; placed?: { picture: string } }>;
}
interface StoredSheet {
  width: number;
  height: number;
  maps: string[];
  layers: StoredLayer[];
  masks: { id: string; name: string; ground: number; invert: boolean }[];
  pictures: { id: string; name: string }[];
}
const sheetOf = async (id: string) => (await stored(id)).document.sheets[0] as unknown as StoredSheet;
const row = (page: Page, name: string) =>
  page.getByTestId('layer-row').filter({ has: page.getByRole('row', { name: new RegExp(`^${name}, `) }) });
const pickRow = (page: Page, name: string, modifiers: ('Shift' | 'Control')[] = []) =>
  page
    .getByRole('row', { name: new RegExp(`^${name}, `) })
    .getByTestId('layer-name')
    .click({ modifiers });
async function addMore(page: Page, item: string): Promise<void> {
  await page.getByRole('button', { name: 'Add a layer of another kind' }).click();
  await page.getByRole('menuitem', { name: item, exact: true }).click();
}
async function undoAll(page: Page, id: string): Promise<void> {
  for (let n = (await stored(id)).position; n > 0; n--) await page.keyboard.press('Control+z');
  await expect.poll(async () => (await stored(id)).position, { timeout: 20_000 }).toBe(0);
}

test('strata: add, rename, hide, reorder by keyboard, opacity, cells, duplicate, delete; all kept, all undone', async ({
  page,
}) => {
  const id = await makeCanvas(page, 'Strata tile');
  const before = JSON.stringify((await stored(id)).document);
  const rows = page.getByTestId('layer-row');
  await expect(rows).toHaveCount(2);
  await page.getByRole('button', { name: 'Coat', exact: true }).click();
  await expect(rows).toHaveCount(3);
  await rows.first().getByTestId('layer-name').dblclick();
  await page.getByLabel('Name of the layer').fill('Varnish');
  await page.keyboard.press('Enter');
  await rows.first().locator('[data-cell=roughness]').click();
  await page.getByRole('switch', { name: 'Off' }).click();
  await page.keyboard.press('Escape');
  await rows.first().getByRole('button', { name: 'Hide Varnish' }).click();
  await page.keyboard.press('Alt+ArrowDown');
  await expect(rows.nth(1)).toContainText('Varnish');
  const opacity = rows.nth(1).getByRole('slider', { name: 'Opacity' });
  await opacity.focus();
  await page.keyboard.press('PageDown');
  await rows.nth(1).getByRole('combobox', { name: 'Blend' }).selectOption('multiply');
  await page.getByRole('button', { name: 'Duplicate', exact: true }).first().click();
  await expect(rows).toHaveCount(4);
  await page.getByRole('button', { name: 'Delete', exact: true }).first().click();
  await expect(rows).toHaveCount(3);
  await keptAfterStroke(page);
  const now = await stored(id);
  const varnish = now.document.sheets[0].layers.find((l) => l.name === 'Varnish') as unknown as Record<string, unknown>;
  expect(varnish).toMatchObject({ visible: false, blend: 'multiply', opacity: 0.9, cells: { roughness: { on: true } } });
  for (let n = now.position; n > 0; n--) await page.keyboard.press('Control+z');
  await expect.poll(async () => (await stored(id)).position, { timeout: 20_000 }).toBe(0);
  expect(JSON.stringify((await stored(id)).document)).toBe(before);
});

test('a layer is dragged to another place, and a hidden lantern part lets the pen through', async ({ page }) => {
  await openPiece(page, 'demo-lantern');
  const rows = page.getByTestId('layer-row');
  const soot = row(page, 'Soot near vents');
  await expect(rows.nth(2)).toContainText('Weather');
  await expect(soot).toHaveAttribute('data-depth', '1');
  const top = (await soot.boundingBox())!;
  const target = (await rows.first().boundingBox())!;
  await page.mouse.move(top.x + 90, top.y + 16);
  await page.mouse.down();
  await page.mouse.move(top.x + 90, top.y - 10, { steps: 4 });
  // Onto the upper part of the topmost row: out of its group, above everything.
  await page.mouse.move(target.x + 90, target.y + 6, { steps: 6 });
  await page.mouse.up();
  await expect(rows.first()).toContainText('Soot near vents');
  await expect(soot).toHaveAttribute('data-depth', '0');
  await page.getByRole('button', { name: 'Parts' }).click();
  await page.getByRole('button', { name: 'Hide Glass' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: /Parts · 1 hidden/ })).toBeVisible();
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(rows.nth(3)).toContainText('Soot near vents');
});

test('layers are grouped, masked, inverted and echoed into height; what shows is right, and undo goes back to the start', async ({
  page,
}) => {
  const id = await makeCanvas(page, 'Strata kinds');
  const before = JSON.stringify((await stored(id)).document);
  await pickRow(page, 'Ground');
  await page.getByRole('button', { name: 'Coat', exact: true }).click();
  await row(page, 'Coat').locator('[data-cell=base-colour]').click();
  await page.getByLabel('Coat, base colour, hex').fill('#ffffff');
  await page.getByLabel('Coat, base colour, hex').press('Enter');
  await page.keyboard.press('Escape');
  await page.keyboard.press('v');
  await expect.poll(() => shownAt(page, 'flat', 0.5, 0.5)).toEqual([255, 255, 255]);

  // A mask that hides all, painted to show in the middle.
  await row(page, 'Coat').getByRole('button', { name: 'From black' }).click();
  await expect.poll(() => shownAt(page, 'flat', 0.5, 0.5)).not.toEqual([255, 255, 255]);
  await stroke(page, 'flat', [
    [0.4, 0.5],
    [0.6, 0.5],
  ]);
  await expect.poll(() => shownAt(page, 'flat', 0.5, 0.5)).toEqual([255, 255, 255]);
  const hidden = await shownAt(page, 'flat', 0.5, 0.2);
  expect(hidden).not.toEqual([255, 255, 255]);
  await keptAfterStroke(page);
  const { masks } = await sheetOf(id);
  expect((await coveredTiles(id, `${masks[0].id}/mask`)).size).toBeGreaterThan(0);

  // The mask alone, then not.
  await page.getByRole('radio', { name: 'Alone' }).click();
  await expect.poll(() => shownAt(page, 'flat', 0.5, 0.2)).toEqual([0, 0, 0]);
  await page.getByRole('radio', { name: 'Off', exact: true }).click();

  // Grouped with an inversion: isolated, it turns only what is in the group.
  await page.keyboard.press('Control+g');
  await expect(row(page, 'Coat')).toHaveAttribute('data-depth', '1');
  await pickRow(page, 'Coat');
  await addMore(page, 'Invert');
  await expect.poll(() => shownAt(page, 'flat', 0.5, 0.5)).toEqual([0, 0, 0]);
  expect(await shownAt(page, 'flat', 0.5, 0.2)).toEqual(hidden);

  // An echo of the group raises the height where the coat shows.
  await pickRow(page, 'Group');
  await addMore(page, 'Echo of the selected layer');
  await page.getByRole('radio', { name: 'Height' }).click();
  // The coat is black after the inversion; levels bring that to 0.4, which lies below the level of 0.5.
  await expect.poll(async () => (await shownAt(page, 'flat', 0.5, 0.5))[0]).toBeCloseTo(102, -0.5);
  expect((await shownAt(page, 'flat', 0.5, 0.2))[0]).toBe(128);

  // The group cannot take its own echo in.
  await page.keyboard.press('Alt+ArrowDown');
  await expect(page.getByText('would echo itself')).toBeVisible();
  await keptAfterStroke(page);
  const sheet = await sheetOf(id);
  expect(sheet.layers.map((l) => l.kind)).toEqual(['coat', 'coat', 'adjust', 'group', 'echo', 'painted']);
  await page.keyboard.press('Escape');
  await undoAll(page, id);
  expect(JSON.stringify((await stored(id)).document)).toBe(before);
});

test('one mask on two layers is changed once; deleting it says where it is used', async ({ page }) => {
  const id = await makeCanvas(page, 'Linked');
  await pickRow(page, 'Ground');
  await page.keyboard.press('q');
  await pickRow(page, 'Hand');
  await row(page, 'Hand').getByRole('button', { name: 'Use a mask that is there already' }).click();
  await page.getByRole('menuitem', { name: /Mask of Ground/ }).click();
  await row(page, 'Hand').getByRole('button', { name: 'More about the mask' }).click();
  await page.getByRole('menuitem', { name: 'Invert' }).click();
  await expect.poll(async () => (await sheetOf(id)).masks[0]?.invert).toBe(true);
  expect((await sheetOf(id)).layers.map((l) => l.mask?.id)).toEqual(Array(2).fill((await sheetOf(id)).masks[0].id));
  await row(page, 'Hand').getByRole('button', { name: 'More about the mask' }).click();
  await page.getByRole('menuitem', { name: 'Delete the mask' }).click();
  await expect(page.getByRole('alertdialog')).toContainText('Ground, Hand');
  await page.getByRole('button', { name: 'Delete it everywhere' }).click();
  await expect.poll(async () => (await sheetOf(id)).masks.length).toBe(0);
});

test('layers go from one piece to another by the clipboard, with their paint and their groups', async ({ page }) => {
  const from = await makeCanvas(page, 'Clip from');
  await stroke(page, 'flat', [
    [0.45, 0.5],
    [0.55, 0.5],
  ]);
  await page.keyboard.press('Control+g');
  await keptAfterStroke(page);
  const texels = await coveredTiles(from, `${await layerIdOf(from, 'Hand')}/base-colour`);
  await page.keyboard.press('Control+c');
  await expect(page.getByText('layers are copied')).toBeVisible();
  const to = await makeCanvas(page, 'Clip to');
  await page.keyboard.press('Control+v');
  await expect(page.getByTestId('layer-row')).toHaveCount(4);
  await keptAfterStroke(page);
  const pasted = (await sheetOf(to)).layers.find((l) => l.parent !== null)!;
  expect(pasted.name).toBe('Hand');
  expect(await coveredTiles(to, `${pasted.id}/base-colour`)).toEqual(texels);
});

test('a sheet is resized, extended and turned, gets a map of its own, and comes back by undo', async ({ page }) => {
  const id = await makeCanvas(page, 'Reshape', 256, 128);
  await stroke(page, 'flat', [
    [0.48, 0.5],
    [0.52, 0.5],
  ]);
  await keptAfterStroke(page);
  const open = async (tab: string) => {
    await page.getByRole('button', { name: /^Sheet: / }).click();
    await page.getByRole('menuitem', { name: /Size, lie and maps/ }).click();
    await page.getByRole('radio', { name: tab }).click();
  };
  await open('Size');
  await page.getByLabel('Width').fill('5');
  await page.getByRole('button', { name: 'Resize' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'has to be a whole number from 16' })).toBeVisible();
  await page.getByLabel('Width').fill('128');
  await page.getByRole('button', { name: 'Resize' }).click();
  await expect.poll(async () => [(await sheetOf(id)).width, (await sheetOf(id)).height]).toEqual([128, 64]);
  await open('Crop, extend');
  await page.getByLabel('Bottom').fill('16');
  await page.getByRole('button', { name: 'Set the frame' }).click();
  await expect.poll(async () => (await sheetOf(id)).height).toBe(80);
  await open('Rotate, flip');
  await page.getByRole('button', { name: 'Rotate 90° right' }).click();
  await expect.poll(async () => [(await sheetOf(id)).width, (await sheetOf(id)).height]).toEqual([80, 128]);
  await open('Maps, depth');
  await page.getByLabel('Name of a mask map of your own').fill('oil');
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByLabel('Emissive').check();
  await expect.poll(async () => (await sheetOf(id)).maps.length).toBe(6);
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'View oil' })).toBeVisible();
  await undoAll(page, id);
  expect((await sheetOf(id)).maps.length).toBe(4);
  expect((await sheetOf(id)).width).toBe(256);
});

test('a picture becomes what a coat lays down; a broken one gets a sentence', async ({ page }) => {
  const id = await makeCanvas(page, 'Picture coat');
  const data = Uint8Array.from({ length: 64 * 64 * 3 }, (_, i) => [200, 40, 90][i % 3]);
  const png = Buffer.from(encodePng({ width: 64, height: 64, channels: 3, bits: 8, data }, 'srgb'));
  const give = async (buffer: Buffer) => {
    const [chooser] = await Promise.all([
      page.waitForEvent('filechooser'),
      page.getByRole('button', { name: 'Picture …' }).click(),
    ]);
    await chooser.setFiles({ name: 'weave.png', mimeType: 'image/png', buffer });
    await page.getByRole('button', { name: 'Lay down' }).click();
  };
  await page.keyboard.press('v');
  await row(page, 'Ground').locator('[data-cell=base-colour]').click();
  await give(png.subarray(0, 60));
  await expect(page.getByText(/"weave.png" is/)).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await row(page, 'Ground').locator('[data-cell=base-colour]').click();
  await give(png);
  await expect.poll(async () => (await sheetOf(id)).pictures.map((p) => p.name), { timeout: 20_000 }).toEqual(['weave.png']);
  const sheet = await sheetOf(id);
  expect(sheet.layers[0].cells['base-colour'].placed?.picture).toBe(sheet.pictures[0].id);
  await page.keyboard.press('Escape');
  await expect.poll(() => shownAt(page, 'flat', 0.5, 0.5)).toEqual([200, 40, 90]);
});

test('blend modes agree with the browser’s own canvas within 2 of 255, with many pairs of alpha', async ({ page }) => {
  const modes: [BlendId, string][] = [
    ...(
      ['multiply', 'screen', 'overlay', 'darken', 'lighten', 'hard-light', 'soft-light', 'difference', 'exclusion'] as const
    ).map((m): [BlendId, string] => [m, m]),
    ...([
      ['normal', 'source-over'],
      ['colour-dodge', 'color-dodge'],
      ['colour-burn', 'color-burn'],
      ['hue', 'hue'],
      ['saturation', 'saturation'],
      ['colour', 'color'],
      ['luminosity', 'luminosity'],
    ] as [BlendId, string][]),
  ];
  const random = seededRandom(21);
  const alphas = [0, 64, 128, 200, 255];
  const pairs = alphas.flatMap((ab) => alphas.map((as) => ({ ab, as })));
  const samples = Array.from({ length: 200 }, (_, n) => ({
    ...pairs[n % pairs.length],
    b: [0, 1, 2].map(() => Math.floor(random() * 256)),
    s: [0, 1, 2].map(() => Math.floor(random() * 256)),
  }));
  await page.goto('about:blank');
  for (const [mode, operation] of modes) {
    const { below, blended: shown } = await page.evaluate(
      ({ operation, samples }) => {
        const canvas = new OffscreenCanvas(samples.length, 1);
        const context = canvas.getContext('2d', { willReadFrequently: true })!;
        samples.forEach(({ b, ab }, x) => {
          context.fillStyle = `rgba(${b.join()},${ab / 255})`;
          context.fillRect(x, 0, 1, 1);
        });
        // The backdrop as the canvas holds it: at 8 bit, multiplied by its alpha.
        const below = [...context.getImageData(0, 0, samples.length, 1).data];
        context.globalCompositeOperation = operation as GlobalCompositeOperation;
        samples.forEach(({ s, as }, x) => {
          context.fillStyle = `rgba(${s.join()},${as / 255})`;
          context.fillRect(x, 0, 1, 1);
        });
        return { below, blended: [...context.getImageData(0, 0, samples.length, 1).data] };
      },
      { operation, samples },
    );
    const wrong = samples.flatMap(({ s, ab, as }, x) => {
      const backdrop = [0, 1, 2].map((c) => below[x * 4 + c] / 255);
      const out = composite(
        mode,
        backdrop,
        ab / 255,
        s.map((v) => v / 255),
        as / 255,
      );
      const alpha = out[3];
      // The canvas holds colours multiplied by their alpha at 8 bit: that is what can be compared. Over a
      // translucent backdrop it rounds once more on the way in and out.
      const off = [0, 1, 2].map((c) =>
        Math.abs(Math.round(out[c] * alpha * 255) - Math.round((shown[x * 4 + c] * shown[x * 4 + 3]) / 255)),
      );
      const bad = Math.max(...off) > (ab < 255 ? 3 : 2) || Math.abs(alpha * 255 - shown[x * 4 + 3]) > 2;
      return bad ? [{ ...samples[x], off }] : [];
    });
    expect({ mode, wrong }).toEqual({ mode, wrong: [] });
  }
});
