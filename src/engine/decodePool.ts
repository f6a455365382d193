/** A few workers that unpack tiles while a piece opens; they are let go afterwards. */

/** Texels of each blob, in order; null where a blob is damaged. */
export type DecodeTiles = (blobs: Uint8Array[]) => Promise<(Uint16Array | null)[]>;

const MOST_WORKERS = 4;

/** Workers beside the page's own thread: one for each core but one, at least one. */
export const spareCores = (): number => Math.min(MOST_WORKERS, Math.max(1, (navigator.hardwareConcurrency || 2) - 1));

export function decodePool(): { decode: DecodeTiles; close: () => void } {
  const count = spareCores();
  const waiting = new Map<number, (tiles: (Uint16Array | null)[]) => void>();
  const workers = Array.from({ length: count }, () => {
    const worker = new Worker(new URL('./decode.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<{ id: number; tiles: (Uint16Array | null)[] }>) => {
      waiting.get(data.id)?.(data.tiles);
      waiting.delete(data.id);
    };
    return worker;
  });
  let next = 0;
  return {
    decode: (blobs) =>
      new Promise((resolve) => {
        const id = next++;
        waiting.set(id, resolve);
        // Copies, so that each message carries its own bytes and not the whole answer they came in.
        const own = blobs.map((b) => b.slice());
        workers[id % count].postMessage(
          { id, blobs: own },
          own.map((b) => b.buffer),
        );
      }),
    close: () => workers.forEach((w) => w.terminate()),
  };
}
