/**
 * Opening a piece in the real page: until the picture as it was left stands there, until a first stroke is under the pen, until all
 * is exact; from navigation on, on a started server. A first visit in a new browser, then a second one in the same; and what all
 * processes of the page hold then. The references are what was asked for.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type BrowserContext, type Page } from '@playwright/test';
import { address, appState, startApps } from '../../e2e/app';
import { CHROMIUM } from '../../e2e/chromium';
import { newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import type { Model } from '../../src/core/mesh/model';
import { readModel } from '../../src/core/mesh/readModel';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { attachSurfaces } from '../../src/core/strata/pieceSurfaces';
import { TileStore } from '../../src/core/tile/tiles';
import { quadModel, type Quad } from '../../src/core/testing/models';
import { Renderer } from '../../src/engine/show/renderer';
import { ensureBuild } from '../serve';
import { COUNT_FRAMES } from './frames';
import { asked, type Result } from './result';

/** Seconds. */
const WANTED = { first: { look: 2, stroke: 4, exact: 10 }, second: { look: 1.5, stroke: 2.5, exact: 4 } };
const GIVE_UP_S = 120;

/** As text: the loader of this file adds helpers to functions that pages do not know. */
const IN_PAGE = `
  window.brindleLook = null;
  new PerformanceObserver((list) => {
    for (const e of list.getEntries()) window.brindleLook ??= e.renderTime || e.loadTime;
  }).observe({ type: 'element', buffered: true });
`;

/** A browser that has just been begun is busy with itself for so long. */
const SETTLE_MS = 3000;

/** A context with a profile on the disk, as a browser has it, which has come to rest. */
export async function withBrowser<T>(work: (context: BrowserContext) => Promise<T>): Promise<T> {
  const profile = mkdtempSync(join(tmpdir(), 'brindle-profile-'));
  const context = await chromium.launchPersistentContext(profile, { ...CHROMIUM, viewport: { width: 1280, height: 800 } });
  try {
    await context.addInitScript(IN_PAGE);
    await new Promise((resolve) => setTimeout(resolve, SETTLE_MS));
    return await work(context);
  } finally {
    await context.close();
    rmSync(profile, { recursive: true, force: true });
  }
}

const seconds = async (page: Page, expression: string): Promise<number | null> => {
  const ms = (await page.evaluate(expression)) as number | null;
  return ms === null ? null : ms / 1000;
};

async function until(page: Page, expression: string): Promise<number> {
  for (let n = 0; n < GIVE_UP_S * 10; n++) {
    const found = await seconds(page, expression);
    if (found !== null) return found;
    await page.waitForTimeout(100);
  }
  throw new Error(`"${expression}" did not come within ${GIVE_UP_S} s.`);
}

const EXACT = "performance.getEntriesByName('brindle:exact')[0]?.startTime ?? null";
const STROKE =
  "(() => { const m = performance.getEntriesByName('brindle:pointer-to-pixel')[0]; return m ? m.startTime + m.duration : null; })()";

/** Opens the piece twice: to see it, and to paint at once. Each as a visit of its own. */
async function visit(
  context: BrowserContext,
  url: string,
  paints: boolean,
): Promise<{ look: number; exact: number; stroke: number }> {
  const page = await context.newPage();
  try {
    await page.goto(url, { waitUntil: 'commit' });
    if (!paints) {
      const exact = await until(page, EXACT);
      const look = await until(page, 'window.brindleLook');
      // What is drawn is kept, and how it looks.
      await page.waitForTimeout(12_000);
      return { look, exact, stroke: NaN };
    }
    const pane = page.getByTestId('pane-model');
    await pane.waitFor({ timeout: GIVE_UP_S * 1000 });
    const box = (await pane.boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2 + 30, box.y + box.height / 2 + 10, { steps: 4 });
    const stroke = await until(page, STROKE);
    await page.mouse.up();
    await page.keyboard.press('Control+z');
    await page.waitForTimeout(4000);
    return { look: NaN, exact: NaN, stroke };
  } finally {
    await page.close();
  }
}

/** MiB of all processes of a browser's pages (renderers that show one, and the one that draws). */
function pageMiB(): number {
  const out = execFileSync('ps', ['-eo', 'pid,args']).toString();
  const pids = out
    .split('\n')
    .filter((line) => /chromium/.test(line) && /--type=(renderer|gpu-process)/.test(line) && !/extension-process/.test(line))
    .map((line) => line.trim().split(/\s+/)[0]);
  const pss = (pid: string) => {
    try {
      return Number(/^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8'))?.[1] ?? 0);
    } catch {
      return 0;
    }
  };
  return pids.reduce((sum, pid) => sum + pss(pid), 0) / 1024;
}

export async function opening(): Promise<Result[]> {
  await ensureBuild(() => undefined);
  const stop = await startApps(2048, 1);
  try {
    const url = `${address()}/pieces/demo-lantern`;
    const results: Result[] = [];
    for (const which of ['first', 'second'] as const) {
      // A browser of its own for each sort of visit: a first one is a first one.
      const seen = await withBrowser(async (context) => {
        if (which === 'second') await visit(context, url, false);
        return visit(context, url, false);
      });
      const painted = await withBrowser(async (context) => {
        if (which === 'second') await visit(context, url, false);
        return visit(context, url, true);
      });
      const wanted = WANTED[which];
      results.push(asked(`open-to-look ${which} visit`, seen.look, 's', wanted.look));
      results.push(asked(`open-to-stroke ${which} visit`, painted.stroke, 's', wanted.stroke));
      results.push(asked(`open-to-exact ${which} visit`, seen.exact, 's', wanted.exact));
    }
    await forgetDrawn();
    const alone = await withBrowser((context) => visit(context, url, false));
    results.push(asked('open-to-exact drawn by nobody yet', alone.exact, 's', WANTED.first.exact));
    return results;
  } finally {
    await stop();
  }
}

/** A bent sheet of 45 × 45 quads in one island: 4,050 triangles. */
function bentSheet(): Model {
  const side = 45;
  const at = (i: number, j: number): [number, number, number] => [i / side, Math.sin((i / side) * 3) * 0.2, j / side];
  const quads = Array.from({ length: side * side }, (_, n): Quad => {
    const [i, j] = [n % side, Math.floor(n / side)];
    return {
      corners: [at(i, j + 1), at(i + 1, j + 1), at(i + 1, j), at(i, j)],
      uv: [i / side, j / side, (i + 1) / side, (j + 1) / side],
    };
  });
  return quadModel(quads);
}

/** From the button that makes a piece of a model of 4,000 triangles at 2048² to the bench. */
export async function newPieceFromModel(): Promise<Result[]> {
  await ensureBuild(() => undefined);
  const stop = await startApps(256, 1);
  try {
    const glb = Buffer.from(await writeGlb(bentSheet()));
    return await withBrowser(async (context) => {
      const page = context.pages()[0] ?? (await context.newPage());
      await page.goto(`${address()}/new`);
      await page.getByTestId('model-files').setInputFiles({ name: 'sheet.glb', mimeType: 'model/gltf-binary', buffer: glb });
      await page.getByLabel('Sheet size').selectOption('2048');
      const make = page.getByRole('button', { name: 'Make the piece' });
      await make.waitFor();
      const start = performance.now();
      await make.click();
      await page.getByTestId('bench').waitFor({ timeout: GIVE_UP_S * 1000 });
      return [asked('new-piece', (performance.now() - start) / 1000, 's', 3)];
    });
  } finally {
    await stop();
  }
}

/** All planes of the lantern from nothing, on this thread: what a first visit has to work out. */
export async function firstExact(): Promise<Result[]> {
  const { lanternBundle } = await import('../../demo/lantern');
  const { piece, store, modelGlb } = await lanternBundle(2048);
  attachSurfaces(store, await readModel(new Map([['model.glb', modelGlb!]])), piece.model!.uvSet);
  const start = performance.now();
  const renderer = new Renderer(store);
  renderer.planes.focus = piece.sheets[0].id;
  renderer.renderAll(piece, () => undefined);
  return [asked('first-exact', (performance.now() - start) / 1000, 's', 6)];
}

/** The server has nothing of what was drawn of its pieces. */
async function forgetDrawn(): Promise<void> {
  process.env.DATABASE_URL = appState().databaseUrl;
  const { keepWithin } = await import('../../src/server/drawn');
  const { closePool } = await import('../../src/server/db');
  await keepWithin(0);
  await closePool();
}

/** Puts blank canvases of four maps on the server, by the names "blank-" and their side. */
async function blankCanvases(...sides: number[]): Promise<void> {
  process.env.DATABASE_URL = appState().databaseUrl;
  const { insertPiece } = await import('../../src/server/pieces');
  const { closePool } = await import('../../src/server/db');
  for (const side of sides) {
    const id = `blank-${side}`;
    const sheet = newSheet('s', 'Canvas', side, side, { maps: ['base-colour', 'height', 'roughness', 'metallic'] });
    sheet.layers = [newPaintedLayer('l', 'Hand', sheet.maps)];
    await insertPiece(
      { piece: newPiece(id, id, 'canvas', [sheet]), store: new TileStore(), modelGlb: null, thumbnailPng: null },
      { keepId: true },
    );
  }
  await closePool();
}

/** Frames a second that show more of a stroke while it goes on, on a canvas of 4096². */
export async function strokeFrames(): Promise<Result[]> {
  await ensureBuild(() => undefined);
  const stop = await startApps(256, 1);
  try {
    await blankCanvases(4096);
    return await withBrowser(async (context) => {
      await context.addInitScript(COUNT_FRAMES);
      const page = context.pages()[0] ?? (await context.newPage());
      await page.goto(`${address()}/pieces/blank-4096`, { waitUntil: 'commit' });
      await page.getByTestId('bench').waitFor({ timeout: GIVE_UP_S * 1000 });
      await until(page, EXACT);
      await page.waitForTimeout(3000);
      const box = (await page.getByTestId('pane-flat').boundingBox())!;
      const at = (t: number) =>
        [box.x + box.width * (0.5 + 0.35 * Math.cos(t)), box.y + box.height * (0.5 + 0.35 * Math.sin(t * 1.3))] as const;
      await page.mouse.move(...at(0));
      await page.mouse.down();
      // The first frames are those of a page that has not painted yet.
      for (let t = 0; t < 1; t += 0.05) await page.mouse.move(...at(t));
      await page.evaluate("performance.clearMeasures('brindle:pointer-to-pixel'); window.brindleDrawn = 0");
      const start = performance.now();
      for (let t = 1; performance.now() < start + 6000; t += 0.05) await page.mouse.move(...at(t));
      // A frame counts that was drawn; and there can be no more of them than there were batches of new texels.
      const frames = (await page.evaluate(
        "Math.min(window.brindleDrawn, performance.getEntriesByName('brindle:pointer-to-pixel').length)",
      )) as number;
      const lasted = (performance.now() - start) / 1000;
      await page.mouse.up();
      const each = lasted / frames;
      return [{ ...asked('stroke-frames 4096', each * 1000, 'ms', 100), reference: 'ten frames a second' }];
    });
  } finally {
    await stop();
  }
}

export async function pageMemory(): Promise<Result[]> {
  await ensureBuild(() => undefined);
  const stop = await startApps(2048, 1);
  try {
    await blankCanvases(4096, 8192);
    const results: Result[] = [];
    const open = (id: string, paints: boolean) =>
      withBrowser(async (context) => {
        const page = context.pages()[0] ?? (await context.newPage());
        await page.goto(`${address()}/pieces/${id}`, { waitUntil: 'commit' });
        await page.getByTestId('bench').waitFor({ timeout: GIVE_UP_S * 1000 });
        const there = (await seconds(page, 'performance.now()'))!;
        await until(page, EXACT);
        if (paints) {
          const box = (await page.getByTestId('pane-flat').boundingBox())!;
          await page.mouse.move(box.x + box.width * 0.3, box.y + box.height / 2);
          await page.mouse.down();
          await page.mouse.move(box.x + box.width * 0.7, box.y + box.height / 2, { steps: 20 });
          await page.mouse.up();
          await until(page, STROKE);
          await page.waitForTimeout(3000);
        }
        return { there, mib: pageMiB() };
      });
    const blank = await open('blank-4096', false);
    results.push(
      asked('page-memory blank 4096', blank.mib, 'MiB', 450),
      asked('page-memory blank 4096 bench', blank.there, 's', 2),
    );
    results.push(asked('page-memory lantern first visit', (await open('demo-lantern', false)).mib, 'MiB', 900));
    const second = await withBrowser(async (context) => {
      await visit(context, `${address()}/pieces/demo-lantern`, false);
      const page = await context.newPage();
      await page.goto(`${address()}/pieces/demo-lantern`, { waitUntil: 'commit' });
      await until(page, EXACT);
      return pageMiB();
    });
    results.push(asked('page-memory lantern second visit', second, 'MiB', 900));
    results.push(asked('page-memory painted 8192', (await open('blank-8192', true)).mib, 'MiB', 3072));
    return results;
  } finally {
    await stop();
  }
}
