import { expect, type CDPSession, type Locator, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { inflateRawSync } from 'node:zlib';
import { decodePng } from '../src/core/codec/png';
import type { Bitmap } from '../src/core/tile/bitmap';
import { blobChannels, unfilterTile } from '../src/core/codec/tileBlob';
import { sha256 } from '../src/core/codec/tileBlob';
import { writeGlb } from '../src/core/mesh/writeGlb';
import { createCanvasPiece, createModelPiece } from '../src/core/piece/create';
import { writePieceFile, type PieceBundle } from '../src/core/piece/pieceFile';
import { canvasThumbnail, modelThumbnail } from '../src/core/piece/thumbnail';
import { cubeModel } from '../src/core/testing/models';
import { address } from './app';
import { still } from './still';

export { still };

export async function openPiece(page: Page, id: string): Promise<void> {
  await page.goto(`${address()}/pieces/${id}`);
  await still(page);
}

export async function kept(page: Page): Promise<void> {
  await expect(page.getByTestId('kept')).toHaveAttribute('data-state', 'kept', { timeout: 60_000 });
}

/** Waits until the trail has this many applied steps, and all is kept. */
export async function keptAfterStroke(page: Page): Promise<void> {
  await expect(page.getByRole('button', { name: /^Undo/ })).toBeEnabled();
  // The badge follows in the next frame.
  await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
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

/** RGB at points of a pane, given as shares of it, as shown on the screen. */
export async function shownAtAll(page: Page, pane: 'model' | 'flat', points: readonly [number, number][]): Promise<number[][]> {
  const box = (await page.getByTestId(`pane-${pane}`).boundingBox())!;
  const at = points.map(([x, y]) => [Math.floor(box.x + x * box.width), Math.floor(box.y + y * box.height)]);
  const [left, top] = [0, 1].map((k) => Math.min(...at.map((p) => p[k])));
  const [width, height] = [0, 1].map((k) => Math.max(...at.map((p) => p[k])) - [left, top][k] + 1);
  const picture = pictureOf(await page.screenshot({ clip: { x: left, y: top, width, height } }));
  return at.map(([x, y]) => {
    const o = ((y - top) * picture.width + x - left) * picture.channels;
    return [...picture.data.slice(o, o + 3)];
  });
}

export const shownAt = async (page: Page, pane: 'model' | 'flat', x: number, y: number): Promise<number[]> =>
  (await shownAtAll(page, pane, [[x, y]]))[0];

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
  return row ? texelsOfBlob(row[2]) : null;
}

async function texelsOfBlob(hash: string): Promise<Uint16Array> {
  const answer = new Uint8Array(
    await (await fetch(`${address()}/api/blobs`, { method: 'POST', body: JSON.stringify([hash]) })).arrayBuffer(),
  );
  const blob = answer.subarray(4);
  return unfilterTile(inflateRawSync(blob.subarray(1)), blobChannels(blob));
}

/** Tiles of a plane in which something is covered, with the number of covered texels. */
export async function coveredTiles(id: string, plane: string): Promise<Map<number, number>> {
  const out = new Map<number, number>();
  // Of one moment: the piece may change between two questions.
  for (const [p, tile, hash] of (await stored(id)).tiles) {
    if (p !== plane) continue;
    const data = await texelsOfBlob(hash);
    const channels = data.length / 16384;
    let n = 0;
    for (let i = channels - 1; i < data.length; i += channels) if (data[i] > 0) n++;
    if (n) out.set(tile, n);
  }
  return out;
}

const newId = () => crypto.randomUUID().slice(0, 13);

/** Sends a new piece to the server as the page does; its id. */
export async function importPiece(bundle: PieceBundle): Promise<string> {
  const file = Buffer.from(writePieceFile(bundle));
  const send = () => fetch(`${address()}/api/pieces/import`, { method: 'POST', body: file });
  // The server may close a keep-alive connection just when it is used again: then the request is sent once more.
  const answer = await send().catch(send);
  expect(answer.status).toBe(201);
  return ((await answer.json()) as { id: string }).id;
}

/** Imports a piece and opens it. Making one through the page is tested by `makeCubeByHand` and in out.spec.ts. */
async function openMade(page: Page, bundle: PieceBundle): Promise<string> {
  const id = await importPiece(bundle);
  await openPiece(page, id);
  return id;
}

/** A fresh canvas piece; returns its id. */
export async function makeCanvas(page: Page, name: string, width = 256, height = 256, wrap = true): Promise<string> {
  const { piece, store } = createCanvasPiece({ name, width, height, wrapU: wrap, wrapV: wrap, newId });
  return openMade(page, { piece, store, modelGlb: null, thumbnailPng: canvasThumbnail(piece, store) });
}

/** The same of a cube of one metre. */
export async function makeCube(page: Page, name: string, size = 256): Promise<string> {
  const model = cubeModel();
  const glb = await writeGlb(model);
  const { piece, store } = await createModelPiece(model, {
    ...{ name, uvSet: 0, size, newId, modelBlob: await sha256(glb) },
    decodePicture: () => Promise.reject(new Error('A cube has no pictures.')),
  });
  return openMade(page, { piece, store, modelGlb: glb, thumbnailPng: modelThumbnail(piece, store, model) });
}

/** A cube through the file chooser and the form. */
export async function makeCubeByHand(page: Page, name: string, size = '256'): Promise<string> {
  await page.goto(`${address()}/new`);
  await page
    .getByTestId('model-files')
    .setInputFiles({ name: `${name}.glb`, mimeType: 'model/gltf-binary', buffer: Buffer.from(await writeGlb(cubeModel())) });
  await page.getByLabel('Sheet size').selectOption(size);
  await page.getByRole('button', { name: 'Make the piece' }).click();
  await page.waitForURL(/\/pieces\/[^/]+$/, { timeout: 90_000 });
  await still(page);
  return page.url().split('/').pop()!;
}

export async function layerIdOf(id: string, name: string): Promise<string> {
  return (await stored(id)).document.sheets[0].layers.find((l) => l.name === name)!.id;
}

export async function downloadBy(page: Page, button: Locator): Promise<{ name: string; bytes: Uint8Array }> {
  const [download] = await Promise.all([page.waitForEvent('download', { timeout: 120_000 }), button.click()]);
  return { name: download.suggestedFilename(), bytes: new Uint8Array(readFileSync((await download.path())!)) };
}
