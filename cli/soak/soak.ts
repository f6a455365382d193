/** Rounds of work and kills, and what must be there after each. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Browser, type BrowserContext, type Page } from '@playwright/test';
import { CHROMIUM } from '../../e2e/chromium';
import { still, uncovered } from '../../e2e/still';
import { newPaintedLayer } from '../../src/core/document/factory';
import { decodePng } from '../../src/core/codec/png';
import { createCanvasPiece, createModelPiece } from '../../src/core/piece/create';
import { writeGlb } from '../../src/core/mesh/writeGlb';
import { sha256 } from '../../src/core/codec/tileBlob';
import { cubeModel, seededRandom } from '../../src/core/testing/models';
import { storedChannels } from '../../src/core/kinds/maps';
import { planeKey } from '../../src/core/document/planes';
import type { Bitmap } from '../../src/core/tile/bitmap';
import { TILE_TEXELS, tileIndex, TileStore } from '../../src/core/tile/tiles';
import { after, differenceOfAny, NOTHING, type Found, type History } from './expected';
import { injectFault, type Fault } from './faults';
import { Hand, type Done } from './hand';
import type { Killed, Loss, When } from './report';

/** What a server has to be able to do for a soak. */
export interface SoakServer {
  readonly address: string;
  killApplication(): Promise<void>;
  startApplication(): Promise<void>;
  killDatabase(): Promise<void>;
  startDatabase(): Promise<void>;
}

export interface SoakOptions {
  random: () => number;
  /** What is killed. */
  kills?: readonly Killed[];
  fault?: Fault;
  /** Texels a side of canvases; one of `SIZES` by chance otherwise. */
  size?: number;
  /** Puts a piece to the server; its id. */
  insert: (bundle: ReturnType<typeof createCanvasPiece> & { modelGlb: Uint8Array | null }) => Promise<string>;
}

export interface RoundResult {
  what: Killed;
  when: When;
  loss: Loss | null;
  /** What was compared, for the log. */
  told: string;
}

/** A new piece every so many rounds: the trail of one keeps every state of every tile. */
const ROUNDS_A_PIECE = 8;
/** Of canvases, in texels a side. Noise in all maps of the largest takes a new browser half a minute to draw exactly. */
const SIZES = [1024, 1024, 2048, 4096];
/** What the product promises: a finished action is whole so soon after it. */
const PROMISED_MS = 20;
const SOON_MS = 150;
const LATE_MS = 3000;
const LAYER = 'Ground work';
/** Where pictures that differ are kept. */
const KEPT = '.brindle/soak-pictures';

const wait = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

export class Soak {
  private profile = mkdtempSync(join(tmpdir(), 'brindle-soak-'));
  private context: BrowserContext | null = null;
  private page!: Page;
  private other: Browser | null = null;
  private hand!: Hand;
  private pieceId = '';
  private layersAtFirst = 1;
  private history: History = NOTHING;
  /** The history before each of the actions that were taken last. */
  private before: History[] = [];
  private rounds = 0;
  /** How many rounds are left before the next piece is made. */
  private roundsLeft = 0;
  private readonly random: () => number;

  constructor(
    private readonly server: SoakServer,
    private readonly options: SoakOptions,
  ) {
    this.random = options.random;
  }

  async round(): Promise<RoundResult> {
    if (this.roundsLeft === 0) await this.newPiece();
    this.roundsLeft--;
    this.rounds++;
    const kills = this.options.kills ?? ['browser', 'application', 'database'];
    const what = kills[Math.floor(this.random() * kills.length)];
    for (let n = Math.floor(this.random() * 3); n > 0; n--) this.take(await this.anything());
    const draw = this.random();
    const when: When = draw < 0.25 ? 'pen down' : draw < 0.75 ? 'soon' : 'late';
    const missing = when === 'pen down' ? await this.killUnderPen(what) : await this.killAfter(what, when);
    if (what !== 'browser') {
      // Worked while nothing answers.
      if (this.random() < 0.5) this.take(await this.anything());
      if (what === 'application') await this.server.startApplication();
      else await this.server.startDatabase();
    }
    // Only a killed browser may miss something, and nothing was done since.
    const allowed = [this.history, ...(missing ? this.before.slice(-missing) : [])];
    const { loss, told } = await this.verify(what, allowed);
    if (loss) this.roundsLeft = 0;
    return { what, when, loss, told };
  }

  async stop(): Promise<void> {
    await this.context?.close().catch(() => undefined);
    await this.other?.close().catch(() => undefined);
    rmSync(this.profile, { recursive: true, force: true });
  }

  private take({ actions }: Done): void {
    this.before = [];
    for (const action of actions) {
      this.before.push(this.history);
      this.history = after(this.history, action);
    }
  }

  private anything(): Promise<Done> {
    const draw = this.random();
    if (draw < 0.55) return this.hand.stroke();
    if (draw < 0.7) return this.hand.area();
    if (draw < 0.82) return this.hand.edit();
    return draw < 0.93 ? this.hand.undo() : this.hand.redo();
  }

  /** How many of the last actions may be missing: 1 if the stroke was too young. */
  private async killUnderPen(what: Killed): Promise<number> {
    const done = await this.hand.stroke(150 + this.random() * 700);
    this.take(done);
    await this.kill(what);
    if (what !== 'browser') {
      await this.hand.penUp();
      return 0;
    }
    const action = done.actions.at(-1)!;
    return action.type === 'step' && (action.step.atLeast ?? 0) === 0 ? 1 : 0;
  }

  /** How many of the last actions may be missing, because the kill came sooner than the promised time after them. */
  private async killAfter(what: Killed, when: When): Promise<number> {
    this.take(this.random() < 0.7 ? await this.hand.stroke() : await this.anything());
    const ms = this.random() * (when === 'soon' ? SOON_MS : LATE_MS);
    if (ms > 1) await wait(ms);
    await this.kill(what);
    return what === 'browser' && ms < PROMISED_MS ? this.before.length : 0;
  }

  private async kill(what: Killed): Promise<void> {
    if (what === 'application') return this.server.killApplication();
    if (what === 'database') return this.server.killDatabase();
    for (const pid of execFileSync('pgrep', ['-f', this.profile]).toString().trim().split('\n').map(Number))
      try {
        process.kill(pid, 'SIGKILL');
      } catch {
        // It ended with its parent.
      }
    await this.context!.close().catch(() => undefined);
    await this.openBrowser();
  }

  /** `allowed`: the histories that may be found. */
  private async verify(what: Killed, allowed: readonly History[]): Promise<{ loss: Loss | null; told: string }> {
    // As when a network comes back: nobody waits for the next try.
    await this.page.evaluate(() => window.dispatchEvent(new Event('online'))).catch(() => undefined);
    const badge = this.page.getByTestId('kept');
    try {
      await this.page.locator('[data-testid="kept"][data-state="kept"][data-waiting="0"]').waitFor({ timeout: 90_000 });
    } catch {
      const state = await badge.getAttribute('data-state', { timeout: 1000 }).catch(() => null);
      return {
        loss: state === 'conflict' ? 'falseConflict' : what === 'browser' && state === null ? 'locked' : 'neverKept',
        told: `${state}`,
      };
    }
    if (Number(await badge.getAttribute('data-aside')) > 0) return { loss: 'falselyRefused', told: 'set aside' };
    const found = await this.found();
    const told = `${found.position} of ${found.labels.length} steps, ${found.ways.length} strokes, ${found.layers} layers`;
    const loss = differenceOfAny(allowed, found, this.layersAtFirst);
    if (loss) {
      const { steps, position } = this.history;
      return {
        loss,
        told: `${told}; expected ${position} of ${steps.length}: ${steps.map((s) => s.kind).join(' ')}; found ${found.labels.join(', ')}`,
      };
    }
    const waiting = await this.journalled();
    if (waiting > 0) return { loss: 'neverKept', told: `${waiting} entries are still in the journal` };
    if (!(await this.looksTheSame())) return { loss: 'otherPixels', told };
    this.remember(found);
    return { loss: null, told };
  }

  /** From now on what was found is expected, labels and all. */
  private remember(found: Found): void {
    const base = this.history.steps.length === found.labels.length ? this.history : { ...this.history };
    let stroke = 0;
    const steps = base.steps.slice(0, found.labels.length).map((step, n) => {
      const applied = n < found.position && step.kind !== 'edit';
      const way = applied ? found.ways[stroke++] : step.way;
      return { ...step, label: found.labels[n], ...(step.kind === 'stroke' && way !== undefined && { way, atLeast: 1 }) };
    });
    this.history = { steps, position: found.position };
  }

  private async found(): Promise<Found> {
    const get = async (path: string) => (await fetch(`${this.server.address}/api/pieces/${this.pieceId}${path}`)).json();
    const { document, position, trail } = (await get('')) as {
      document: { sheets: { layers: unknown[] }[] };
      position: number;
      trail: { label: string }[];
    };
    const strokes = (await get('/strokes')) as { samples: { pane: string; x: number; texelsPerPixel: number }[] }[];
    const ways = strokes.map(({ samples }) => {
      if (samples[0].pane !== 'flat') return Infinity;
      const xs = samples.map((s) => s.x / s.texelsPerPixel);
      return Math.max(...xs) - Math.min(...xs);
    });
    return { labels: trail.map(({ label }) => label), position, layers: document.sheets[0].layers.length, ways };
  }

  /** Entries in the browser's journal. */
  private journalled(): Promise<number> {
    return this.page.evaluate(
      () =>
        new Promise<number>((resolve, reject) => {
          const opening = indexedDB.open('brindle-journal');
          opening.onerror = () => reject(new Error('the journal does not open'));
          opening.onsuccess = () => {
            const counting = opening.result.transaction('entries').objectStore('entries').count();
            counting.onsuccess = () => {
              opening.result.close();
              resolve(counting.result);
            };
          };
        }),
    );
  }

  /** The page that went through it shows the same as one that has nothing but the database. */
  private async looksTheSame(): Promise<boolean> {
    this.other ??= await chromium.launch(CHROMIUM);
    const fresh = await this.other.newContext({ viewport: { width: 640, height: 480 } });
    try {
      const page = await fresh.newPage();
      await page.goto(`${this.server.address}/pieces/${this.pieceId}`);
      // What is large is drawn coarsely first: what differs is looked at again a little later.
      for (let times = 0; ; times++) {
        await settled(page);
        await settled(this.page);
        const [mine, its] = [await shot(this.page), await shot(page)];
        if (alike(decodePng(mine), decodePng(its))) return true;
        if (times < 3) await wait(2000);
        else {
          mkdirSync(KEPT, { recursive: true });
          writeFileSync(`${KEPT}/${this.rounds}-mine.png`, mine);
          writeFileSync(`${KEPT}/${this.rounds}-database.png`, its);
          return false;
        }
      }
    } finally {
      await fresh.close();
    }
  }

  /** Noise in all maps, so that every tool changes something wherever it goes. */
  private async newPiece(): Promise<void> {
    const model = this.random() < 0.35;
    const size = model ? 512 : (this.options.size ?? SIZES[Math.floor(this.random() * SIZES.length)]);
    const named = { name: `Soak ${this.rounds}`, newId: () => crypto.randomUUID().slice(0, 13) };
    let glb: Uint8Array | null = null;
    let made;
    if (model) {
      glb = await writeGlb(cubeModel());
      made = await createModelPiece(cubeModel(), {
        ...{ ...named, uvSet: 0, size, modelBlob: await sha256(glb) },
        decodePicture: () => Promise.reject(new Error('A cube has no pictures.')),
      });
    } else made = createCanvasPiece({ ...named, width: size, height: size, wrapU: false, wrapV: false });
    const [sheet] = made.piece.sheets;
    const layer = newPaintedLayer('ground-work', LAYER, sheet.maps);
    sheet.layers = [layer];
    noise(made.store, layer.id, sheet.maps, size, seededRandom(this.rounds));
    this.pieceId = await this.options.insert({ ...made, modelGlb: glb });
    this.layersAtFirst = sheet.layers.length;
    this.history = NOTHING;
    this.roundsLeft = ROUNDS_A_PIECE;
    if (this.context) await this.openPiece(model);
    else await this.openBrowser(model);
  }

  private onModel = false;

  private async openBrowser(model = this.onModel): Promise<void> {
    this.context = await chromium.launchPersistentContext(this.profile, { ...CHROMIUM, viewport: { width: 640, height: 480 } });
    if (this.options.fault) await injectFault(this.context, this.options.fault);
    this.page = this.context.pages()[0] ?? (await this.context.newPage());
    await this.page.addInitScript(() => {
      const writes = { on: true, value: 0.7, amount: 1 };
      localStorage.setItem(
        'brindle-hand',
        JSON.stringify({
          brush: { size: 8, smoothing: 0 },
          writes: { 'base-colour': writes, height: writes, roughness: writes, metallic: writes },
        }),
      );
    });
    await this.openPiece(model);
  }

  private async openPiece(model: boolean): Promise<void> {
    this.onModel = model;
    await this.page.goto(`${this.server.address}/pieces/${this.pieceId}`);
    await settled(this.page);
    this.hand = new Hand(this.page, this.random, LAYER, model ? 'model' : 'flat');
  }
}

/** The bench is open, no picture of how it was left covers the panes any more, and nothing has changed for a while. */
async function settled(page: Page): Promise<void> {
  await uncovered(page);
  await still(page, 300);
}

function alike(a: Bitmap, b: Bitmap): boolean {
  if (a.width !== b.width || a.height !== b.height) return false;
  let other = 0;
  for (let i = 0; i < a.data.length; i += a.channels)
    if ([0, 1, 2].some((c) => Math.abs(a.data[i + c] - b.data[i + c]) > 2)) other++;
  return other < (a.width * a.height) / 500;
}

/** The flat pane as a PNG, without the pointer. */
async function shot(page: Page): Promise<Uint8Array> {
  await page.mouse.move(2, 2);
  await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))));
  const box = (await page.getByTestId('pane-flat').boundingBox())!;
  // Its middle: labels and rulers lie at its rims.
  const clip = { x: box.x + box.width * 0.2, y: box.y + box.height * 0.25, width: box.width * 0.6, height: box.height * 0.5 };
  return new Uint8Array(await page.screenshot({ clip }));
}

/** One tile of noise for each map, everywhere. */
function noise(store: TileStore, layer: string, maps: readonly string[], size: number, random: () => number): void {
  for (const map of maps) {
    const channels = storedChannels(map as never);
    const data = Uint16Array.from({ length: TILE_TEXELS * channels }, (_, i) =>
      i % channels === channels - 1 ? 65535 : 20_000 + random() * 20_000,
    );
    for (let y = 0; y < size / 128; y++)
      for (let x = 0; x < size / 128; x++) store.set(planeKey(layer, map as never), tileIndex(x, y), { data, hash: null });
  }
}
