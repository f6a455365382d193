/** Texels in a memory that threads share: where they lie, and that room comes back. */
import { execFileSync } from 'node:child_process';
import { Heap, viewAt } from '../tile/heap';
import { adoptTexels, newTexels, sentTexels, shareTexels, TILE_TEXELS } from '../tile/tiles';

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

  describe('in a process of its own', () => {
    const seen = JSON.parse(
      execFileSync(process.execPath, ['--expose-gc', '--import', 'tsx', 'src/core/testing/heapAlone.ts']).toString(),
    ) as Record<'usedAgain' | 'manyRounds' | 'budget', Record<string, number | boolean>>;

    test('what nobody holds is used again, cleared, after it has rested', () =>
      expect(seen.usedAgain).toEqual({ held: 0, atOnce: false, again: true, grew: 0 }));

    test('hours of strokes do not fill it: 240 MiB of tiles that come and go stay within 64 MiB', () => {
      expect(seen.manyRounds.held).toBe(64);
      expect(seen.manyRounds.mebibytes).toBeLessThan(64);
    });

    test('a budget ends it; floats that nobody holds make room at once', () =>
      expect(seen.budget).toEqual({ before: true, refused: true, held: 0, after: true }));
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
