/**
 * Under the pen, in the real page: thirty layers on five maps, painted where the stroke goes, and a brush of 64 texels. The
 * engine's time is from the page's sending samples to the engine's posting texels that contain them, by the clock that both
 * threads share: waiting in the engine's queue counts, the page's own drawing does not. Also the longest task of the page's
 * thread during a stroke of three seconds, less the time in which callbacks of animation frames ran in it: there the
 * viewport draws, and nothing else does.
 */
import { startApps, appState } from '../../e2e/app';
import { newPaintedLayer, newPiece, newSheet } from '../../src/core/document/factory';
import { planeKey } from '../../src/core/document/planes';
import { storedChannels, type MapId } from '../../src/core/kinds/maps';
import { tileIndex, TILE, TILE_TEXELS, TileStore } from '../../src/core/tile/tiles';
import { ensureBuild } from '../serve';
import { onCanvas } from './canvasPage';
import { penShare } from './penShare';
import { share } from './pointerToPixel';
import { asked, type Result } from './result';

const MAPS: MapId[] = ['base-colour', 'height', 'roughness', 'metallic', 'occlusion'];
const LAYERS = 30;
/** p50 and p95 that were asked for, ms. */
const WANTED = { p50: 8, p95: 16, task: 50 };

function painted(side: number, maps: MapId[] = MAPS) {
  const sheet = newSheet('s', 'Canvas', side, side, { maps });
  sheet.layers = Array.from({ length: LAYERS }, (_, n) => newPaintedLayer(`l${n}`, `Layer ${n}`, maps));
  const store = new TileStore();
  const across = side / TILE;
  for (const [n, layer] of sheet.layers.entries())
    for (const map of maps) {
      const channels = storedChannels(map);
      const data = new Uint16Array(TILE_TEXELS * channels).map((_, i) => (i % channels === channels - 1 ? 20000 : 2000 * n));
      for (let ty = Math.floor(across * 0.4); ty < Math.ceil(across * 0.6); ty++)
        for (let tx = 0; tx < across; tx++) store.set(planeKey(layer.id, map), tileIndex(tx, ty), { data, hash: null });
    }
  const piece = newPiece(`latency-${side}`, `Latency ${side}`, 'canvas', [sheet]);
  return { piece, store, modelGlb: null, thumbnailPng: null };
}

/** As text: the loader of this file adds helpers to functions that pages do not know. */
const IN_PAGE = `
  window.brindleSent = [];
  window.brindleFrames = [];
  window.brindleTasks = [];
  const clock = () => performance.timeOrigin + performance.now();
  const post = Worker.prototype.postMessage;
  Worker.prototype.postMessage = function (message, ...rest) {
    if (message && (message.type === 'stroke-begin' || message.type === 'stroke-add') && message.samples.length)
      window.brindleSent.push([message.at, clock()]);
    return post.call(this, message, ...rest);
  };
  const raf = window.requestAnimationFrame;
  window.requestAnimationFrame = (callback) => raf.call(window, (t) => {
    const start = performance.now();
    callback(t);
    window.brindleFrames.push([start, performance.now()]);
  });
  new PerformanceObserver((list) => {
    for (const e of list.getEntries()) window.brindleTasks.push([e.startTime, e.startTime + e.duration]);
  }).observe({ type: 'longtask' });
`;
const IN_WORKER = `(() => {
  self.brindlePosted = [];
  const post = self.postMessage;
  self.postMessage = (message, ...rest) => {
    if (message && message.type === 'pixels' && message.strokeAt !== null)
      self.brindlePosted.push([message.strokeAt, performance.timeOrigin + performance.now()]);
    return post.call(self, message, ...rest);
  };
})()`;

type Pair = [number, number];

/** With a server that has these pieces. */
async function served<T>(pieces: ReturnType<typeof painted>[], work: (port: number) => Promise<T>): Promise<T> {
  await ensureBuild(() => undefined);
  const stop = await startApps(256, 1);
  try {
    const { port, databaseUrl } = appState();
    process.env.DATABASE_URL = databaseUrl;
    const { insertPiece } = await import('../../src/server/pieces');
    const { closePool } = await import('../../src/server/db');
    for (const piece of pieces) await insertPiece(piece, { keepId: true });
    await closePool();
    return await work(port);
  } finally {
    await stop();
  }
}

export const penLatency = (): Promise<Result[]> =>
  served([painted(2048), painted(4096)], async (port) => [...(await strokeAt(port, 2048)), ...(await strokeAt(port, 4096))]);

export const penShareOnCanvas = (): Promise<Result[]> =>
  served([painted(2048, MAPS.slice(0, 4))], (port) => penShare(addressOf(port, 2048)));

const addressOf = (port: number, side: number) => `http://127.0.0.1:${port}/pieces/latency-${side}`;

const strokeAt = (port: number, side: number): Promise<Result[]> =>
  onCanvas(addressOf(port, side), IN_PAGE, 45_000, async (page, box) => {
    const engines = await Promise.all(page.workers().map((w) => w.evaluate(`${IN_WORKER}; true`).then(() => w)));
    const [y, left, right] = [box.y + box.height / 2, box.x + box.width * 0.1, box.x + box.width * 0.9];
    await page.mouse.move(left, y);
    await page.evaluate('window.brindleSent.length = window.brindleFrames.length = window.brindleTasks.length = 0');
    await page.mouse.down();
    for (let n = 1, start = Date.now(); Date.now() - start < 3000; n++) {
      const t = Math.min(1, (Date.now() - start) / 3000);
      await page.mouse.move(left + (right - left) * t, y + 6 * Math.sin(n / 4));
      await page.waitForTimeout(8);
    }
    await page.mouse.up();
    await page.waitForTimeout(1500);
    const sent = (await page.evaluate('window.brindleSent')) as Pair[];
    const frames = (await page.evaluate('window.brindleFrames')) as Pair[];
    const tasks = (await page.evaluate('window.brindleTasks')) as Pair[];
    const posted = (await Promise.all(engines.map((w) => w.evaluate('self.brindlePosted') as Promise<Pair[]>))).flat();
    // Texels contain all samples up to the newest whose time they carry.
    const took = sent.flatMap(([at, when]) => {
      const first = posted.filter(([upTo, time]) => upTo >= at && time >= when).sort((a, b) => a[1] - b[1])[0];
      return first ? [first[1] - when] : [];
    });
    if (took.length < sent.length / 2) throw new Error(`Only ${took.length} of ${sent.length} batches of samples were drawn.`);
    const rest = tasks.map(([from, to]) => to - from - frames.reduce((sum, [a, b]) => sum + Math.max(0, Math.min(b, to) - Math.max(a, from)), 0)); // prettier-ignore
    const of = (name: string, value: number, wanted: number) => asked(`pen-latency-${side} ${name}`, value, 'ms', wanted);
    return [
      of('p50', share(took, 0.5), WANTED.p50),
      of('p95', share(took, 0.95), WANTED.p95),
      of('longest task apart from frames', Math.max(0, ...rest), WANTED.task),
    ];
  });
