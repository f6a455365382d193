/**
 * From the pointer event that lifts the pen to the stroke's recording on disk, in the real page: a 4096² canvas of four
 * maps, long strokes that write all of them. The reference is one write of a recording's size by itself, with the same
 * promise of the browser (strict durability), in the same page while nothing else goes on.
 */
import { chromium } from '@playwright/test';
import { startApps } from '../../e2e/app';
import { CHROMIUM } from '../../e2e/chromium';
import { makeCanvas } from '../../e2e/helpers';
import type { Result } from './result';
import { ensureBuild } from '../serve';
import { share } from './pointerToPixel';
import { median } from './timing';

const STROKES = 24;
const SAMPLES = 8;

/** As text: the loader of this file adds helpers to functions that the page would not know. */
const ALONE = `(async () => {
  const open = (request) => new Promise((resolve, reject) => { request.onsuccess = () => resolve(request.result); request.onerror = reject; });
  const making = indexedDB.open('brindle-bench', 1);
  making.onupgradeneeded = () => making.result.createObjectStore('rows');
  const db = await open(making);
  const times = [];
  for (let n = 0; n < 40; n++) {
    const samples = Array.from({ length: ${SAMPLES} }, (_, i) => ({ pane: 'flat', x: i, y: n, texelsPerPixel: 1, pressure: 1, tiltX: 0, tiltY: 0, time: i }));
    const start = performance.now();
    const tx = db.transaction('rows', 'readwrite', { durability: 'strict' });
    tx.objectStore('rows').put({ samples }, n);
    await new Promise((resolve, reject) => { tx.oncomplete = resolve; tx.onabort = reject; });
    times.push(performance.now() - start);
  }
  db.close();
  return times;
})()`;

export async function penUpToJournal(): Promise<Result[]> {
  await ensureBuild(() => undefined);
  const stop = await startApps(256, 1);
  const browser = await chromium.launch(CHROMIUM);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript(
      "const on = { on: true, value: 0.7, amount: 1 }; localStorage.setItem('brindle-hand', JSON.stringify({ brush: { size: 30 }, writes: { 'base-colour': on, height: on, roughness: on, metallic: on } }));",
    );
    await makeCanvas(page, 'Large', 4096, 4096);
    // Until the blank canvas is drawn.
    await page.waitForTimeout(20_000);
    const alone = (await page.evaluate(ALONE)) as number[];
    const box = (await page.getByTestId('pane-flat').boundingBox())!;
    for (let n = 0; n < STROKES; n++) {
      const y = box.y + box.height / 2 + box.width * 0.7 * (n / STROKES - 0.5);
      await page.mouse.move(box.x + box.width * 0.15, y);
      await page.mouse.down();
      for (let i = 1; i <= SAMPLES; i++) await page.mouse.move(box.x + box.width * (0.15 + (0.7 * i) / SAMPLES), y);
      await page.mouse.up();
    }
    await page.waitForTimeout(2000);
    const times = (await page.evaluate(
      "performance.getEntriesByName('brindle:pen-up-to-journal').map((e) => e.duration)",
    )) as number[];
    if (times.length < STROKES) throw new Error(`Only ${times.length} of ${STROKES} strokes reached the journal.`);
    const reference = median(alone);
    return [0.5, 0.95].map((p) => ({
      name: `pen-up-to-journal p${p * 100}`,
      value: share(times, p),
      unit: 'ms',
      reference: 'one such write alone',
      referenceValue: reference,
      ratio: share(times, p) / reference,
    }));
  } finally {
    await browser.close();
    await stop();
  }
}
