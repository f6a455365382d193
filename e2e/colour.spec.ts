import { expect, test } from '@playwright/test';
import sharp from 'sharp';
import { downloadBy, kept, keptAfterStroke, makeCanvas, still, stored, storedTile, stroke } from './helpers';

/** Left half one colour, right half another. */
const halves = () =>
  sharp(
    Buffer.from(
      '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="100"><rect width="100" height="100" fill="#20406c"/><rect x="100" width="100" height="100" fill="#d08a3c"/></svg>',
    ),
  )
    .png()
    .toBuffer();

interface Doc {
  pins: { name: string; flip: boolean; grey: boolean; note: string; x: number }[];
  palettes: { name: string; swatches: { colour: string; weight?: number }[] }[];
  palette: string[];
}
const documentOf = async (id: string): Promise<Doc> => (await stored(id)).document as unknown as Doc;

/** Channels of two colours apart, at most. */
function apart(a: string, b: string): number {
  const of = (h: string) => [1, 3, 5].map((k) => parseInt(h.slice(k, k + 2), 16));
  return Math.max(...of(a).map((v, k) => Math.abs(v - of(b)[k])));
}

test('pictures are pinned beside the work, colours come off them, and a window of its own follows', async ({ page, context }) => {
  const id = await makeCanvas(page, 'Pinned');
  await page.keyboard.press('Shift+J');
  const board = page.getByTestId('pins');
  await expect(board).toContainText('Drop pictures here');
  await page.getByLabel('Pictures to pin').setInputFiles([
    { name: 'quay at dusk.png', mimeType: 'image/png', buffer: await halves() },
    { name: 'notes.txt', mimeType: 'text/plain', buffer: Buffer.from('no picture') },
  ]);
  await expect(page.getByText(/"notes.txt" is not a picture/)).toBeVisible();
  const pin = board.locator('[data-pin="quay at dusk.png"]');
  await expect(pin.locator('img')).toHaveJSProperty('complete', true);
  await expect.poll(() => pin.locator('img').evaluate((img: HTMLImageElement) => img.naturalWidth)).toBe(200);
  const box = (await pin.boundingBox())!;
  await page.keyboard.down('Alt');
  await page.mouse.click(box.x + box.width * 0.8, box.y + box.height / 2);
  await page.keyboard.up('Alt');
  const well = page.getByTestId('well');
  await expect
    .poll(async () => apart((await well.getAttribute('aria-label'))!.match(/#[0-9a-f]{6}/)![0], '#d08a3c'))
    .toBeLessThan(5);
  // Flipped, the same place has the other colour.
  await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
  const section = page.getByRole('region', { name: 'Pinboard' });
  await section.getByRole('button', { name: 'Flip left and right' }).click();
  await section.getByRole('button', { name: 'Without colour' }).click();
  await section.getByLabel(/^Note on/).fill('the light at the end');
  await section.getByLabel(/^Note on/).press('Enter');
  await page.keyboard.down('Alt');
  await page.mouse.click(box.x + box.width * 0.8, box.y + box.height / 2);
  await page.keyboard.up('Alt');
  await expect
    .poll(async () => apart((await well.getAttribute('aria-label'))!.match(/#[0-9a-f]{6}/)![0], '#20406c'))
    .toBeLessThan(5);
  await kept(page);
  expect((await documentOf(id)).pins).toMatchObject([
    { name: 'quay at dusk.png', flip: true, grey: true, note: 'the light at the end' },
  ]);

  // Another window shows it, and what is done there is done here.
  const other = await context.newPage();
  await other.goto(`${page.url()}/pins`);
  const theirs = other.locator('[data-pin="quay at dusk.png"]');
  await expect(theirs).toBeVisible();
  const there = (await theirs.boundingBox())!;
  await other.mouse.move(there.x + 20, there.y + 20);
  await other.mouse.down();
  await other.mouse.move(there.x + 90, there.y + 60, { steps: 4 });
  await other.mouse.up();
  await expect.poll(async () => (await documentOf(id)).pins[0].x).not.toBe(0);
  await other.close();

  // A picture that vanished says so, where it hung.
  await page.route('**/api/pins/*', (route) => route.fulfill({ status: 404, body: '' }));
  await page.reload();
  await still(page);
  await expect(page.getByTestId('pins')).toContainText('is gone from the server');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await documentOf(id)).pins[0].x).toBe(0);
});

test('colours come out of a picture by their shares, are kept with the piece, sorted, and go out and in as files', async ({
  page,
}) => {
  const id = await makeCanvas(page, 'Colours kept');
  await page.getByRole('button', { name: 'Palettes', exact: true }).click();
  const panel = page.getByRole('dialog', { name: 'Palettes' });
  const [chooser] = await Promise.all([
    page.waitForEvent('filechooser'),
    panel.getByRole('button', { name: 'a picture …' }).click(),
  ]);
  await chooser.setFiles({ name: 'dusk.png', mimeType: 'image/png', buffer: await halves() });
  await expect(panel.getByRole('group', { name: 'Kept palettes' })).toContainText('dusk');
  await kept(page);
  const { palettes, palette } = await documentOf(id);
  expect(palettes[0].swatches.map((s) => s.colour).toSorted()).toEqual(['#20406c', '#d08a3c']);
  for (const { weight } of palettes[0].swatches) expect(weight).toBeCloseTo(0.5, 1);
  expect(palette.toSorted()).toEqual(['#20406c', '#d08a3c']);

  await panel.getByRole('button', { name: 'Sort the colours' }).click();
  await page.getByRole('menuitem', { name: 'By lightness' }).click();
  await expect.poll(async () => (await documentOf(id)).palette).toEqual(['#20406c', '#d08a3c']);
  await panel.getByRole('button', { name: 'Export dusk' }).click();
  const { name, bytes } = await downloadBy(page, page.getByRole('menuitem', { name: 'CSS colours' }));
  expect(name).toBe('dusk.css');
  expect(new TextDecoder().decode(bytes)).toMatch(/^:root \{\n {2}--dusk-1: #[0-9a-f]{6};/);

  const choose = async (file: { name: string; mimeType: string; buffer: Buffer }) => {
    const [next] = await Promise.all([page.waitForEvent('filechooser'), panel.getByRole('button', { name: 'Import …' }).click()]);
    await next.setFiles(file);
  };
  await choose({ name: 'bad.txt', mimeType: 'text/plain', buffer: Buffer.from('nothing here') });
  await expect(page.getByText('There is no colour in this file')).toBeVisible();
  expect((await documentOf(id)).palettes).toHaveLength(1);
  await choose({ name: 'glass.css', mimeType: 'text/css', buffer: Buffer.from(bytes) });
  await expect(panel.getByRole('group', { name: 'Kept palettes' })).toContainText('glass');
  await panel.getByRole('group', { name: 'Colours at hand' }).getByRole('button', { name: 'Take #20406c' }).click();
  await expect(page.getByTestId('well')).toHaveAttribute('aria-label', /#20406c/);
});

test('picking takes a whole material: with Shift the brush writes all that lies there', async ({ page }) => {
  await makeCanvas(page, 'Material');
  await page.getByRole('button', { name: 'Height', exact: true }).first().click();
  await stroke(page, 'flat', [
    [0.4, 0.5],
    [0.6, 0.5],
  ]);
  await kept(page);
  const well = page.getByTestId('well');
  await page.keyboard.press('x');
  const before = await well.getAttribute('aria-label');
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  await page.keyboard.down('Alt');
  await page.keyboard.down('Shift');
  await page.mouse.click(box.x + box.width * 0.5, box.y + box.height * 0.5);
  await page.keyboard.up('Shift');
  await page.keyboard.up('Alt');
  await expect(well).not.toHaveAttribute('aria-label', before!);
  await expect(page.getByRole('button', { name: 'Roughness', exact: true }).first()).toHaveAttribute('aria-pressed', 'true');
});

test('clone takes from a pinned picture: Alt-click on it, then paint', async ({ page }) => {
  const id = await makeCanvas(page, 'From a study', 128, 128, false);
  await page.keyboard.press('Shift+J');
  const study = await sharp({ create: { width: 90, height: 60, channels: 3, background: '#2f8fd0' } })
    .png()
    .toBuffer();
  await page.getByLabel('Pictures to pin').setInputFiles({ name: 'study.png', mimeType: 'image/png', buffer: study });
  const pin = page.getByRole('img', { name: 'study.png' });
  await expect(pin).toBeVisible();
  await kept(page);
  await page
    .getByRole('group', { name: 'Tools' })
    .getByRole('button', { name: /^Clone/ })
    .click();
  await page.keyboard.down('Alt');
  await pin.click();
  await page.keyboard.up('Alt');
  await expect(page.getByText('The source is set: strokes take from there.')).toBeVisible();
  await stroke(page, 'flat', [
    [0.45, 0.8],
    [0.55, 0.8],
  ]);
  await keptAfterStroke(page);
  const { document } = await stored(id);
  const sheet = document.sheets[0] as unknown as { layers: { id: string }[]; pictures: { name: string }[] };
  expect(sheet.pictures.map((p) => p.name)).toEqual(['study.png']);
  const texels = (await storedTile(id, `${sheet.layers.at(-1)!.id}/base-colour`, 0))!;
  const opaque = Array.from({ length: texels.length / 4 }, (_, i) => i).filter((i) => texels[i * 4 + 3] > 60000);
  expect(opaque.length).toBeGreaterThan(5);
  for (const i of opaque) [0x2f, 0x8f, 0xd0].forEach((v, k) => expect(Math.abs(texels[i * 4 + k] / 257 - v)).toBeLessThan(6));
});
