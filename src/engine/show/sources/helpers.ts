/** Tiles that helper threads evaluate: keeps helpers up to date, hands out whole tiles, takes them back. */
import { MOST_HELPERS, type ThreadMemory } from '../../../core/compute';
import type { Sheet } from '../../../core/document/schema';
import type { Surface } from '../../../core/mesh/surface';
import { asksForSurface, surfaceUnder } from '../../../core/strata/surfaceUnder';
import type { TexelPlace } from '../../../core/tile/heap';
import { cropped, evenTexel } from '../../../core/tile/mips';
import { sentTexels, TILE, WHOLE_TILE, type TileIndex } from '../../../core/tile/tiles';
import type { PixelPatch } from '../../protocol';
import { Signal } from '../../signal';
import { LOADING_MS, spareCores } from '../../tiles/tilePool';
import type { DrawJob, HelperAnswer, HelperPort } from '../helper';
import { markWhole } from '../plane';
import { send, type Planes } from '../planes';
import { taken, wholeJobsFromEnd } from '../queue';
import { onSheet } from '../tilePictures';
import type { CachedTiles } from './cached';
import type { EvenTiles } from './evenTiles';
import type { Source } from './source';

/** Tiles that are handed out at once: some 10 to 40 ms of work, so that the newest state is never far behind. */
const BATCH = 6;
/** Fewer than this are rendered sooner on this thread. */
const WORTH_IT = 4;

export class HelperTiles implements Source {
  /** What a helper has rendered; nothing where one of them died, and its tiles are due again. */
  readonly rendered = new Signal<PixelPatch[]>();
  private start: (() => HelperPort[]) | null = null;
  private idle: HelperPort[] = [];
  private out = new Map<number, { port: HelperPort; jobs: DrawJob[] }>();
  private changed = new Map<HelperPort, Map<string, [string, TileIndex]>>();
  private sheets = new Map<HelperPort, Sheet[]>();
  private surfaces = new Map<HelperPort, Map<string, number>>();
  private nextId = 1;

  constructor(
    private planes: Planes,
    private even: EvenTiles,
    private cached: CachedTiles,
  ) {}

  /** `start` is called when there is nothing more urgent to do: until then cached tiles and the pen have the processors. */
  use(start: (() => HelperPort[]) | undefined): void {
    this.start = start ?? null;
  }

  get busy(): boolean {
    return this.out.size > 0;
  }

  /** A tile has other texels. */
  tell(plane: string, tile: TileIndex): void {
    for (const list of this.changed.values()) list.set(`${plane} ${tile}`, [plane, tile]);
  }

  /** Gives every idle helper something to do, if there is enough. */
  work(): PixelPatch[] {
    if (this.start) this.begin(this.start());
    while (this.idle.length > 0 && this.planes.pending >= WORTH_IT) {
      const jobs = this.take(BATCH);
      if (jobs.length === 0) break;
      const port = this.idle.pop()!;
      this.sync(port, this.planes.piece!.sheets);
      const id = this.nextId++;
      this.out.set(id, { port, jobs });
      port.post({ type: 'draw', id, jobs, hot: this.planes.workedOn });
    }
    return [];
  }

  private begin(ports: HelperPort[]): void {
    this.start = null;
    // Each twice: while it works on one batch, the next one is already on its queue.
    this.idle = [...ports, ...ports];
    for (const port of ports) {
      port.onAnswer = (answer) => this.takeBack(answer);
      port.onDeath = () => this.drop(port);
      this.changed.set(port, new Map());
    }
    const { store } = this.planes;
    for (const plane of store.planeKeys()) for (const tile of store.tilesOf(plane).keys()) this.tell(plane, tile);
  }

  /** Takes up to `most` whole tiles off the queue; `accept` takes them back. */
  take(most: number): DrawJob[] {
    const { planes } = this;
    const jobs: DrawJob[] = [];
    for (const job of wholeJobsFromEnd(planes)) {
      if (jobs.length >= most) break;
      const { sheet, id, plane, tile } = job;
      const signature = planes.signatureOf(sheet, id, tile);
      // Known without evaluating anything: sooner done on this thread.
      if (this.even.get(id, signature) !== undefined) continue;
      taken(job);
      plane.drawn.set(tile, signature);
      jobs.push({ sheetId: sheet.id, plane: id, tile, signature, look: planes.lookOf(sheet.id) });
    }
    return jobs;
  }

  /** A rendered tile comes back: RGBA of 128 × 128. If the tile has changed in the meantime, all of it is due again. */
  accept(job: DrawJob, rgba: Uint8Array): PixelPatch[] {
    const display = this.planes.of(job.sheetId);
    const plane = display?.planes.get(job.plane);
    if (!display || !plane) return [];
    if (plane.drawn.get(job.tile) !== job.signature) {
      markWhole(plane, job.tile, 'changed');
      return [];
    }
    const rect = onSheet(job.tile, WHOLE_TILE, display);
    const texels = cropped(rgba, TILE, rect);
    this.cached.offer(job.sheetId, { ...job, texels: evenTexel(texels, rect.width * rect.height) ?? rgba });
    const patches: PixelPatch[] = [];
    send(patches, job.sheetId, job.plane, plane.pyramid.lay(rect, texels));
    return patches;
  }

  private sync(port: HelperPort, sheets: Sheet[]): void {
    const list = this.changed.get(port)!;
    const same = this.sheets.get(port) === sheets;
    if (same && list.size === 0) return;
    const tiles = [...list.values()].map(([plane, tile]): [string, TileIndex, Uint16Array | TexelPlace | null] => {
      const data = this.planes.store.get(plane, tile)?.data;
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
      const surface = surfaceUnder(this.planes.store, sheet);
      if (!surface || seen.get(sheet.id) === surface.stamp) return [];
      seen.set(sheet.id, surface.stamp);
      return [[sheet.id, surface]];
    });
  }

  /** A helper died: its tiles are due again. */
  private drop(port: HelperPort): void {
    this.idle = this.idle.filter((p) => p !== port);
    for (const list of [this.changed, this.sheets, this.surfaces]) list.delete(port);
    for (const [id, { port: of, jobs }] of this.out) {
      if (of !== port) continue;
      this.out.delete(id);
      for (const { sheetId, plane, tile } of jobs) {
        const display = this.planes.of(sheetId)?.planes.get(plane);
        if (display) markWhole(display, tile, 'changed');
      }
    }
    this.rendered.tell([]);
  }

  private takeBack({ id, drawn }: HelperAnswer): void {
    const out = this.out.get(id);
    // Of a helper that was dropped.
    if (!out) return;
    const { port, jobs } = out;
    this.out.delete(id);
    this.idle.push(port);
    this.rendered.tell(jobs.flatMap((job, n) => this.accept(job, drawn[n])));
  }
}

/** Helpers in workers of the page. They end with the engine's own worker. */
export function browserHelpers(memoryFor: ((helper: number) => ThreadMemory) | null): HelperPort[] {
  return Array.from({ length: Math.min(MOST_HELPERS, spareCores()) }, (_, n) => {
    const worker = new Worker(new URL('../helper.worker.ts', import.meta.url), { type: 'module' });
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
