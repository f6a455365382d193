/** The rack and the tools of the hand, in the page: brushes are taken, kept, exported; tools work on what is painted. */
import { expect, test, type Page } from '@playwright/test';
import { coveredTiles, downloadBy, keptAfterStroke, layerIdOf, makeCanvas, Pen, storedTile, stroke } from './helpers';

const openRack = async (page: Page) => {
  await page.getByRole('button', { name: /^Brush:/ }).click();
  return page.getByRole('dialog', { name: 'Brush' });
};
/** How many strokes the server has of a piece. */
const strokesOf = (page: Page, id: string): Promise<number> =>
  page.evaluate(async (of) => ((await (await fetch(`/api/pieces/${of}/strokes`)).json()) as unknown[]).length, id);

/** Colour and coverage of a texel of the first tile. */
const at = (tile: Uint16Array, x: number, y: number) =>
  Array.from(tile.subarray((y * 128 + x) * 4, (y * 128 + x) * 4 + 4), (v) => v / 65535);

test('a brush is found, taken and paints; changed it is kept as a new one, in other tabs too, and exported', async ({
  page,
  context,
}) => {
  const id = await makeCanvas(page, 'Leaves');
  const layer = await layerIdOf(id, 'Hand');
  const panel = await openRack(page);
  await panel.getByLabel('Find a brush').fill('leaf');
  const card = panel.getByRole('button', { name: 'Leaf', exact: true });
  await expect(card.locator('canvas')).toBeVisible();
  await card.click();
  await expect(card).toHaveAttribute('aria-pressed', 'true');
  await stroke(
    page,
    'flat',
    [
      [0.2, 0.3],
      [0.45, 0.3],
    ],
    12,
  );
  await keptAfterStroke(page);
  const covered = await coveredTiles(id, `${layer}/base-colour`);
  expect([...covered.values()].reduce((a, b) => a + b, 0)).toBeGreaterThan(300);
  // Each leaf has a colour of its own.
  const tile = (await storedTile(id, `${layer}/base-colour`, 0))!;
  const reds = new Set<number>();
  for (let i = 0; i < tile.length; i += 4) if (tile[i + 3] > 60000) reds.add(tile[i] >> 9);
  expect(reds.size).toBeGreaterThan(2);

  await panel.getByRole('radio', { name: 'This brush' }).click();
  const spacing = panel.getByRole('textbox', { name: 'Spacing' });
  await spacing.fill('90');
  await spacing.press('Enter');
  await expect(panel.getByText('Leaf · changed')).toBeVisible();
  await panel.getByRole('button', { name: 'As new' }).click();
  await panel.getByLabel('Name of the new brush').fill('Sparse leaves');
  await panel.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(panel.getByText('Sparse leaves', { exact: true })).toBeVisible();

  const other = await context.newPage();
  await makeCanvas(other, 'Other tab');
  const there = await openRack(other);
  await there.getByLabel('Find a brush').fill('sparse');
  await expect(there.getByRole('button', { name: 'Sparse leaves', exact: true })).toBeVisible();
  // It is deleted there, and is gone here.
  await page.getByRole('radio', { name: 'Rack' }).click();
  await panel.getByLabel('Find a brush').fill('sparse');
  const mine = panel.getByRole('listitem').filter({ hasText: 'Sparse leaves' });
  await mine.hover();
  await mine.getByRole('button', { name: 'More about Sparse leaves' }).click();
  const file = await downloadBy(page, page.getByRole('menuitem', { name: 'Export' }));
  expect(file.name).toBe('Sparse leaves.zip');
  await there.getByRole('listitem').filter({ hasText: 'Sparse leaves' }).hover();
  await there.getByRole('button', { name: 'More about Sparse leaves' }).click();
  await other.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(panel.getByText('No brush is called “sparse”.')).toBeVisible();
  // And comes in again from the file.
  await panel
    .getByLabel('Brush file')
    .setInputFiles({ name: 'leaves.zip', mimeType: 'application/zip', buffer: Buffer.from(file.bytes) });
  await expect(panel.getByRole('button', { name: 'Sparse leaves', exact: true })).toBeVisible();
  await panel
    .getByLabel('Brush file')
    .setInputFiles({ name: 'no.zip', mimeType: 'application/zip', buffer: Buffer.from('hello') });
  await expect(page.getByText('"no.zip" is not a zip archive')).toBeVisible();
});

test('clone says that it needs a source, takes it with Alt, and lays down what is there', async ({ page }) => {
  const id = await makeCanvas(page, 'Cloned');
  const layer = await layerIdOf(id, 'Hand');
  await stroke(
    page,
    'flat',
    [
      [0.25, 0.3],
      [0.3, 0.3],
    ],
    6,
  );
  await keptAfterStroke(page);
  await page.keyboard.press('d');
  await expect(page.getByText('Alt-click sets where it takes from.')).toBeVisible();
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const place = (x: number, y: number): [number, number] => [box.x + box.width * x, box.y + box.height * y];
  await page.mouse.click(...place(0.3, 0.6));
  await expect(page.getByText(/Clone needs a source/)).toBeVisible();
  await page.keyboard.down('Alt');
  await page.mouse.click(...place(0.27, 0.3));
  await page.keyboard.up('Alt');
  await expect(page.getByText('Alt-click sets where it takes from.')).toBeHidden();
  await stroke(
    page,
    'flat',
    [
      [0.27, 0.42],
      [0.3, 0.42],
    ],
    8,
  );
  await keptAfterStroke(page);
  const tiles = await Promise.all([0, 256].map((t) => storedTile(id, `${layer}/base-colour`, t)));
  let rows = 0;
  for (let y = 0; y < 256; y++) {
    const tile = tiles[y >> 7];
    if (tile && Array.from({ length: 128 }, (_, x) => at(tile, x, y & 127)[3]).some((a) => a > 0.5)) rows++;
  }
  // Twice as many rows have paint as the first stroke's 30 or so.
  expect(rows).toBeGreaterThan(40);
  await page.keyboard.press('Control+z');
  await keptAfterStroke(page);
});

test('smear and blur change what is painted, and undo brings it back', async ({ page }) => {
  const id = await makeCanvas(page, 'Smeared');
  const layer = await layerIdOf(id, 'Hand');
  await stroke(
    page,
    'flat',
    [
      [0.3, 0.25],
      [0.3, 0.45],
    ],
    6,
  );
  await keptAfterStroke(page);
  const before = (await storedTile(id, `${layer}/base-colour`, 0))!;
  for (const key of ['s', 'a']) {
    await page.keyboard.press(key);
    await stroke(
      page,
      'flat',
      [
        [0.28, 0.33],
        [0.4, 0.35],
      ],
      10,
    );
    await keptAfterStroke(page);
    const after = (await storedTile(id, `${layer}/base-colour`, 0))!;
    expect(after.some((v, i) => Math.abs(v - before[i]) > 300)).toBe(true);
    await page.keyboard.press('Control+z');
    await expect
      .poll(async () => Buffer.from((await storedTile(id, `${layer}/base-colour`, 0))!.buffer).equals(Buffer.from(before.buffer)))
      .toBe(true);
  }
});

test('a hundred strokes that lose their pointer at random leave none open', async ({ page }) => {
  const id = await makeCanvas(page, 'Lost pointers');
  const pane = page.getByTestId('pane-flat');
  const box = (await pane.boundingBox())!;
  await pane.evaluate((el, { x, y, width, height }) => {
    let seed = 7;
    const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
    const send = (type: string, id: number, px: number, py: number, buttons: number) =>
      el.dispatchEvent(
        new PointerEvent(type, {
          ...{
            bubbles: true,
            cancelable: true,
            pointerId: id,
            pointerType: 'pen',
            pressure: buttons ? 0.6 : 0,
            buttons,
            button: type === 'pointermove' ? -1 : 0,
          },
          ...{ clientX: x + width * px, clientY: y + height * py },
        }),
      );
    // Made-up pointers cannot be captured.
    el.setPointerCapture = () => undefined;
    for (let n = 0; n < 100; n++) {
      const [px, py] = [0.25 + random() * 0.4, 0.25 + random() * 0.4];
      send('pointerdown', n + 10, px, py, 1);
      for (let k = 0; k < 4; k++) send('pointermove', n + 10, px + k * 0.01, py, 1);
      const how = Math.floor(random() * 4);
      if (how === 0) send('pointercancel', n + 10, px, py, 0);
      else if (how === 1) send('lostpointercapture', n + 10, px, py, 0);
      else if (how === 2) window.dispatchEvent(new Event('blur'));
      else send('pointerup', n + 10, px + 0.05, py, 0);
    }
  }, box);
  await keptAfterStroke(page);
  await expect.poll(async () => await strokesOf(page, id)).toBe(100);
  // A move without a button paints nothing any more.
  await page.mouse.move(box.x + box.width * 0.4, box.y + box.height * 0.4);
  await page.mouse.move(box.x + box.width * 0.6, box.y + box.height * 0.5);
  await page.waitForTimeout(300);
  expect(await strokesOf(page, id)).toBe(100);
});

test('keys: the sheet, a new key for a tool, a clash that is said; a held key is the tool until it is let go', async ({
  page,
}) => {
  await makeCanvas(page, 'Keys');
  await page.keyboard.press('?');
  const sheet = page.getByRole('dialog', { name: 'Keys' });
  await sheet.getByLabel('Find a command').fill('smear');
  await sheet.getByRole('button', { name: 'Key of Smear' }).click();
  await page.keyboard.press('b');
  await expect(sheet.getByText('also paint')).toBeVisible();
  await sheet.getByRole('button', { name: 'Key of Smear' }).click();
  await page.keyboard.press('9');
  await expect(sheet.getByText('also')).toBeHidden();
  await sheet.getByRole('button', { name: 'As it came: Smear' }).click();
  await page.keyboard.press('Escape');
  const tool = (name: RegExp) => page.getByRole('group', { name: 'Tools' }).getByRole('button', { name });
  await page.keyboard.down('e');
  await expect(tool(/^Erase/)).toHaveAttribute('aria-pressed', 'true');
  // Held means that the pen worked meanwhile, however long or short the key was down.
  const pane = (await page.getByTestId('pane-flat').boundingBox())!;
  await page.mouse.move(pane.x + pane.width * 0.4, pane.y + pane.height * 0.4);
  await page.mouse.down();
  await page.mouse.move(pane.x + pane.width * 0.5, pane.y + pane.height * 0.4, { steps: 4 });
  await page.mouse.up();
  await expect(tool(/^Erase/)).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.up('e');
  await expect(tool(/^Paint/)).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('e');
  await expect(tool(/^Erase/)).toHaveAttribute('aria-pressed', 'true');
});

test('Z and a drag sizes the brush; J brings the last brushes; the pen presses as it learnt', async ({ page }) => {
  await makeCanvas(page, 'Sizes');
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  const size = page.getByRole('textbox', { name: 'Size' });
  await expect(size).toHaveValue('40');
  await page.mouse.move(box.x + 100, box.y + 200);
  await page.keyboard.down('z');
  await page.mouse.down();
  await page.mouse.move(box.x + 220, box.y + 200, { steps: 4 });
  await page.mouse.up();
  await page.keyboard.up('z');
  await expect(size).toHaveValue('80');
  await page.keyboard.press('j');
  const ring = page.getByRole('menu', { name: 'The last brushes' });
  await expect(ring.getByRole('menuitem')).toHaveCount(8);
  const name = await ring.getByRole('menuitem').nth(2).getAttribute('aria-label');
  await page.keyboard.press('3');
  await expect(ring).toBeHidden();
  await expect(page.getByRole('button', { name: new RegExp(`^Brush: ${name}`) })).toBeVisible();
  expect(await Pen.on(page)).toBeTruthy();
});
