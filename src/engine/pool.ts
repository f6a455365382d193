/** The helpers of an engine: keeps them up to date, hands out tiles, takes them back. */
import type { Piece, Sheet } from '../core/document/schema';
import { MOST_HELPERS, type ThreadMemory } from '../core/compute';
import type { TexelPlace } from '../core/tile/heap';
import { sentTexels, type TileIndex, type TileStore } from '../core/tile/tiles';
import { LOADING_MS, spareCores } from './tilePool';
import type { Display, DrawJob } from './display';
import type { HelperAnswer, HelperPort } from './helper';
import type { Surface } from '../core/mesh/surface';
import { asksForSurface, surfaceUnder } from '../core/strata/surfaceUnder';
import type { PixelPatch } from './protocol';

/** Tiles a turn: some 10 to 40 ms of work, so that the newest state is never far behind. */
const BATCH = 6;
/** Fewer than this the engine draws sooner by itself. */
const WORTH_IT = 4;

export class Pool {
  private idle: HelperPort[];
  private out = new Map<number, { port: HelperPort; jobs: DrawJob[] }>();
  private changed = new Map<HelperPort, Map<string, [string, TileIndex]>>();
  private sheets = new Map<HelperPort, Sheet[]>();
  private surfaces = new Map<HelperPort, Map<string, number>>();
  private nextId = 1;

  constructor(
    ports: HelperPort[],
    private store: TileStore,
    private deliver: (patches: PixelPatch[]) => void,
    private display: Display,
  ) {
    // Each twice: while it works on one batch, the next one waits at its door.
    this.idle = [...ports, ...ports];
    for (const port of ports) {
      port.onAnswer = (answer) => this.takeBack(answer);
      port.onDeath = () => this.bury(port);
      this.changed.set(port, new Map());
    }
  }

  get busy(): boolean {
    return this.out.size > 0;
  }

  /** Every tile is new to the helpers: after opening. */
  tellAll(): void {
    for (const plane of this.store.planeKeys()) for (const tile of this.store.tilesOf(plane).keys()) this.tell(plane, tile);
  }

  tell(plane: string, tile: TileIndex): void {
    for (const list of this.changed.values()) list.set(`${plane} ${tile}`, [plane, tile]);
  }

  /** Gives every idle helper something to do, if there is enough. */
  handOut(piece: Piece): void {
    while (this.idle.length > 0 && this.display.pending >= WORTH_IT) {
      const jobs = this.display.take(piece, BATCH);
      if (jobs.length === 0) return;
      const port = this.idle.pop()!;
      this.sync(port, piece.sheets);
      const id = this.nextId++;
      this.out.set(id, { port, jobs });
      port.post({ type: 'draw', id, jobs, hot: this.display.workedOn });
    }
  }

  private sync(port: HelperPort, sheets: Sheet[]): void {
    const list = this.changed.get(port)!;
    const same = this.sheets.get(port) === sheets;
    if (same && list.size === 0) return;
    const tiles = [...list.values()].map(([plane, tile]): [string, TileIndex, Uint16Array | TexelPlace | null] => {
      const data = this.store.get(plane, tile)?.data;
      return [plane, tile, data ? sentTexels(data) : null];
    });
    list.clear();
    this.sheets.set(port, sheets);
    port.post({ type: 'sync', sheets: same ? null : sheets, tiles, surfaces: same ? undefined : this.surfacesFor(port, sheets) });
  }

  /** Surfaces that the port has not seen yet, of sheets whose strata ask for places in space. */
  private surfacesFor(port: HelperPort, sheets: Sheet[]): [string, Surface][] {
    const seen = this.surfaces.get(port) ?? this.surfaces.set(port, new Map()).get(port)!;
    return sheets.filter(asksForSurface).flatMap((sheet): [string, Surface][] => {
      const surface = surfaceUnder(this.store, sheet);
      if (!surface || seen.get(sheet.id) === surface.stamp) return [];
      seen.set(sheet.id, surface.stamp);
      return [[sheet.id, surface]];
    });
  }

  /** A helper that died: what it had is drawn by others. */
  private bury(port: HelperPort): void {
    this.idle = this.idle.filter((p) => p !== port);
    for (const list of [this.changed, this.sheets, this.surfaces]) list.delete(port);
    for (const [id, out] of this.out) {
      if (out.port !== port) continue;
      this.out.delete(id);
      for (const job of out.jobs) this.display.drawAgain(job);
    }
    // Even an empty delivery makes the engine look at what is pending.
    this.deliver([]);
  }

  private takeBack({ id, drawn }: HelperAnswer): void {
    const out = this.out.get(id);
    // Of a helper that was given up.
    if (!out) return;
    const { port, jobs } = out;
    this.out.delete(id);
    this.idle.push(port);
    this.deliver(jobs.flatMap((job, n) => this.display.accept(job, drawn[n]) ?? []));
  }
}

/** Helpers in workers of the page. They end with the engine's own worker. */
export function browserHelpers(memoryFor: ((helper: number) => ThreadMemory) | null): HelperPort[] {
  return Array.from({ length: Math.min(MOST_HELPERS, spareCores()) }, (_, n) => {
    const worker = new Worker(new URL('./helper.worker.ts', import.meta.url), { type: 'module' });
    const port: HelperPort = { post: (m) => worker.postMessage(m), onAnswer: () => {}, onDeath: () => {} };
    const end = () => {
      clearTimeout(loading);
      worker.terminate();
      port.onDeath();
    };
    const loading = setTimeout(end, LOADING_MS);
    worker.onmessage = (e: MessageEvent<HelperAnswer | null>) => {
      clearTimeout(loading);
      if (e.data) port.onAnswer(e.data);
    };
    worker.onerror = worker.onmessageerror = end;
    if (memoryFor) port.post({ type: 'memory', ...memoryFor(n) });
    return port;
  });
}
