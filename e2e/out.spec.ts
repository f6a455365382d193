import { execFileSync } from 'node:child_process';
import { expect, test } from '@playwright/test';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { validateBytes } from 'gltf-validator';
import { Client } from 'pg';
import { decodePng } from '../src/core/codec/png';
import { readZip } from '../src/core/codec/zip';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { cubeModel } from '../src/core/testing/models';
import { compressedCube } from '../cli/__tests__/compressed';
import { address, appState } from './app';
import { downloadBy, keptAfterStroke, layerIdOf, makeCanvas, still, stored, stroke } from './helpers';

test('dispatch: the names are previewed, the archive holds them, and every file reads back', async ({ page }) => {
  await page.goto(`${address()}/pieces/demo-lantern/dispatch`);
  await expect(page.getByTestId('planned-files')).toBeVisible({ timeout: 90_000 });
  await page.getByRole('radio', { name: '1/4' }).click();
  await page.getByRole('radio', { name: '16 bit' }).click();
  await page.getByLabel('Naming pattern').fill('{map}@{sheet}');
  await expect(page.getByTestId('planned-files')).toContainText('base-colour-metalwork.png');
  await page.getByLabel('Naming pattern').fill('{nothing}');
  await expect(page.getByRole('alert').filter({ hasText: 'stands for nothing' })).toBeVisible();
  await page.getByLabel('Naming pattern').fill('{sheet}_{map}');
  const { name, bytes } = await downloadBy(page, page.getByRole('button', { name: 'Dispatch as one zip' }));
  expect(name).toBe('harbour-lantern.zip');
  const files = readZip(bytes, name);
  expect([...files.keys()].sort()).toEqual(
    ['glass', 'metalwork']
      .flatMap((s) => ['base-colour', 'metallic', 'normal', 'roughness'].map((m) => `${s}_${m}.png`))
      .concat('harbour-lantern.glb')
      .sort(),
  );
  for (const [file, content] of files) {
    if (!file.endsWith('.png')) continue;
    const picture = decodePng(content);
    expect([picture.width, picture.bits]).toEqual([file.startsWith('metal') ? 256 : 128, 16]);
    if (file === 'metalwork_base-colour.png') expect(new Set(picture.data).size).toBeGreaterThan(500);
  }
  const report = await validateBytes(files.get('harbour-lantern.glb')!);
  expect(report.issues.numErrors).toBe(0);
  expect(report.info.resources.filter((r) => r.image).length).toBe(6);
});

test('a piece file goes out and comes in again with the same texels', async ({ page }) => {
  const id = await makeCanvas(page, 'Travelling tile');
  await stroke(page, 'flat', [
    [0.3, 0.4],
    [0.6, 0.6],
  ]);
  await keptAfterStroke(page);
  await page.getByRole('button', { name: 'Travelling tile' }).click();
  const { name, bytes } = await downloadBy(page, page.getByRole('menuitem', { name: /piece file/ }));
  expect(name).toBe('travelling-tile.brindle');
  await page.goto(address());
  await page.locator('input[type=file]').setInputFiles({ name, mimeType: 'application/zip', buffer: Buffer.from(bytes) });
  await expect(page.getByTestId('piece-card').filter({ hasText: 'Travelling tile' })).toHaveCount(2);
  const list = (await (await fetch(`${address()}/api/pieces`)).json()) as { id: string; name: string }[];
  const copy = list.find((p) => p.name === 'Travelling tile' && p.id !== id)!.id;
  const tiles = async (piece: string) => (await stored(piece)).tiles.map((t) => t.join(' ')).sort();
  expect(await tiles(copy)).toEqual(await tiles(id));

  // The same file from the command line gives what the page shows.
  const folder = mkdtempSync(join(tmpdir(), 'brindle-out-'));
  writeFileSync(join(folder, 'x.brindle'), bytes);
  execFileSync('./brindle', [
    'flatten',
    join(folder, 'x.brindle'),
    '--map',
    'base-colour',
    '--size',
    '128',
    '--bits',
    '16',
    '--out',
    join(folder, 'x.png'),
  ]);
  const { readFileSync } = await import('node:fs');
  expect(decodePng(new Uint8Array(readFileSync(join(folder, 'x.png'))))).toMatchObject({
    width: 128,
    height: 128,
    bits: 16,
    channels: 3,
  });
});

test('a new model shows itself and its UV report; bad files get one sentence and leave the page working', async ({ page }) => {
  await page.goto(`${address()}/new`);
  const choose = (name: string, buffer: Buffer) =>
    page.getByTestId('model-files').setInputFiles({ name, mimeType: 'application/octet-stream', buffer });
  const alert = page.getByRole('alert').filter({ hasText: /\S/ });
  for (const [name, buffer, says] of [
    ['empty.glb', Buffer.alloc(0), 'empty'],
    ['cut.glb', Buffer.from(await writeGlb(cubeModel())).subarray(0, 200), 'cut short'],
    ['wide.obj', Buffer.from('\ufeffv 0 0 0', 'utf16le'), 'UTF-16'],
    ['odd.obj', Buffer.from('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 7\n'), 'vertex 7 of 3'],
    ['table.csv', Buffer.from('a,b'), 'GLB, glTF, OBJ'],
  ] as const) {
    await choose(name, buffer);
    await expect(alert).toContainText(says);
  }
  await choose('bare.obj', Buffer.from('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'));
  await expect(page.getByTestId('uv-problems')).toContainText('no UVs');
  await expect(page.getByRole('button', { name: 'Make the piece' })).toHaveCount(0);
  // Laid out anew it can be painted.
  await page.getByRole('button', { name: 'Unwrap it' }).click();
  await expect(page.getByRole('button', { name: 'Make the piece' })).toBeVisible();
  await page.getByRole('button', { name: 'Choose another file' }).click();
  // Compressed models: the decoders come from this server, when they are needed.
  for (const kind of ['draco', 'meshopt'] as const) {
    await choose(`${kind}.glb`, Buffer.from(await compressedCube(kind)));
    await expect(page.getByText('12', { exact: true })).toBeVisible();
    await page.getByRole('button', { name: 'Choose another file' }).click();
  }
  await choose('cube.glb', Buffer.from(await writeGlb(cubeModel())));
  await expect(page.getByTestId('uv-problems')).toContainText('sound');
  await expect(page.getByText('triangles')).toBeVisible();
});

test('a canvas of size 0 or 100,000 is refused in one sentence, a right one is made', async ({ page }) => {
  await page.goto(`${address()}/new`);
  await page.getByRole('radio', { name: 'Tileable canvas' }).click();
  for (const width of ['0', '100000']) {
    await page.getByLabel('Width').fill(width);
    await page.getByRole('button', { name: 'Make the canvas' }).click();
    await expect(page.getByRole('alert').filter({ hasText: `The width is ${width} texels` })).toBeVisible();
  }
  await page.getByLabel('Name').fill('By hand');
  await page.getByLabel('Width').fill('256');
  await page.getByLabel('Height').fill('128');
  await page.getByRole('button', { name: 'Make the canvas' }).click();
  await page.waitForURL(/\/pieces\/[^/]+$/, { timeout: 90_000 });
  await still(page);
  const { document } = await stored(page.url().split('/').pop()!);
  expect(document).toMatchObject({ name: 'By hand', sheets: [{ width: 256, height: 128 }] });
});

test('single-map views show exact values', async ({ page }) => {
  const { shownAt } = await import('./helpers');
  const id = await makeCanvas(page, 'Exact tile');
  const ground = await layerIdOf(id, 'Ground');
  expect(ground).toBeTruthy();
  await page.getByRole('radio', { name: 'Rough' }).click();
  await still(page);
  // A new canvas starts at roughness 60 %: 0.6 × 255 = 153.
  expect(await shownAt(page, 'flat', 0.5, 0.5)).toEqual([153, 153, 153]);
  expect(await shownAt(page, 'model', 0.5, 0.5)).toEqual([153, 153, 153]);
  await page.getByRole('radio', { name: 'Colour' }).click();
  await still(page);
  for (const pane of ['flat', 'model'] as const)
    for (const v of await shownAt(page, pane, 0.5, 0.5)) expect(Math.abs(v - 128)).toBeLessThanOrEqual(1);
});

test('demo pieces that are being imported: a card for each, with what went wrong, until they are there', async ({ page }) => {
  const client = new Client({ connectionString: appState().databaseUrl });
  await client.connect();
  try {
    await client.query("insert into arriving (name, title) values ('a', 'Diving mask'), ('b', 'Sign strip')");
    await page.goto(address());
    const cards = page.getByTestId('arriving-card');
    await expect(cards).toHaveText([/Diving mask.*Being imported/, /Sign strip.*Being imported/]);
    await client.query("update arriving set fault = 'The disk is full.' where name = 'b'");
    await expect(cards.nth(1)).toContainText('Not imported: The disk is full.');
    // One arrives, the other is tried again: without a reload its card is there.
    await client.query("update pieces set name = 'Diving mask' where id = 'demo-buoy'");
    await client.query("update arriving set there = name = 'a', fault = null");
    await expect(page.getByRole('link', { name: 'Open Diving mask', exact: true })).toBeVisible();
    await expect(cards).toHaveText([/Sign strip.*Being imported/]);
    await client.query('delete from arriving');
    await expect(cards).toHaveCount(0);
  } finally {
    await client.query("update pieces set name = 'Buoy token' where id = 'demo-buoy'; delete from arriving");
    await client.end();
  }
});

test('pieces: search, rename, duplicate, delete with undo', async ({ page }) => {
  await makeCanvas(page, 'Card tile', 64, 64);
  await page.goto(address());
  const card = (name: string) =>
    page.getByTestId('piece-card').filter({ has: page.getByRole('link', { name: `Open ${name}`, exact: true }) });
  await page.getByLabel('Search the pieces').fill('card');
  await expect(page.getByTestId('piece-card')).toHaveCount(1);
  await page.getByRole('button', { name: 'More for Card tile' }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(card('Card tile copy')).toBeVisible();
  await page.getByRole('button', { name: 'More for Card tile copy' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name of the piece').fill('Card of another name');
  await page.keyboard.press('Enter');
  await expect(card('Card of another name')).toBeVisible();
  await page.getByRole('button', { name: 'More for Card of another name' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(card('Card of another name')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(card('Card of another name')).toBeVisible();
});
