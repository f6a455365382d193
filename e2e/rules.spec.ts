/** Surfaces built by rule in the real page: sources, recipes, placements with handles, material sets, ways to look. */
import { expect, test, type Locator, type Page } from '@playwright/test';
import { encodePng } from '../src/core/codec/png';
import { makeCanvas, makeCube, shownAt, shownAtAll, stored, stroke } from './helpers';

interface StoredStep {
  id: string;
  blend: string;
  invert: boolean;
  source: { type: string; made?: { type: string; to?: number[] }; names?: string[]; ids?: number[] };
}
interface StoredSheet {
  layers: {
    id: string;
    name: string;
    source: { type: string; seed: number; from: number[]; to: number[] } | null;
    placement: { by: string; centre: number[]; hide: number } | null;
    cells: Record<string, { low?: number[]; placed?: { picture: string; take: string } }>;
  }[];
  masks: { id: string; name: string; steps: StoredStep[] }[];
  pictures: { id: string; name: string; encoding: string }[];
}
const sheetOf = async (id: string) => (await stored(id)).document.sheets[0] as unknown as StoredSheet;
const top = async (id: string) => (await sheetOf(id)).layers.at(-1)!;
const addCoat = (page: Page) => page.getByRole('button', { name: 'Coat', exact: true }).click();
const pickSource = async (page: Page, name: string) => {
  await page.getByRole('button', { name: 'Spread evenly, or by a source' }).click();
  await page.getByRole('button', { name, exact: true }).click();
};
/** Colours at many points of the flat sheet. */
async function coloursOf(page: Page): Promise<string[]> {
  const points: [number, number][] = [
    [0.42, 0.42],
    [0.52, 0.53],
    [0.58, 0.46],
    [0.46, 0.58],
    [0.55, 0.57],
  ];
  return (await shownAtAll(page, 'flat', points)).map((rgb) => rgb.join());
}
async function addStep(page: Page, item: string | RegExp): Promise<void> {
  await page.getByRole('button', { name: 'Add a step to the mask' }).click();
  await page.getByRole('menuitem', { name: item }).click();
}
async function drag(page: Page, handle: Locator, dx: number, dy: number): Promise<void> {
  const box = (await handle.boundingBox())!;
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + dx / 2, y + dy / 2, { steps: 3 });
  await page.mouse.move(x + dx, y + dy, { steps: 3 });
  await page.mouse.up();
}

test('a coat is spread by a source: it shows, its settings are kept, another seed looks otherwise, undo takes it back', async ({
  page,
}) => {
  const id = await makeCanvas(page, 'By rule');
  await page.keyboard.press('v');
  await addCoat(page);
  await expect.poll(async () => new Set(await coloursOf(page)).size).toBe(1);
  await pickSource(page, 'Clouds');
  await expect.poll(async () => (await top(id)).source?.type).toBe('clouds');
  expect((await top(id)).cells['base-colour'].low).toHaveLength(3);
  await expect.poll(async () => new Set(await coloursOf(page)).size, { timeout: 20_000 }).toBeGreaterThan(2);
  const before = await coloursOf(page);
  await page.getByRole('button', { name: 'Another seed' }).click();
  await expect.poll(async () => (await top(id)).source?.seed).not.toBe(1);
  await expect.poll(async () => (await coloursOf(page)).join() !== before.join(), { timeout: 20_000 }).toBe(true);
  for (let n = (await stored(id)).position; n > 0; n--) await page.keyboard.press('Control+z');
  await expect.poll(async () => (await sheetOf(id)).layers.some((l) => l.source)).toBe(false);
});

test('a recipe reads as a sentence: steps join, turn round, move and go; it is seen alone, and painted over', async ({
  page,
}) => {
  const id = await makeCanvas(page, 'Recipe');
  await addCoat(page);
  await page.getByRole('button', { name: 'From black' }).click();
  await addStep(page, 'Noise, pattern, gradient …');
  await page.getByRole('button', { name: 'Checks', exact: true }).click();
  await expect
    .poll(async () => (await sheetOf(id)).masks[0]?.steps.map((s) => s.source.made?.type ?? s.source.type))
    .toEqual(['paint', 'checks']);
  // Nothing is painted, so nothing times checks is nothing: make it simply be.
  await page.getByTestId('step').getByLabel('Joins').selectOption('normal');
  await page.getByRole('radio', { name: 'Alone' }).click();
  const shades = async () => new Set((await coloursOf(page)).map((c) => c.split(',')[0]));
  await expect.poll(async () => (await shades()).has('0') && (await shades()).has('255'), { timeout: 20_000 }).toBe(true);
  const before = await coloursOf(page);
  await page.getByTestId('step').getByRole('switch', { name: 'Not' }).click();
  await expect.poll(async () => (await coloursOf(page)).every((c, n) => c !== before[n]), { timeout: 20_000 }).toBe(true);
  expect((await sheetOf(id)).masks[0].steps[1].invert).toBe(true);
  // A painted step at the end, and a stroke that shows.
  await addStep(page, 'Paint');
  await stroke(page, 'flat', [
    [0.45, 0.5],
    [0.55, 0.5],
  ]);
  // The ring of the brush lies over what is looked at.
  await page.mouse.move(5, 5);
  await expect.poll(() => shownAt(page, 'flat', 0.5, 0.5), { timeout: 20_000 }).toEqual([255, 255, 255]);
  // Its thumbnails are drawn, one a step.
  await expect(page.getByTestId('recipe').locator('[data-mask-picture=yes]')).toHaveCount(3);
  await page.getByTestId('step').getByRole('button', { name: 'Earlier' }).click();
  await expect.poll(async () => (await sheetOf(id)).masks[0].steps.map((s) => s.source.type)).toEqual(['paint', 'paint', 'made']);
  await page.getByTestId('step').getByRole('button', { name: 'Take this step out of the mask' }).click();
  await expect.poll(async () => (await sheetOf(id)).masks[0].steps.length).toBe(2);
  // Saved, and used on another mask.
  await page.getByRole('button', { name: 'More about the mask' }).click();
  await page.getByRole('menuitem', { name: 'Save its steps as a recipe' }).click();
  await page
    .getByRole('row', { name: /^Ground, / })
    .getByTestId('layer-name')
    .click();
  await page.getByRole('button', { name: 'From white' }).click();
  await page.getByRole('button', { name: 'More about the mask' }).click();
  await page.getByRole('menuitem', { name: /Use a saved recipe/ }).hover();
  await page.getByRole('menuitem', { name: 'Mask of Coat', exact: true }).click();
  await expect.poll(async () => (await sheetOf(id)).masks[1]?.steps.map((s) => s.source.type)).toEqual(['paint', 'made']);
});

test('on a model: from foot to head in one click, handles in the view, parts picked by clicking', async ({ page }) => {
  const id = await makeCube(page, 'Block');
  await addCoat(page);
  await pickSource(page, 'Gradient');
  await expect.poll(async () => (await top(id)).source?.type).toBe('gradient');
  const { from, to } = (await top(id)).source!;
  expect(to[1] - from[1]).toBeCloseTo(1, 3);
  await page.getByRole('button', { name: 'Handles in the view' }).click();
  await drag(page, page.locator('[data-handle=to]'), 0, 90);
  await expect.poll(async () => (await top(id)).source!.to[1]).toBeLessThan(to[1] - 0.05);
  // By keyboard too.
  const now = (await top(id)).source!.to[1];
  await page.locator('[data-handle=to]').focus();
  await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await top(id)).source!.to[1]).toBeGreaterThan(now);
  // A mask of islands, by clicking.
  await page.getByRole('button', { name: 'From black' }).click();
  await addStep(page, 'islands');
  await page.getByRole('button', { name: 'Pick by clicking' }).click();
  const pane = (await page.getByTestId('pane-model').boundingBox())!;
  await page.mouse.click(pane.x + pane.width / 2, pane.y + pane.height / 2);
  await expect
    .poll(async () => (await sheetOf(id)).masks[0].steps.find((s) => s.source.type === 'islands')?.source.ids?.length)
    .toBe(1);
});

test('the maps of a material come in at once, each known by its name; repeats are hidden; one channel becomes an alpha', async ({
  page,
}) => {
  // From now on choosers are caught: asked for at the moment of the key it would come too late.
  page.on('filechooser', () => undefined);
  const id = await makeCanvas(page, 'Material');
  const png = (colour: [number, number, number]) => {
    const data = Uint8Array.from({ length: 32 * 32 * 3 }, (_, i) => colour[i % 3] * (Math.floor(i / 48) % 2 ? 1 : 0.5));
    return Buffer.from(encodePng({ width: 32, height: 32, channels: 3, bits: 8, data }, 'srgb'));
  };
  const choose = async (files: { name: string; buffer: Buffer }[]) => {
    await page.keyboard.press('Control+k');
    await page.keyboard.type('Lay down pictures');
    const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.keyboard.press('Enter')]);
    await chooser.setFiles(files.map((f) => ({ ...f, mimeType: 'image/png' })));
  };
  await choose([
    { name: 'quay_wall_basecolor.png', buffer: png([180, 120, 80]) },
    { name: 'quay_wall_roughness.png', buffer: png([90, 90, 90]) },
    { name: 'gulls.png', buffer: png([1, 2, 3]) },
  ]);
  await expect(page.getByLabel('Map of quay_wall_roughness.png')).toHaveValue('roughness');
  await expect(page.getByLabel('Map of gulls.png')).toHaveValue('');
  await page.getByRole('button', { name: 'Lay down' }).click();
  await expect.poll(async () => (await sheetOf(id)).pictures.length, { timeout: 30_000 }).toBe(2);
  const layer = await top(id);
  expect(layer.cells['base-colour'].placed).toBeTruthy();
  expect(layer.cells.roughness.placed).toBeTruthy();
  const hide = page.getByRole('slider', { name: 'Hide repeats' });
  await hide.focus();
  await page.keyboard.press('ArrowRight');
  await expect.poll(async () => (await top(id)).placement?.hide).toBeGreaterThan(0);
  // A photograph's red channel as the alpha of a coat; a channel that it does not have is refused in a sentence.
  await choose([{ name: 'glints.png', buffer: png([250, 40, 20]) }]);
  await page.getByRole('radio', { name: 'One channel as alpha' }).click();
  await page.getByLabel('Channel').selectOption('alpha');
  await page.getByRole('button', { name: 'Lay down' }).click();
  await expect(page.getByText(/"glints.png" has no alpha/)).toBeVisible();
  await page.getByLabel('Channel').selectOption('red');
  await page.getByRole('button', { name: 'Lay down' }).click();
  await expect.poll(async () => (await sheetOf(id)).masks[0]?.steps[0].source.type, { timeout: 30_000 }).toBe('picture');
});

test('squint, guides and albedo marks are ways to look that change nothing', async ({ page }) => {
  const id = await makeCanvas(page, 'Looking');
  const { revision } = await stored(id);
  await page.keyboard.press('c');
  await expect(page.getByTestId('squint')).toBeVisible();
  const greys = () =>
    page
      .getByTestId('squint')
      .locator('canvas')
      .evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(20, 20, 8, 8);
        return [data[0], data[1], data[2], data[3]];
      });
  // With the next frame it is there.
  await expect.poll(async () => (await greys())[3]).toBe(255);
  const [r, g, b] = await greys();
  expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(3);
  await page.keyboard.press('c');
  await expect(page.getByTestId('squint')).toBeHidden();
  await page.keyboard.press('g');
  await expect(page.getByTestId('guides')).toBeVisible();
  for (let n = 0; n < 3; n++) await page.keyboard.press('g');
  await expect(page.getByTestId('guides')).toBeHidden();
  // Black is no plausible albedo: marked in blue.
  await addCoat(page);
  await page.getByTestId('layer-row').first().locator('[data-cell=base-colour]').click();
  await page.getByLabel(/, hex$/).fill('#000000');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await page.keyboard.press('v');
  await expect.poll(() => shownAt(page, 'flat', 0.5, 0.5), { timeout: 20_000 }).toEqual([0, 0, 0]);
  await page.getByRole('button', { name: /^Mark colours that no real surface has/ }).click();
  await expect
    .poll(async () => {
      const near = await Promise.all([0.5, 0.505, 0.51, 0.515, 0.52].map((x) => shownAt(page, 'flat', x, 0.5)));
      return near.some(([r, , b]) => b > r + 60);
    })
    .toBe(true);
  expect((await stored(id)).revision).toBeGreaterThan(revision);
});
