/**
 * ./brindle soak [--minutes N] [--rounds N] [--out FILE]: large strokes on a 4096² canvas of four maps in the real
 * application, while browser, application and database are killed. Counts what is lost, by kind.
 */
import { execFileSync } from 'node:child_process';
import type { ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type BrowserContext, type Page } from '@playwright/test';
import { CHROMIUM } from '../e2e/chromium';
import { createCanvasPiece } from '../src/core/piece/create';
import { seededRandom } from '../src/core/testing/models';
import { BadInput, callerPath, parseCommand } from './badInput';
import { LOSSES, SoakReport, type Killed } from './soakReport';
import { ensureDatabase, startPostgres, type RunningPostgres } from './postgres';
import { ensureBuild, freePort, startNext, untilHealthy } from './serve';

const HOME = '.brindle/soak/postgres';
const SIZE = 4096;
/** A new canvas every so many rounds: the trail of one keeps every state of every tile. */
const ROUNDS_A_PIECE = 12;
const LATEST_KILL_MS = 3000;
/** What the product promises: the recording is whole so soon after the pen is up. */
const PROMISED_MS = 20;
/** … and a stroke under the pen is there but for so much. */
const UNDER_PEN_MS = 100;

export async function run(args: string[]): Promise<void> {
  const { values } = parseCommand(
    args,
    { minutes: { type: 'string' }, rounds: { type: 'string' }, seed: { type: 'string' }, out: { type: 'string' } },
    [],
  );
  const number = (name: 'minutes' | 'rounds' | 'seed', start: number) => {
    const n = Number(values[name] ?? start);
    if (!(n > 0)) throw new BadInput(`--${name} is "${values[name]}", but has to be a number above 0.`);
    return n;
  };
  const end = Date.now() + number('minutes', values.rounds ? 1e6 : 10) * 60_000;
  const rounds = number('rounds', 1e9);
  const soak = await Soak.start(seededRandom(number('seed', 1)));
  try {
    for (let n = 1; n <= rounds && Date.now() < end; n++) {
      const started = Date.now();
      await soak.round();
      const seconds = ((Date.now() - started) / 1000).toFixed(1);
      process.stdout.write(`${soak.report.line(n)} (${soak.found}, ${seconds} s)\n`);
      if (values.out) writeFileSync(callerPath(values.out), soak.report.table());
    }
  } finally {
    await soak.stop();
  }
  process.stdout.write(`\n${soak.report.table()}`);
  if (soak.report.lost > 0) process.exitCode = 1;
}

interface Stroke {
  /** How long the whole way is, in screen pixels. */
  way: number;
  /** The share of it that the pen went. */
  went: number;
  /** Milliseconds from pen-up to the kill; null: killed under the pen. */
  killedAfter: number | null;
  /** The share of the way that must be there. */
  atLeast: number;
}

class Soak {
  report = new SoakReport();
  private web!: ChildProcess;
  private postgres!: RunningPostgres;
  private port = 0;
  private url = '';
  private profile = mkdtempSync(join(tmpdir(), 'brindle-soak-'));
  private context: BrowserContext | null = null;
  private page!: Page;
  private pieceId = '';
  private strokes: Stroke[] = [];
  private rounds = 0;
  found = '';

  private constructor(private random: () => number) {}

  static async start(random: () => number): Promise<Soak> {
    await ensureBuild((line) => process.stdout.write(`${line}\n`));
    const soak = new Soak(random);
    soak.postgres = await startPostgres(HOME);
    soak.url = await ensureDatabase(soak.postgres, `soak_${process.pid}`);
    process.env.DATABASE_URL = soak.url;
    const { migrateDatabase } = await import('../src/server/migrate');
    await migrateDatabase();
    soak.port = await freePort();
    await soak.startWeb();
    return soak;
  }

  async round(): Promise<void> {
    if (this.rounds++ % ROUNDS_A_PIECE === 0) await this.newPiece();
    const what = (['browser', 'application', 'database'] as const)[Math.floor(this.random() * 3)];
    const midStroke = this.random() < 0.25;
    // Several strokes in a row, so that some are not packed yet when it happens.
    const before = 1 + Math.floor(this.random() * 2);
    for (let n = 0; n < before; n++) await this.stroke(n === before - 1 && midStroke ? 'under the pen' : 'whole');
    const last = this.strokes.at(-1)!;
    const wait = midStroke ? 0 : Math.floor(this.random() * LATEST_KILL_MS);
    if (wait) await new Promise((resolve) => setTimeout(resolve, wait));
    last.killedAfter = midStroke ? null : wait;
    await this.kill(what, midStroke);
    const fault = await this.verify(what);
    this.report.add({ what, midStroke, fault });
    // What is lost is counted once.
    if (fault) await this.newPiece();
  }

  private async kill(what: Killed, midStroke: boolean): Promise<void> {
    if (what === 'browser') {
      this.killBrowser();
      await this.context!.close().catch(() => undefined);
      await this.openBrowser();
      return;
    }
    if (what === 'application') {
      this.web.kill('SIGKILL');
      await new Promise((resolve) => this.web.once('exit', resolve));
    } else {
      process.kill(await this.postgres.pid(), 'SIGKILL');
      await new Promise((resolve) => setTimeout(resolve, 400));
    }
    if (midStroke) {
      await this.page.mouse.up();
      const last = this.strokes.at(-1)!;
      Object.assign(last, { killedAfter: LATEST_KILL_MS, atLeast: last.went });
    }
    // Painted while nothing answers.
    if (this.random() < 0.5) await this.stroke('whole');
    if (what === 'application') await this.startWeb();
    else this.postgres = await startPostgres(HOME, this.postgres.port);
  }

  private killBrowser(): void {
    const pids = execFileSync('pgrep', ['-f', this.profile]).toString().trim().split('\n').map(Number);
    for (const pid of pids)
      try {
        process.kill(pid, 'SIGKILL');
      } catch {
        // Gone with its parent.
      }
  }

  /** A stroke over a good part of the sheet, from left to right, all four maps. */
  private async stroke(how: 'whole' | 'under the pen'): Promise<void> {
    const box = (await this.page.getByTestId('pane-flat').boundingBox())!;
    // The sheet is as wide as the pane, in the middle of its height: the whole way lies on it.
    const y = box.y + box.height / 2 + box.width * 0.6 * (this.random() - 0.5);
    const x = box.x + box.width * 0.12;
    const way = box.width * 0.7;
    const steps = 12;
    const upTo = how === 'whole' ? steps : 4 + Math.floor(this.random() * 7);
    const at: number[] = [];
    await this.page.mouse.move(x, y);
    await this.page.mouse.down();
    // Not waited for one by one: as a pen sends them, faster than frames are drawn.
    await Promise.all(
      Array.from({ length: upTo }, (_, i) =>
        this.page.mouse
          .move(x + (way * (i + 1)) / steps, y + box.width * 0.08 * Math.sin((i + 1) / 3))
          .then(() => (at[i + 1] = Date.now())),
      ),
    );
    if (how === 'whole') await this.page.mouse.up();
    const now = Date.now();
    // Under the pen: what was heard more than 100 ms ago is to be there.
    const safe = how === 'whole' ? steps : at.findLastIndex((t) => t !== undefined && now - t > UNDER_PEN_MS);
    this.strokes.push({ way, went: (upTo / steps) * 0.98, killedAfter: null, atLeast: Math.max(0, (safe / steps) * 0.98) });
    if (how === 'whole') this.strokes.at(-1)!.killedAfter = LATEST_KILL_MS;
  }

  /** What is lost, if anything is. */
  private async verify(what: Killed): Promise<keyof typeof LOSSES | null> {
    // As when a network comes back: nobody waits for the next try.
    await this.page.evaluate(() => window.dispatchEvent(new Event('online'))).catch(() => undefined);
    try {
      await this.page.locator('[data-testid="kept"][data-state="kept"][data-waiting="0"]').waitFor({ timeout: 90_000 });
    } catch {
      const state = await this.page
        .getByTestId('kept')
        .getAttribute('data-state', { timeout: 1000 })
        .catch(() => null);
      return state === 'conflict' ? 'falseConflict' : what === 'browser' && state === null ? 'locked' : 'neverKept';
    }
    if (Number(await this.page.getByTestId('kept').getAttribute('data-aside')) > 0) return 'falselyRefused';
    const found = (await (await fetch(`http://127.0.0.1:${this.port}/api/pieces/${this.pieceId}/strokes`)).json()) as {
      samples: { x: number; texelsPerPixel: number }[];
    }[];
    // A stroke that had hardly begun may be missing; it is then not expected any more.
    const last = this.strokes.at(-1)!;
    if (found.length === this.strokes.length - 1 && last.atLeast === 0) this.strokes.pop();
    this.found = `${found.length} of ${this.strokes.length} strokes`;
    if (found.length < this.strokes.length)
      return last.killedAfter === null && found.length === this.strokes.length - 1 ? 'underPenLost' : 'strokeLost';
    if (found.length > this.strokes.length) return 'doubled';
    for (const [n, { way, atLeast, killedAfter }] of this.strokes.entries()) {
      const { samples } = found[n];
      const xs = samples.map((s) => s.x / s.texelsPerPixel);
      const whole = Math.max(...xs) - Math.min(...xs) >= way * atLeast - 2;
      if (!whole && (killedAfter === null || killedAfter >= PROMISED_MS)) return 'cutShort';
    }
    return null;
  }

  private async newPiece(): Promise<void> {
    const { insertPiece } = await import('../src/server/pieces');
    const { piece, store } = createCanvasPiece({
      name: `Soak ${this.rounds}`,
      width: SIZE,
      height: SIZE,
      wrapU: false,
      wrapV: false,
      newId: () => crypto.randomUUID().slice(0, 13),
    });
    this.pieceId = await insertPiece({ piece, store, modelGlb: null, thumbnailPng: null });
    this.strokes = [];
    if (this.context) await this.openPiece();
    else await this.openBrowser();
  }

  private async openBrowser(): Promise<void> {
    this.context = await chromium.launchPersistentContext(this.profile, { ...CHROMIUM, viewport: { width: 640, height: 480 } });
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
    await this.openPiece();
  }

  private async openPiece(): Promise<void> {
    await this.page.goto(`http://127.0.0.1:${this.port}/pieces/${this.pieceId}`);
    await this.page.getByTestId('bench').waitFor({ timeout: 120_000 });
  }

  private async startWeb(): Promise<void> {
    this.web = startNext('start', this.port, this.url, { quiet: true });
    await untilHealthy(this.port, this.web);
  }

  async stop(): Promise<void> {
    await this.context?.close().catch(() => undefined);
    this.web.kill('SIGKILL');
    const { closePool } = await import('../src/server/db');
    await closePool();
    await this.postgres.stop();
    rmSync(this.profile, { recursive: true, force: true });
    rmSync('.brindle/soak', { recursive: true, force: true });
  }
}
