/** What was drawn is kept, and what a crash, a full disk or another day makes of it. */
import '../../../core/colour/blend';
import type { PlaneId } from '../../../core/kinds/shown';
import { textSignature } from '../../../core/strata/signature';
import { TILE_TEXELS } from '../../../core/tile/tiles';
import { Shelf } from '../shelf';
import { Disk } from '../../testing/disk';

const SLOT = TILE_TEXELS * 4;

const tileOf = (v: number) => new Uint8Array(SLOT).map((_, i) => (v * 31 + i) & 255);
const sig = (v: number) => textSignature(`signature ${v}`);
const plane: PlaneId = 'colour';

describe('the shelf', () => {
  test('gives back another day what was put there, by signature only', () => {
    const disk = new Disk();
    const shelf = new Shelf(disk);
    for (let t = 0; t < 200; t++) shelf.put(plane, t, sig(t), t % 3 === 0 ? 0x01020304 + t : tileOf(t));
    shelf.put('normal', 7, sig(1000), tileOf(9));
    shelf.close();
    const again = new Shelf(disk);
    for (let t = 0; t < 200; t++) {
      const kept = again.read(plane, t, sig(t));
      if (t % 3 === 0) expect(kept).toBe(0x01020304 + t);
      else expect(Buffer.compare(kept as Uint8Array, tileOf(t))).toBe(0);
      expect(again.read(plane, t, sig(t + 1))).toBeNull();
    }
    expect(Buffer.compare(again.read('normal', 7, sig(1000)) as Uint8Array, tileOf(9))).toBe(0);
    expect(again.read('surface', 7, sig(1000))).toBeNull();
  });

  test('the newest state of a tile takes the place of the one before, and needs no more room', () => {
    const disk = new Disk();
    const shelf = new Shelf(disk);
    for (let round = 0; round < 5; round++) {
      for (let t = 0; t < 10; t++) shelf.put(plane, t, sig(t + round * 100), tileOf(t + round));
      shelf.flush();
    }
    expect(disk.bytes.length).toBeLessThanOrEqual(32768 * 32 + 10 * SLOT);
    expect(new Shelf(disk).read(plane, 3, sig(303))).toBeNull();
    expect(Buffer.compare(new Shelf(disk).read(plane, 3, sig(403)) as Uint8Array, tileOf(7))).toBe(0);
  });

  test('whatever of the writes a crash loses, nothing is given under a signature that is not its own', () => {
    for (let seed = 0; seed < 64; seed++) {
      const disk = new Disk();
      const first = new Shelf(disk);
      for (let t = 0; t < 4; t++) first.put(plane, t, sig(t), tileOf(t));
      first.flush();
      // It goes down somewhere in the middle of the next batch.
      disk.room = seed % 9;
      for (let t = 0; t < 4; t++) first.put(plane, t, sig(t + 50), tileOf(t + 50));
      first.flush();
      disk.crash((n) => ((seed >> (n % 6)) & 1) === 1);
      disk.room = Infinity;
      const again = new Shelf(disk);
      for (let t = 0; t < 4; t++)
        for (const v of [t, t + 50]) {
          const kept = again.read(plane, t, sig(v));
          if (kept !== null) expect(Buffer.compare(kept as Uint8Array, tileOf(v))).toBe(0);
        }
    }
  });

  test('a full disk costs nothing but what it cannot take', () => {
    const disk = new Disk();
    const shelf = new Shelf(disk);
    shelf.put(plane, 1, sig(1), tileOf(1));
    shelf.flush();
    disk.room = 0;
    shelf.put(plane, 2, sig(2), tileOf(2));
    expect(() => shelf.flush()).not.toThrow();
    expect(shelf.read(plane, 2, sig(2))).toBeNull();
    expect(Buffer.compare(shelf.read(plane, 1, sig(1)) as Uint8Array, tileOf(1))).toBe(0);
  });

  test('entries that are damaged are none, and their places are used again', () => {
    const disk = new Disk();
    const shelf = new Shelf(disk);
    for (let t = 0; t < 8; t++) shelf.put(plane, t, sig(t), tileOf(t));
    shelf.flush();
    for (let t = 0; t < 8; t += 2) disk.bytes[t * 32 + 13] ^= 1;
    const again = new Shelf(disk);
    const there = Array.from({ length: 8 }, (_, t) => again.read(plane, t, sig(t)) !== null);
    expect(there.filter(Boolean)).toHaveLength(4);
    for (let t = 0; t < 8; t++) again.put(plane, t, sig(t), tileOf(t));
    again.flush();
    expect(disk.bytes.length).toBeLessThanOrEqual(32768 * 32 + 8 * SLOT);
    for (let t = 0; t < 8; t++) expect(Buffer.compare(new Shelf(disk).read(plane, t, sig(t)) as Uint8Array, tileOf(t))).toBe(0);
  });
});
