/** What was drawn, as it travels: whole, cut short, damaged. */
import { createHash } from 'node:crypto';
import { textSignature } from '../../../core/strata/signature';
import { seededRandom } from '../../../core/testing/models';
import { TILE_TEXELS, tileIndex } from '../../../core/tile/tiles';
import { partsOfShelf, readPart } from '../drawnParts';
import { Shelf, type Drawn } from '../shelf';
import { Disk } from '../../testing/disk';

const SLOT = TILE_TEXELS * 4;
const SIZE = { width: 2048, height: 2048 };
const sig = (v: number) => textSignature(`signature ${v}`);
const tileOf = (v: number) => new Uint8Array(SLOT).map((_, i) => (v * 31 + i * 7) & 255);

function filled(tiles: number): Shelf {
  const shelf = new Shelf(new Disk());
  for (let n = 0; n < tiles; n++) {
    shelf.put('colour', tileIndex(n % 16, n >> 4), sig(n), tileOf(n));
    shelf.put('normal', tileIndex(n % 16, n >> 4), sig(n + 1000), 0xff808000 + n);
  }
  return shelf;
}
const parts = (shelf: Shelf) => [...partsOfShelf(shelf)];
const told = ({ plane, tile, signature, texels }: Drawn) =>
  `${plane} ${tile} ${signature} ${typeof texels === 'number' ? texels : createHash('sha256').update(texels).digest('hex')}`;

test('all of a shelf comes through, 64 tiles with texels to a part; the last one says so', () => {
  const shelf = filled(150);
  const made = parts(shelf);
  expect(made.map(([, last]) => last)).toEqual([false, false, true]);
  expect(Math.max(...made.map(([part]) => part.length))).toBeLessThan(64 * SLOT + 16_384 * 28);
  const other = new Shelf(new Disk());
  for (const [part] of made)
    for (const { plane, tile, signature, texels } of readPart(part, SIZE)) other.put(plane, tile, signature, texels);
  expect([...other.all()].map(told).sort()).toEqual([...shelf.all()].map(told).sort());
  expect([...other.all()]).toHaveLength(300);
});

test('nothing makes no part, and tiles of one texel small ones', () => {
  expect(parts(new Shelf(new Disk()))).toEqual([]);
  const shelf = new Shelf(new Disk());
  for (let n = 0; n < 200; n++) shelf.put('surface', tileIndex(n % 16, n >> 4), sig(n), n);
  const made = parts(shelf);
  expect(made).toHaveLength(1);
  expect(made[0][0]).toHaveLength(200 * 28);
});

test('a part that is cut short gives what is whole; tiles beyond the sheet and damaged bytes end it, and nothing is thrown', () => {
  const [[part]] = parts(filled(20));
  const all = [...readPart(part, SIZE)].map(told);
  for (const bytes of [0, 27, 28, SLOT, SLOT + 28, SLOT + 56, part.length - 1]) {
    const some = [...readPart(part.subarray(0, bytes), SIZE)].map(told);
    expect(some).toEqual(all.slice(0, some.length));
    expect(some.length).toBeLessThan(all.length);
  }
  expect([...readPart(part, { width: 128, height: 128 })]).toHaveLength(2);
  const random = seededRandom(5);
  for (let n = 0; n < 300; n++) {
    const damaged = part.slice(0, SLOT * 3);
    for (let k = 0; k < 8; k++) damaged[Math.floor(random() * (k % 2 ? 60 : damaged.length))] = random() * 256;
    for (const { plane, tile } of readPart(damaged, SIZE)) {
      expect(['colour', 'surface', 'normal', 'emissive', 'fence', 'view']).toContain(plane);
      expect(tile).toBeGreaterThanOrEqual(0);
    }
  }
});
