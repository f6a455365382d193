/**
 * What becomes of room that nobody holds: in a process of its own, since whether and when a collector tells is nothing to
 * rely on among hundreds of tests in one process. Prints what was seen, for `heap.test.ts`.
 */
import { Heap, REST_MS } from '../tile/heap';
import { TILE_TEXELS } from '../tile/tiles';

const gc = (globalThis as unknown as { gc: () => void }).gc;
const small = () => new WebAssembly.Memory({ initial: 1, maximum: 65536, shared: true });
/** What is not held any more is found, and those who asked are told: when, is the engine's affair. */
async function collect(done: () => boolean): Promise<void> {
  for (let n = 0; n < 2 || (!done() && n < 2000); n++) {
    gc();
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
}

async function usedAgain() {
  let now = 0;
  const memory = small();
  const heap = new Heap(memory, { from: 0, now: () => now, restMs: REST_MS });
  const first = new Set<number>();
  const some = () => {
    for (let n = 0; n < 64; n++) first.add(heap.texels(TILE_TEXELS * 2)!.fill(7).byteOffset);
  };
  some();
  const grown = memory.buffer.byteLength;
  await collect(() => heap.bytes === 0);
  const held = heap.bytes;
  const atOnce = first.has(heap.texels(TILE_TEXELS * 2)!.byteOffset);
  now = REST_MS + 1;
  const again = Array.from({ length: 64 }, () => {
    const texels = heap.texels(TILE_TEXELS * 2)!;
    return first.has(texels.byteOffset) && texels.every((v) => v === 0);
  });
  return { held, atOnce, again: again.every(Boolean), grew: memory.buffer.byteLength - grown };
}

/** MiB that it grew to while 30 × 8 MiB of tiles came and went. */
async function manyRounds() {
  let now = 0;
  const memory = small();
  const heap = new Heap(memory, { from: 0, now: () => now, restMs: REST_MS });
  const bytes = 64 * TILE_TEXELS * 8;
  let held: Uint16Array[] = [];
  for (let round = 0; round < 30; round++) {
    held = Array.from({ length: 64 }, () => heap.texels(TILE_TEXELS * 4)!);
    now += 2000;
    await collect(() => heap.bytes <= bytes);
  }
  return { held: held.length, mebibytes: memory.buffer.byteLength / 1048576 };
}

async function budget() {
  const heap = new Heap(small(), { budget: 4 * TILE_TEXELS * 4 });
  const hold = () => Array.from({ length: 4 }, (_, n) => heap.floats(TILE_TEXELS)!.fill(n));
  const right = () => hold().every((f, n) => f.every((v) => v === n));
  const before = right();
  const refused = heap.floats(4) === null;
  await collect(() => heap.bytes === 0);
  return { before, refused, held: heap.bytes, after: right() };
}

process.stdout.write(JSON.stringify({ usedAgain: await usedAgain(), manyRounds: await manyRounds(), budget: await budget() }));
