import { expect, type CDPSession, type Locator, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { inflateRawSync } from 'node:zlib';
import { decodePng } from '../src/core/codec/png';
import type { Bitmap } from '../src/core/tile/bitmap';
import { blobChannels, unfilterTile } from '../src/core/codec/tileBlob';
import { address } from './app';

export async function openPiece(page: Page, id: string): Promise<void> {
  await page.goto(`${address()}/pieces/${id}`);
  await expect(page.getByTestId('bench')).toBeVisible({ timeout: 90_000 });
  // The page is still while nothing is out of date any more.
  await page.waitForTimeout(1500);
}

export async function kept(page: Page): Promise<void> {
  await expect(page.getByTestId('kept')).toHaveAttribute('data-state', 'kept', { timeout: 60_000 });
}

/** Waits until the trail has this many applied steps, and all is kept. */
export async function keptAfterStroke(page: Page): Promise<void> {
  await expect(page.getByRole('button', { name: /^Undo/ })).toBeEnabled();
  await page.waitForTimeout(300);
  await kept(page);
}

/** A mouse stroke through points given as shares of a pane. */
export async function stroke(page: Page, pane: 'model' | 'flat', points: [number, number][], steps = 6): Promise<void> {
  const box = (await page.getByTestId(`pane-${pane}`).boundingBox())!;
  const at = ([x, y]: [number, number]) => [box.x + x * box.width, box.y + y * box.height] as const;
  await page.mouse.move(...at(points[0]));
  await page.mouse.down();
  for (const p of points.slice(1)) await page.mouse.move(...at(p), { steps });
  await page.mouse.up();
}

/** A pen with pressure, through the browser's own input. */
export class Pen {
  private constructor(private cdp: CDPSession) {}
  static async on(page: Page): Promise<Pen> {
    return new Pen(await page.context().newCDPSession(page));
  }
  private send(type: 'mousePressed' | 'mouseMoved' | 'mouseReleased', x: number, y: number, force: number, buttons: number) {
    return this.cdp.send('Input.dispatchMouseEvent', {
      type,
      x,
      y,
      force,
      buttons,
      button: buttons || type === 'mouseReleased' ? 'left' : 'none',
      clickCount: 1,
      pointerType: 'pen',
      tiltX: 10,
      tiltY: 5,
    });
  }
  async stroke(points: [x: number, y: number, force: number][]): Promise<void> {
    const [first] = points;
    await this.send('mouseMoved', first[0], first[1], 0, 0);
    await this.send('mousePressed', first[0], first[1], first[2], 1);
    for (const [x, y, force] of points.slice(1)) await this.send('mouseMoved', x, y, force, 1);
    const last = points.at(-1)!;
    await this.send('mouseReleased', last[0], last[1], 0, 0);
  }
}

export function pictureOf(png: Buffer): Bitmap {
  return decodePng(new Uint8Array(png));
}

/** RGB at a point of a pane, as shown on the screen. */
export async function shownAt(page: Page, pane: 'model' | 'flat', x: number, y: number): Promise<number[]> {
  const box = (await page.getByTestId(`pane-${pane}`).boundingBox())!;
  const picture = pictureOf(await page.screenshot());
  const o = (Math.floor(box.y + y * box.height) * picture.width + Math.floor(box.x + x * box.width)) * picture.channels;
  return [...picture.data.slice(o, o + 3)];
}

interface Opened {
  document: { sheets: { id: string; width: number; layers: { id: string; name: string; opacity: number }[] }[]; name: string };
  revision: number;
  position: number;
  tiles: [string, number, string][];
}

/** What the server has: the document and the texels of one plane, as the database keeps them. */
export async function stored(id: string): Promise<Opened> {
  return (await (await fetch(`${address()}/api/pieces/${id}`)).json()) as Opened;
}

export async function storedTile(id: string, plane: string, tile: number): Promise<Uint16Array | null> {
  const row = (await stored(id)).tiles.find((t) => t[0] === plane && t[1] === tile);
  if (!row) return null;
  const answer = new Uint8Array(
    await (await fetch(`${address()}/api/blobs`, { method: 'POST', body: JSON.stringify([row[2]]) })).arrayBuffer(),
  );
  const blob = answer.subarray(4);
  return unfilterTile(inflateRawSync(blob.subarray(1)), blobChannels(blob));
}

/** Tiles of a plane in which something is covered, with the number of covered texels. */
export async function coveredTiles(id: string, plane: string): Promise<Map<number, number>> {
  const out = new Map<number, number>();
  for (const [p, tile] of (await stored(id)).tiles) {
    if (p !== plane) continue;
    const data = (await storedTile(id, plane, tile))!;
    const channels = data.length / 16384;
    let n = 0;
    for (let i = channels - 1; i < data.length; i += channels) if (data[i] > 0) n++;
    if (n) out.set(tile, n);
  }
  return out;
}

/** A fresh canvas piece made through the interface; returns its id. */
export async function makeCanvas(page: Page, name: string, width = 256, height = 256): Promise<string> {
  await page.goto(`${address()}/new`);
  await page.getByRole('radio', { name: 'Tileable canvas' }).click();
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Width').fill(String(width));
  await page.getByLabel('Height').fill(String(height));
  await page.getByRole('button', { name: 'Make the canvas' }).click();
  await page.waitForURL(/\/pieces\/[^/]+$/, { timeout: 90_000 });
  await expect(page.getByTestId('bench')).toBeVisible({ timeout: 90_000 });
  await page.waitForTimeout(1000);
  return page.url().split('/').pop()!;
}

/** The same from a cube of one metre, through the file chooser. */
export async function makeCube(page: Page, name: string, size = '256'): Promise<string> {
  const { writeGlb } = await import('../src/core/mesh/writeGlb');
  const { cubeModel } = await import('../src/core/testing/models');
  await page.goto(`${address()}/new`);
  await page
    .getByTestId('model-files')
    .setInputFiles({ name: `${name}.glb`, mimeType: 'model/gltf-binary', buffer: Buffer.from(await writeGlb(cubeModel())) });
  await page.getByLabel('Sheet size').selectOption(size);
  await page.getByRole('button', { name: 'Make the piece' }).click();
  await page.waitForURL(/\/pieces\/[^/]+$/, { timeout: 90_000 });
  await expect(page.getByTestId('bench')).toBeVisible({ timeout: 90_000 });
  await page.waitForTimeout(1500);
  return page.url().split('/').pop()!;
}

export async function layerIdOf(id: string, name: string): Promise<string> {
  return (await stored(id)).document.sheets[0].layers.find((l) => l.name === name)!.id;
}

export async function downloadBy(page: Page, button: Locator): Promise<{ name: string; bytes: Uint8Array }> {
  const [download] = await Promise.all([page.waitForEvent('download', { timeout: 120_000 }), button.click()]);
  return { name: download.suggestedFilename(), bytes: new Uint8Array(readFileSync((await download.path())!)) };
}
