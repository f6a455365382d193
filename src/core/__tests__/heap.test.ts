/** Texels in a memory that threads share: where they lie, and that room comes back. */
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { Heap, REST_MS, viewAt } from '../tile/heap';
import { adoptTexels, newTexels, sentTexels, shareTexels, TILE_TEXELS } from '../tile/tiles';

setFlagsFromString('--expose-gc');
const gc = runInNewContext('gc') as () => void;
/** What is not held any more is found, and those who asked are told: when, is the engine's affair. */
async function collect(done: () => boolean = () => true): Promise<void> {
  for (let n = 0; n < 2 || (!done() && n < 200); n++) {
    gc();
    await new Promise((resolve) => setTimeout(resolve, 5));
  }
}

const small = (most = 65536) => new WebAssembly.Memory({ initial: 1, maximum: most, shared: true });

afterEach(() => shareTexels());

describe('the heap', () => {
  test('texels are zero, apart from each other, and found again by their place, however often the memory grew', () => {
    const memory = small();
    const heap = new Heap(memory, { from: 1024 });
    const all = Array.from({ length: 300 }, (_, n) => {
      const texels = heap.texels(TILE_TEXELS * 4)!;
      expect(texels.every((v) => v === 0)).toBe(true);
      return texels.fill(n + 1);
    });
    expect(memory.buffer.byteLength).toBeGreaterThan(300 * TILE_TEXELS * 8);
    for (const [n, texels] of all.entries()) {
      expect(texels.every((v) => v === n + 1)).toBe(true);
      const there = viewAt(memory, heap.placeOf(texels)!);
      expect([there.length, there[0], there[there.length - 1]]).toEqual([TILE_TEXELS * 4, n + 1, n + 1]);
    }
    expect(heap.placeOf(new Uint16Array(8))).toBeNull();
    expect(heap.placeOf(new Uint16Array(new SharedArrayBuffer(16)))).toBeNull();
  });

  test('what nobody holds is used again, cleared, after it has rested', async () => {
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
    expect(heap.bytes).toBe(0);
    expect(first.has(heap.texels(TILE_TEXELS * 2)!.byteOffset)).toBe(false);
    now = 1001;
    for (let n = 0; n < 64; n++) {
      const texels = heap.texels(TILE_TEXELS * 2)!;
      expect(first.has(texels.byteOffset)).toBe(true);
      expect(texels.some((v) => v !== 0)).toBe(false);
    }
    expect(memory.buffer.byteLength).toBe(grown);
  });

  test('hours of strokes do not fill it: 240 MiB of tiles that come and go stay within 64 MiB', async () => {
    let now = 0;
    const memory = small();
    const heap = new Heap(memory, { from: 0, now: () => now, restMs: REST_MS });
    let held: Uint16Array[] = [];
    for (let round = 0; round < 30; round++) {
      held = Array.from({ length: 64 }, () => heap.texels(TILE_TEXELS * 4)!);
      now += 2000;
      const bytes = 64 * TILE_TEXELS * 8;
      await collect(() => heap.bytes <= bytes);
    }
    expect(held).toHaveLength(64);
    expect(memory.buffer.byteLength).toBeLessThan(64 << 20);
  });

  test('a budget ends it; floats that nobody holds make room at once', async () => {
    const heap = new Heap(small(), { budget: 4 * TILE_TEXELS * 4 });
    const hold = () => Array.from({ length: 4 }, (_, n) => heap.floats(TILE_TEXELS)!.fill(n));
    expect(hold().map((f) => f[TILE_TEXELS - 1])).toEqual([0, 1, 2, 3]);
    expect(heap.floats(4)).toBeNull();
    await collect(() => heap.bytes === 0);
    expect(heap.bytes).toBe(0);
    expect(hold().every((f, n) => f.every((v) => v === n))).toBe(true);
  });

  test('two threads that make one memory grow by turns never get the same room', () => {
    const memory = small();
    const heaps = [new Heap(memory), new Heap(memory), new Heap(memory)];
    const all = Array.from({ length: 400 }, (_, n) => heaps[n % 3].floats(TILE_TEXELS * (1 + (n % 4)))!.fill(n));
    expect(all.every((f, n) => f.every((v) => v === n))).toBe(true);
  });

  test('when it is full tiles get pieces of their own', () => {
    shareTexels(new Heap(small(4), { from: 0 }));
    const tiles = Array.from({ length: 4 }, () => newTexels(TILE_TEXELS * 4));
    expect(tiles.map((t) => 'at' in sentTexels(t) && !(sentTexels(t) instanceof Uint16Array))).toEqual([
      true,
      true,
      false,
      false,
    ]);
    expect(new Set(tiles.map((t) => t.buffer)).size).toBeGreaterThan(2);
    expect(tiles.every((t) => t.length === TILE_TEXELS * 4 && t.every((v) => v === 0))).toBe(true);
  });

  test('texels that another thread unpacked are taken in once', () => {
    shareTexels(new Heap(small()));
    const theirs = Uint16Array.from({ length: TILE_TEXELS * 2 }, (_, n) => n & 65535);
    const ours = adoptTexels(theirs);
    expect(ours).not.toBe(theirs);
    expect(Buffer.from(ours).equals(Buffer.from(theirs))).toBe(true);
    expect(adoptTexels(ours)).toBe(ours);
  });
});
