/** Workers that pack and unpack tiles beside the engine. One that dies is left out, and its work is done over. */
import { adoptTexels } from '../../core/tile/tiles';
import { decodeTile, encodeTile } from './tileCodec';

export interface PackedTile {
  hash: string;
  blob: Uint8Array;
}
export type PackTiles = (tiles: readonly Uint16Array[]) => Promise<PackedTile[]>;
/** Texels of each blob, in order; null where a blob is damaged. */
export type DecodeTiles = (blobs: readonly Uint8Array[]) => Promise<(Uint16Array | null)[]>;

export interface TilePool {
  pack: PackTiles;
  decode: DecodeTiles;
  close(): void;
}

export type TileJob = { do: 'pack'; tiles: Uint16Array[] } | { do: 'decode'; blobs: Uint8Array[] };
export type TileResult = PackedTile[] | (Uint16Array | null)[];

/** On this very thread: where there are no workers, and where they died. */
export const TILES_HERE: TilePool = {
  pack: (tiles) => Promise.all(tiles.map((t) => encodeTile(t))),
  decode: (blobs) => Promise.all(blobs.map((blob) => decodeTile(blob).catch(() => null))),
  close: () => undefined,
};

const runHere = (job: TileJob): Promise<TileResult> =>
  job.do === 'pack' ? TILES_HERE.pack(job.tiles) : TILES_HERE.decode(job.blobs);

/** The recording of a stroke gets to the disk first: packing takes all processors there are. */
const PACK_AFTER_MS = 30;
/** Tiles a turn: some 10 ms of packing, so that two workers end at about the same time. */
const PACK_BATCH = 8;
const DECODE_BATCH = 64;
const MOST_WORKERS = 4;

/** Workers beside the page's own thread: one for each core but one, at least one. */
export const spareCores = (): number => Math.min(MOST_WORKERS, Math.max(1, (navigator.hardwareConcurrency || 2) - 1));

/** As much of a Worker as is needed here. */
export interface TileWorker {
  postMessage(message: unknown, transfer: Transferable[]): void;
  terminate(): void;
  /** `null`: it has loaded. */
  onmessage: ((event: MessageEvent<{ id: number; result: TileResult } | null>) => void) | null;
  onerror: ((event: ErrorEvent) => void) | null;
  onmessageerror: ((event: MessageEvent) => void) | null;
}

const browserWorker = (): TileWorker => new Worker(new URL('./tile.worker.ts', import.meta.url), { type: 'module' });

interface Job {
  job: TileJob;
  resolve: (result: TileResult) => void;
  reject: (error: unknown) => void;
}

/** A worker that has not loaded by then never will: its script could not be fetched, which browsers do not always say. */
export const LOADING_MS = 8000;

export function tilePool(count = spareCores(), make: () => TileWorker = browserWorker, loadingMs = LOADING_MS): TilePool {
  const queue: Job[] = [];
  const idle: TileWorker[] = [];
  const busy = new Map<TileWorker, Job>();
  let alive = 0;
  let nextId = 0;

  const next = () => {
    while (queue.length > 0) {
      const worker = idle.pop();
      if (worker && dead.has(worker)) continue;
      if (!worker && alive > 0) return;
      const job = queue.shift()!;
      if (!worker) {
        runHere(job.job).then(job.resolve, job.reject);
        continue;
      }
      busy.set(worker, job);
      try {
        worker.postMessage({ id: nextId++, job: job.job }, []);
      } catch {
        died(worker);
      }
    }
  };
  const dead = new Set<TileWorker>();
  const died = (worker: TileWorker) => {
    if (dead.has(worker)) return;
    dead.add(worker);
    const job = busy.get(worker);
    busy.delete(worker);
    alive--;
    worker.terminate();
    if (job) queue.unshift(job);
    next();
  };
  const start = () => {
    const worker = make();
    alive++;
    const loading = setTimeout(() => died(worker), loadingMs);
    worker.onmessage = ({ data }) => {
      clearTimeout(loading);
      if (dead.has(worker)) return;
      const job = busy.get(worker);
      busy.delete(worker);
      idle.push(worker);
      if (data) job?.resolve(data.result);
      next();
    };
    worker.onerror = worker.onmessageerror = () => {
      clearTimeout(loading);
      died(worker);
    };
  };
  // At once, while the page loads: later the server may be away.
  for (let n = 0; n < count; n++) start();
  const run = <T extends TileResult>(job: TileJob): Promise<T> =>
    new Promise<T>((resolve, reject) => {
      queue.push({ job, resolve: resolve as (r: TileResult) => void, reject });
      next();
    });
  const inBatches = async <I, O extends TileResult>(items: readonly I[], size: number, job: (part: I[]) => TileJob) => {
    const parts: Promise<O>[] = [];
    for (let i = 0; i < items.length; i += size) parts.push(run<O>(job(items.slice(i, i + size))));
    return (await Promise.all(parts)).flat() as unknown as O;
  };
  return {
    pack: async (tiles) => {
      await new Promise((resolve) => setTimeout(resolve, PACK_AFTER_MS));
      return inBatches<Uint16Array, PackedTile[]>(tiles, PACK_BATCH, (part) => ({ do: 'pack', tiles: part }));
    },
    decode: async (blobs) => {
      // Copies, so that each message carries its own bytes and not the whole answer they came in.
      const tiles = await inBatches<Uint8Array, (Uint16Array | null)[]>(blobs, DECODE_BATCH, (part) => ({
        do: 'decode',
        blobs: part.map((b) => b.slice()),
      }));
      return tiles.map((t) => t && adoptTexels(t));
    },
    close: () => [...idle, ...busy.keys()].forEach((w) => w.terminate()),
  };
}
