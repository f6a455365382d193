/** Texels kept by address, and what a crash, a full disk and a damaged one make of them: never other texels than were put. */
import '../../../core/colour/blend';
import { createHash } from 'node:crypto';
import { TILE_TEXELS } from '../../../core/tile/tiles';
import { TexelShelf } from '../texelShelf';
import { Disk } from '../../testing/disk';

const ENTRY = 48;
const SLOTS_AT = 4096 * ENTRY;
const SLOT = TILE_TEXELS * 4;

const texelsOf = (v: number, channels = 2 + (v % 2) * 2) =>
  new Uint16Array(TILE_TEXELS * channels).map((_, i) => Math.imul(v * 7919 + i, 40503) >>> 8);
const hashOf = (v: number) => createHash('sha256').update(`tile ${v}`).digest('hex');
const put = (shelf: TexelShelf, ...which: number[]) => which.map((v) => shelf.put(hashOf(v), texelsOf(v)));
const same = (shelf: TexelShelf, v: number) => {
  const kept = shelf.read(hashOf(v));
  return kept !== null && Buffer.compare(Buffer.from(kept.buffer), Buffer.from(texelsOf(v).buffer)) === 0;
};

describe('texels that are kept', () => {
  test('are there another day, by their address, of two channels and of four', () => {
    const disk = new Disk();
    const shelf = new TexelShelf(disk);
    const all = Array.from({ length: 90 }, (_, v) => v);
    expect(put(shelf, ...all).every(Boolean)).toBe(true);
    expect(shelf.flush()).toBe(true);
    const again = new TexelShelf(disk);
    for (const v of all) {
      expect(again.has(hashOf(v))).toBe(true);
      expect(same(again, v)).toBe(true);
    }
    expect(again.read(hashOf(1000))).toBeNull();
    expect(again.has(hashOf(1000))).toBe(false);
  });

  test('what is given up makes room for what comes', () => {
    const disk = new Disk();
    const shelf = new TexelShelf(disk);
    for (let round = 0; round < 5; round++) {
      const now = Array.from({ length: 8 }, (_, n) => round * 8 + n);
      shelf.keepOnly(new Set(now.map(hashOf)));
      put(shelf, ...now);
      shelf.flush();
    }
    expect(disk.bytes.length).toBe(SLOTS_AT + 12 * SLOT);
    const again = new TexelShelf(disk);
    expect([0, 31, 32, 39].map((v) => same(again, v))).toEqual([false, false, true, true]);
  });

  test('a byte that the disk has damaged: those texels are not there, the others are', () => {
    const disk = new Disk();
    put(new TexelShelf(disk), 1);
    const shelf = new TexelShelf(disk);
    put(shelf, 0, 1, 2, 3);
    shelf.flush();
    // Each byte of a slot counts: a few of each of them, and of the entries.
    for (let n = 0; n < 60; n++) {
      const at = n < 48 ? SLOTS_AT + Math.floor(((n + 0.37) / 48) * 6 * SLOT) : ((n - 48) % 6) * ENTRY + 1 + (n % 47);
      const before = disk.bytes[at];
      disk.bytes[at] ^= 1 << (n % 8);
      const again = new TexelShelf(disk);
      const there = [0, 1, 2, 3].map((v) => again.read(hashOf(v)) !== null);
      const right = [0, 1, 2, 3].map((v) => same(again, v));
      expect(there).toEqual(right);
      expect(right.filter(Boolean)).toHaveLength(3);
      disk.bytes[at] = before;
      // What was found damaged was given up on the disk too.
      disk.bytes.fill(0);
      const whole = new TexelShelf(disk);
      put(whole, 0, 1, 2, 3);
      whole.flush();
    }
  });

  test('texels of one address in the place of another are none', () => {
    const disk = new Disk();
    const shelf = new TexelShelf(disk);
    put(shelf, 0, 2);
    shelf.flush();
    const [a, b] = [0, 1].map((n) => disk.bytes.slice(SLOTS_AT + n * SLOT, SLOTS_AT + (n + 1) * SLOT));
    disk.bytes.set(b, SLOTS_AT);
    disk.bytes.set(a, SLOTS_AT + SLOT);
    const again = new TexelShelf(disk);
    expect([again.read(hashOf(0)), again.read(hashOf(2))]).toEqual([null, null]);
  });

  test('whatever of the writes a crash loses, nothing is given under an address that is not its own', () => {
    for (let seed = 0; seed < 96; seed++) {
      const disk = new Disk();
      const first = new TexelShelf(disk);
      put(first, 0, 1, 2, 3);
      first.flush();
      // It goes down somewhere in the middle of what takes their places.
      disk.room = seed % 24;
      first.keepOnly(new Set([hashOf(3)]));
      put(first, 4, 5, 6, 7);
      first.flush();
      disk.crash((n) => ((seed >> (n % 6)) & 1) === 1);
      disk.room = Infinity;
      const again = new TexelShelf(disk);
      for (let v = 0; v < 8; v++) if (again.read(hashOf(v)) !== null) expect(same(again, v)).toBe(true);
      // And what was left half is no trouble later.
      put(again, 4, 5, 6, 7);
      again.flush();
      expect([4, 5, 6, 7].every((v) => same(new TexelShelf(disk), v))).toBe(true);
    }
  });

  test('a full disk: what it has is read on, and no more is tried', () => {
    const disk = new Disk();
    const shelf = new TexelShelf(disk);
    put(shelf, 0);
    shelf.flush();
    disk.room = 0;
    put(shelf, 1);
    expect(shelf.flush()).toBe(false);
    expect(put(shelf, 2)).toEqual([false]);
    expect(same(shelf, 0)).toBe(true);
    expect(shelf.read(hashOf(1))).toBeNull();
  });

  test('beyond 256 MiB nothing more is put, and nothing that is there is lost', () => {
    const disk = new Disk();
    disk.bytes = new Uint8Array(SLOTS_AT + 4096 * SLOT);
    const shelf = new TexelShelf(disk);
    const two = texelsOf(0);
    for (let v = 0; v < 4096; v++) shelf.put(hashOf(v), two);
    expect(shelf.flush()).toBe(true);
    shelf.put(hashOf(5000), two);
    expect(shelf.flush()).toBe(false);
    expect(shelf.read(hashOf(4095))).not.toBeNull();
    expect(shelf.read(hashOf(5000))).toBeNull();
  });
});
