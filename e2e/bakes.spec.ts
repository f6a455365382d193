/** Bakes in the real page: first tries, the queue and its workers, what uses them, maps baked elsewhere, masks by shape. */
import { fork, type ChildProcess } from 'node:child_process';
import { expect, test, type Page } from '@playwright/test';
import { encodePng } from '../src/core/codec/png';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { together } from '../src/core/testing/baked';
import { boxModel } from '../src/core/testing/models';
import { address, appState } from './app';
import {
  coveredTiles,
  kept,
  keptAfterStroke,
  makeCanvas,
  makeCube,
  shownAt,
  shownAtAll,
  stored,
  storedTile,
  stroke,
} from './helpers';

interface StoredPicture {
  id: string;
  name: string;
  width: number;
  bake?: { made: string; missed: number; settings: { type: string; reach?: number }; twin: { name: string } | null };
}
const sheetOf = async (id: string) =>
  (await stored(id)).document.sheets[0] as unknown as {
    pictures: StoredPicture[];
    layers: { name: string; mask: object | null; cells: Record<string, { placed?: { picture: string } }> }[];
    masks: { name: string; steps: { source: { type: string; of?: string } }[] }[];
  };
const bakesOf = async (id: string) => (await sheetOf(id)).pictures.filter((p) => p.bake);

let worker: ChildProcess | null = null;
function startWorker(): void {
  worker = fork('cli/main.ts', ['worker'], {
    execArgv: ['--import', 'tsx'],
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    env: { ...process.env, DATABASE_URL: appState().databaseUrl },
  });
}
test.afterEach(() => {
  worker?.kill('SIGKILL');
  worker = null;
});

const card = (page: Page) => page.getByRole('region', { name: 'Bakes' });
async function add(page: Page, what: string): Promise<void> {
  await card(page).getByRole('button', { name: 'Add a map' }).click();
  await page.getByRole('menuitem', { name: what, exact: true }).click();
}
/** Whether the first of the cube's sides is black in its middle, and lighter somewhere along its rim. */
async function onlyTheRim(page: Page): Promise<boolean> {
  const [middle, ...rim] = await shownAtAll(page, 'flat', [
    [0.19, 0.215],
    ...Array.from({ length: 80 }, (_, n): [number, number] => [0.064 + (n % 10) * 0.002, 0.13 + Math.floor(n / 10) * 0.022]),
  ]);
  return middle[0] < 10 && rim.some((rgb) => rgb[0] > 40);
}

test('a bake is tried at once, baked by a worker, laid down and painted over; baked anew, the paint stays', async ({ page }) => {
  const id = await makeCube(page, 'Baked');
  await page.keyboard.press('Control+b');
  await add(page, 'Position');
  // The first try stands in both panes before anything is baked: a ramp from the foot up.
  await expect(card(page).getByText('not baked yet')).toBeVisible();
  const grey = async (x: number, y: number) => (await shownAt(page, 'flat', x, y))[0];
  await expect.poll(async () => (await grey(0.19, 0.13)) - (await grey(0.19, 0.3))).toBeGreaterThan(60);
  expect((await coveredTiles(id, `${(await bakesOf(id))[0].id}/picture`)).size).toBe(0);

  // Nobody works yet: it waits, and can be cancelled.
  await card(page).getByRole('button', { name: 'Bake it' }).click();
  await expect(card(page).getByText('waits for a worker')).toBeVisible();
  await card(page).getByRole('button', { name: 'Cancel baking Position' }).click();
  await expect(card(page).getByText('cancelled')).toBeVisible();
  startWorker();
  await card(page).getByRole('button', { name: 'Bake Position' }).click();
  await expect(card(page).getByText('up to date')).toBeVisible({ timeout: 60_000 });
  await kept(page);
  const [picture] = await bakesOf(id);
  expect(picture.bake).toMatchObject({ settings: { type: 'position' }, missed: 0 });
  const before = (await storedTile(id, `${picture.id}/picture`, 0))!;
  expect(Math.max(...before)).toBe(65535);

  await card(page)
    .getByRole('button', { name: /Lay it down/ })
    .click();
  await page.getByRole('button', { name: 'Painted', exact: true }).click();
  await card(page).getByRole('button', { name: 'Put the bakes away' }).click();
  await stroke(page, 'flat', [
    [0.12, 0.2],
    [0.26, 0.2],
  ]);
  await keptAfterStroke(page);
  const sheet = await sheetOf(id);
  expect(sheet.layers.some((l) => l.cells['base-colour']?.placed?.picture === picture.id)).toBe(true);
  const painted = (await stored(id)).tiles.filter(([plane]) => plane.endsWith('/base-colour'));
  expect(painted.length).toBeGreaterThan(0);

  // Another axis: it says that it is out of date, and what it had stays until it is baked anew.
  await page.keyboard.press('Control+b');
  await card(page).getByLabel('Along').selectOption('x');
  await expect(card(page).getByText('out of date: bake it anew')).toBeVisible();
  expect(await storedTile(id, `${picture.id}/picture`, 0)).toEqual(before);
  await card(page).getByRole('button', { name: 'Bake it' }).click();
  await expect(card(page).getByText('up to date')).toBeVisible({ timeout: 60_000 });
  await kept(page);
  expect(await storedTile(id, `${picture.id}/picture`, 0)).not.toEqual(before);
  expect((await stored(id)).tiles.filter(([plane]) => plane.endsWith('/base-colour'))).toEqual(painted);

  await page.goto(`${address()}/jobs`);
  await expect(
    page
      .getByText('Baked, Cube: Position')
      .or(page.getByText(/Baked, .*: Position/))
      .first(),
  ).toBeVisible();
  await expect(page.getByRole('region', { name: 'Workers' }).getByText(/cores/)).toBeVisible();
});

test('three clicks from nothing to worn edges; grime in cavities asks for its bake by itself', async ({ page }) => {
  const id = await makeCube(page, 'Worn');
  startWorker();
  await page.getByRole('button', { name: 'Coat', exact: true }).click();
  await page.getByRole('button', { name: 'Mask by the model’s shape' }).click();
  await page.getByRole('menuitem', { name: 'Edge wear' }).click();
  await expect.poll(async () => (await sheetOf(id)).masks[0]?.steps[0].source.type).toBe('edges');
  await page.getByRole('radio', { name: 'Alone' }).click();
  await expect.poll(() => onlyTheRim(page)).toBe(true);
  await page.keyboard.press('Control+z');
  await page.getByRole('button', { name: 'Mask by the model’s shape' }).click();
  await page.getByRole('menuitem', { name: 'Dirt in corners' }).click();
  await expect.poll(async () => (await bakesOf(id))[0]?.bake?.made.length ?? 0, { timeout: 60_000 }).toBeGreaterThan(10);
  expect((await sheetOf(id)).masks[0].steps[0].source).toMatchObject({ type: 'bake', of: 'occlusion' });
  // A box alone has no dark corners.
  await page.getByRole('radio', { name: 'Off' }).click();
});

test('a dense model is sent, looked for and missed loudly; what can never be baked says why', async ({ page }) => {
  const id = await makeCube(page, 'From a twin');
  startWorker();
  await page.keyboard.press('Control+b');
  await add(page, 'Height');
  await card(page).getByRole('button', { name: 'Bake Height' }).click();
  await expect(page.getByText('Height is baked from a dense model: choose its file first.')).toBeVisible();
  // Larger than the cube by far more than the reach: nothing is met.
  const far = Buffer.from(await writeGlb({ ...boxModel(2, 2, 2), parts: ['Cube_dense'] }));
  await card(page)
    .getByLabel('File of the dense model')
    .setInputFiles({ name: 'far.glb', mimeType: 'model/gltf-binary', buffer: far });
  await expect(card(page).getByText('far.glb')).toBeVisible();
  // The first try is loud at once.
  await expect.poll(async () => (await shownAt(page, 'flat', 0.19, 0.2)).map((v) => Math.round(v / 40)).join()).toBe('6,0,1');
  await card(page).getByRole('button', { name: 'Bake Height' }).click();
  await expect(card(page).getByText(/texels missed the dense model/)).toBeVisible({ timeout: 60_000 });
  await kept(page);
  expect((await bakesOf(id))[0].bake).toMatchObject({ twin: { name: 'far.glb' } });
  // Each side of the cube is listed; going there shows it in both panes.
  const missed = card(page).getByRole('list', { name: 'Where the dense model was missed' });
  await expect(missed.getByRole('button')).toHaveCount(6);
  await missed.getByRole('button').first().click();
  await expect.poll(async () => (await shownAt(page, 'model', 0.5, 0.5)).map((v) => Math.round(v / 40)).join()).toBe('6,0,1');
  // The cage lies over the model, see-through: the red under it is another one.
  const red = () => shownAt(page, 'model', 0.5, 0.5);
  const [before] = [await red()];
  await card(page).getByRole('switch', { name: 'Cage' }).click();
  await expect.poll(async () => (await red())[1]).toBeGreaterThan(before[1] + 5);
  await card(page).getByRole('switch', { name: 'Cage' }).click();
  await expect.poll(red).toEqual(before);
  // It is twice as large as the cube: that is noticed, and it can be laid onto it.
  await card(page).getByRole('button', { name: 'Fit it' }).click();
  await expect(card(page).getByText('Laid onto the model.')).toBeVisible();
  await card(page).getByRole('button', { name: 'Bake Height' }).click();
  await expect(card(page).getByText('up to date')).toBeVisible({ timeout: 60_000 });
  await kept(page);
  expect((await bakesOf(id))[0].bake!.missed).toBe(0);
  // Bytes that are no model are taken in, and fail with a sentence.
  await card(page)
    .getByLabel('File of the dense model')
    .setInputFiles({ name: 'broken.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from('nothing') });
  await card(page).getByRole('button', { name: 'Bake Height' }).click();
  await expect(
    card(page)
      .getByText(/broken|GLB file/)
      .first(),
  ).toBeVisible({ timeout: 60_000 });
});

test('maps baked elsewhere come in by drop, known by their names; others are refused with a sentence', async ({ page }) => {
  const id = await makeCanvas(page, 'Elsewhere');
  await page.keyboard.press('Control+b');
  const data = Uint16Array.from({ length: 64 * 64 }, (_, i) => (i % 64) * 1000);
  const png = Buffer.from(encodePng({ width: 64, height: 64, channels: 1, bits: 16, data }));
  const drop = async (name: string) => {
    const transfer = await page.evaluateHandle(
      ([bytes, file]) => {
        const made = new DataTransfer();
        made.items.add(new File([Uint8Array.from(bytes as number[])], file as string, { type: 'image/png' }));
        return made;
      },
      [[...png], name] as const,
    );
    await card(page).dispatchEvent('drop', { dataTransfer: transfer });
  };
  await drop('holiday.png');
  await expect(page.getByText(/is not known as a baked map by its name/)).toBeVisible();
  expect(await bakesOf(id)).toEqual([]);
  await drop('crate_low_AO.png');
  await expect(card(page).getByText('Ambient occlusion')).toBeVisible();
  await expect(card(page).getByText('baked elsewhere')).toBeVisible();
  await kept(page);
  const [picture] = await bakesOf(id);
  expect([picture.width, picture.bake!.made]).toEqual([64, 'file']);
  // All 16 bits of it.
  expect((await storedTile(id, `${picture.id}/picture`, 0))![4]).toBe(1000);
});

test('parts are paired by hand, reaches are painted by a mask', async ({ page }) => {
  const id = await makeCube(page, 'By hand');
  startWorker();
  await page.keyboard.press('Control+b');
  await add(page, 'Height');
  // Two shells around the cube: one far, one near, neither with its name.
  const shell = (size: number) => boxModel(size, size, size);
  const shells = { ...together(shell(1.036), shell(1.012)), parts: ['Far shell', 'Near shell'] };
  await card(page)
    .getByLabel('File of the dense model')
    .setInputFiles({ name: 'shells.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(await writeGlb(shells)) });
  await expect(card(page).getByText('shells.glb')).toBeVisible();
  await card(page).getByLabel('Match').selectOption('pairs');
  const pair = card(page).getByRole('button', { name: /^Parts of the dense model for/ });
  await expect(pair).toHaveText('none: missed');
  const bakeIt = async () => {
    await card(page).getByRole('button', { name: 'Bake Height' }).click();
    await expect(
      card(page)
        .getByText(/up to date|texels missed/)
        .first(),
    ).toBeVisible({ timeout: 60_000 });
    await kept(page);
    return (await bakesOf(id))[0];
  };
  /** The height in the middle of the first side. */
  const height = async () => {
    const picture = (await bakesOf(id))[0];
    const at = Math.floor(0.19 * picture.width);
    return (await storedTile(id, `${picture.id}/picture`, 0))![(at * 128 + at) * 4] / 65535;
  };
  for (const [name, above] of [
    ['Near shell', 0.006],
    ['Far shell', 0.018],
  ] as const) {
    await pair.click();
    await page.getByRole('menuitemcheckbox', { name }).click();
    await page.keyboard.press('Escape');
    await expect(pair).toContainText('shell');
    await bakeIt();
    // Both are chosen in the end: from outside in, the far one is met first. The span is 2 % of the size to either side.
    await expect.poll(height).toBeCloseTo(0.5 + above / 0.04, 1);
  }
  expect((await bakesOf(id))[0].bake!.missed).toBe(0);

  // Only what faces up has its whole reach: the other sides are missed.
  await page.getByRole('button', { name: 'Coat', exact: true }).click();
  await page.getByRole('button', { name: 'Mask by the model’s shape' }).click();
  await page.getByRole('menuitem', { name: 'Dust on top' }).click();
  await page.keyboard.press('Escape');
  await card(page).getByLabel('Reach', { exact: true }).selectOption({ index: 1 });
  await expect
    .poll(async () => (await bakesOf(id))[0].bake!.twin as object)
    .toMatchObject({ reachBy: { mask: expect.any(String) } });
  await bakeIt();
  await expect.poll(async () => (await bakesOf(id))[0].bake!.missed).toBeGreaterThan(1000);
  await expect(card(page).getByRole('list', { name: 'Where the dense model was missed' }).getByRole('button')).toHaveCount(5);
});

test('ids are picked by a click, and the direction of facing is turned by its handle', async ({ page }) => {
  const id = await makeCube(page, 'Picked');
  startWorker();
  await page.getByRole('button', { name: 'Coat', exact: true }).click();
  await page.getByRole('button', { name: 'Mask by the model’s shape' }).click();
  await page.getByRole('menuitem', { name: 'Dust on top' }).click();
  const steps = async () =>
    (await sheetOf(id)).masks[0].steps.map((s) => s.source) as unknown as { direction?: number[]; colours?: number[][] }[];
  await page.getByRole('button', { name: 'Handles in the view' }).click();
  const handle = page.locator('[data-testid="handles-model"] [data-handle="axis"]');
  // Only the direction can be pulled: the middle stays where it is.
  await expect(page.locator('[data-testid="handles-model"] [data-handle="centre"]')).toHaveCount(0);
  const box = (await handle.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 120, box.y + box.height / 2 + 60, { steps: 5 });
  await page.mouse.up();
  await kept(page);
  const [x, y, z] = (await steps())[0].direction!;
  expect(Math.hypot(x, y, z)).toBeCloseTo(1, 5);
  expect(y).toBeLessThan(0.95);

  await page.getByRole('button', { name: 'Add a step to the mask' }).click();
  await page.getByRole('menuitem', { name: 'Ids', exact: true }).click();
  await expect.poll(async () => (await bakesOf(id))[0]?.bake?.made.length ?? 0, { timeout: 60_000 }).toBeGreaterThan(10);
  const pane = (await page.getByTestId('pane-flat').boundingBox())!;
  await page.mouse.click(pane.x + 0.19 * pane.width, pane.y + 0.2 * pane.height);
  await expect(page.getByRole('button', { name: /^Take out #/ })).toHaveCount(1);
  await kept(page);
  expect((await steps())[1].colours).toHaveLength(1);
  // Clicked once more it is out again.
  await page.mouse.click(pane.x + 0.19 * pane.width, pane.y + 0.2 * pane.height);
  await expect(page.getByRole('button', { name: /^Take out #/ })).toHaveCount(0);
  await kept(page);
  expect((await steps())[1].colours).toEqual([]);
});
