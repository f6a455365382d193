/** Helpers in threads of Node, for measuring what two do against one. */
import { Worker } from 'node:worker_threads';
import { valueChannels, type MapId } from '../../src/core/kinds/maps';
import type { Sheet } from '../../src/core/document/schema';
import { shareMemory } from '../../src/core/compute';
import type { TexelPlace } from '../../src/core/tile/heap';
import { sentTexels, tilesOf, type TileIndex, type TileStore } from '../../src/core/tile/tiles';
import type { Surface } from '../../src/core/mesh/surface';
import type { HelperAnswer, HelperMessage } from '../../src/engine/show/helper';

/** As in the page: tiles lie in a memory that threads share. One for the whole run. */
export const share = (): ReturnType<typeof shareMemory> => (shared ??= shareMemory(() => performance.now()));
let shared: ReturnType<typeof shareMemory> = null;

export class Threads {
  private workers: Worker[];
  private nextId = 1;

  constructor(count: number) {
    const memoryFor = share();
    // A new thread does not know TypeScript yet: it learns it first (Node 20 does not take --import there).
    const url = new URL('./helperThread.ts', import.meta.url).href;
    const entry = `import('tsx/esm/api').then(({ register }) => { register(); return import(${JSON.stringify(url)}); })`;
    this.workers = Array.from({ length: count }, () => new Worker(entry, { eval: true }));
    if (memoryFor) this.workers.forEach((w, n) => w.postMessage({ type: 'memory', ...memoryFor(n) } satisfies HelperMessage));
  }

  sync(sheet: Sheet, store: TileStore | null, surface?: Surface): void {
    const tiles: [string, TileIndex, Uint16Array | TexelPlace | null][] = [];
    if (store)
      for (const plane of store.planeKeys())
        for (const [tile, v] of store.tilesOf(plane)) tiles.push([plane, tile, v.data && sentTexels(v.data)]);
    this.workers.forEach((w) =>
      w.postMessage({
        type: 'sync',
        sheets: [sheet],
        tiles,
        surfaces: surface && [[sheet.id, surface]],
      } satisfies HelperMessage),
    );
  }

  /**
   * Evaluates tiles of maps on the first `count` threads; resolves when all is done. As in the application they work
   * towards each other, a sixteenth at a time: few neighbours in common, and none waits for the other.
   */
  async evaluate(
    sheet: Sheet,
    maps: readonly MapId[],
    count = this.workers.length,
    tiles: readonly TileIndex[] = [...tilesOf(sheet.width, sheet.height)],
    out = pictures(sheet, maps),
    hot: string | null = null,
  ): Promise<void> {
    const step = count === 1 ? tiles.length : Math.ceil(tiles.length / 16);
    let [from, to] = [0, tiles.length];
    const next = (fromEnd: boolean): readonly TileIndex[] => {
      const size = Math.min(step, to - from);
      return fromEnd ? tiles.slice((to -= size), to + size) : tiles.slice(from, (from += size));
    };
    await Promise.all(
      this.workers.slice(0, count).map(async (worker, n) => {
        for (let part = next(n % 2 === 1); part.length > 0; part = next(n % 2 === 1)) {
          // Tile by tile, as the display draws: what maps have in common is still at hand.
          const jobs = part.flatMap((tile) => maps.map((map): [MapId, TileIndex] => [map, tile]));
          await this.answer(worker, { sheetId: sheet.id, jobs, hot, out });
        }
      }),
    );
  }

  private answer(worker: Worker, job: Omit<Extract<HelperMessage, { type: 'evaluate' }>, 'type' | 'id'>): Promise<void> {
    const id = this.nextId++;
    return new Promise<void>((resolve) => {
      const listen = (answer: HelperAnswer) => {
        if (answer.id !== id) return;
        worker.off('message', listen);
        resolve();
      };
      worker.on('message', listen);
      worker.postMessage({ type: 'evaluate', id, ...job } satisfies HelperMessage);
    });
  }

  async close(): Promise<void> {
    await Promise.all(this.workers.map((w) => w.terminate()));
  }
}

/** Room for whole maps in shared memory. */
export function pictures(sheet: Sheet, maps: readonly MapId[]): Partial<Record<MapId, Uint16Array>> {
  return Object.fromEntries(
    maps.map((m) => [m, new Uint16Array(new SharedArrayBuffer(sheet.width * sheet.height * valueChannels(m) * 2))]),
  );
}
