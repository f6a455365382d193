/** Windows over tiles against reading texel by texel; the cache of tiles; levels of pictures. */
import '../compute';
import '../colour/blend';
import { TILE, TILE_TEXELS, tileIndex, tilesAcross, type TileIndex } from '../tile/tiles';
import { TileCache, type TileValue } from '../strata/tileCache';
import { gather, runWithin, tilesBetween } from '../strata/window';
import { readyAlpha, readyPixels } from '../strata/levels';
import { hiddenRecipe } from '../strata/hidden';
import { seededRandom } from '../testing/models';

/** Tiles of two planes; some even, some without the last plane, which then counts as 1. */
function tiles(width: number, height: number, seed: number): Map<TileIndex, TileValue> {
  const random = seededRandom(seed);
  const out = new Map<TileIndex, TileValue>();
  for (let y = 0; y < tilesAcross(height); y++)
    for (let x = 0; x < tilesAcross(width); x++) {
      const kind = random();
      if (kind < 0.25) out.set(tileIndex(x, y), { uniform: [random(), random()], data: null });
      else {
        const data = Float32Array.from({ length: TILE_TEXELS * (kind < 0.5 ? 1 : 2) }, random);
        out.set(tileIndex(x, y), { uniform: null, data });
      }
    }
  return out;
}

function texel(all: Map<TileIndex, TileValue>, plane: number, x: number, y: number): number {
  const value = all.get(tileIndex(Math.floor(x / TILE), Math.floor(y / TILE)))!;
  if (!value.data) return Math.fround(value.uniform[plane]);
  const at = plane * TILE_TEXELS + (y % TILE) * TILE + (x % TILE);
  return at < value.data.length ? value.data[at] : 1;
}

describe('windows', () => {
  test.each([
    [300, 200, true, true],
    [300, 200, false, false],
    [256, 128, true, false],
    [40, 33, false, true],
    [1, 130, true, true],
  ])('over %i × %i (wraps: %s, %s) hold what each texel says', (width, height, wrapU, wrapV) => {
    const all = tiles(width, height, width + height);
    const random = seededRandom(width);
    const sheet = { width, height, wrapU, wrapV };
    const inside = (v: number, size: number, wraps: boolean) =>
      wraps ? ((v % size) + size) % size : Math.min(size - 1, Math.max(0, v));
    for (let n = 0; n < 25; n++) {
      const rect = {
        x: Math.floor((random() - 0.3) * width * 1.5),
        y: Math.floor((random() - 0.3) * height * 1.5),
        width: n === 0 ? TILE : 1 + Math.floor(random() * 150),
        height: 1 + Math.floor(random() * 150),
      };
      const out = new Float32Array(rect.width * rect.height * 2).fill(-1);
      gather(sheet, rect, 2, (t) => all.get(t)!, out);
      let wrong = 0;
      for (let p = 0, i = 0; p < 2; p++)
        for (let y = 0; y < rect.height; y++)
          for (let x = 0; x < rect.width; x++, i++)
            if (out[i] !== texel(all, p, inside(rect.x + x, width, wrapU), inside(rect.y + y, height, wrapV))) wrong++;
      expect([rect, wrong]).toEqual([rect, 0]);
    }
  });

  test('a run ends at the tile, at the sheet, or after one texel of the border', () => {
    expect(runWithin(5, 300, 200, false)).toEqual([5, 123]);
    expect(runWithin(150, 300, 200, false)).toEqual([150, 50]);
    expect(runWithin(-7, 300, 200, false)).toEqual([0, 1]);
    expect(runWithin(200, 300, 200, false)).toEqual([199, 1]);
    expect(runWithin(-7, 300, 200, true)).toEqual([193, 7]);
    expect(runWithin(410, 4, 200, true)).toEqual([10, 4]);
  });

  test('the tiles between two places are those that hold a texel of it, in a fixed order', () => {
    for (const wraps of [false, true])
      for (const size of [40, 128, 200, 384])
        for (let from = -300; from < 400; from += 37)
          for (const length of [1, 90, 400]) {
            const count = tilesAcross(size);
            const wanted: number[] = [];
            for (let v = from; v < from + length; v++) {
              const t = Math.floor((wraps ? ((v % size) + size) % size : Math.min(size - 1, Math.max(0, v))) / TILE);
              if (!wanted.includes(t)) wanted.push(t);
            }
            expect([from, length, tilesBetween(from, from + length, size, wraps, count)]).toEqual([from, length, wanted]);
          }
  });
});

describe('the cache of tiles', () => {
  const value = (texels: number): TileValue => ({ uniform: null, data: new Float32Array(texels) });

  test('lets the least recently used go first, and holds no more than it may', () => {
    const cache = new TileCache(4000);
    for (let n = 1; n <= 4; n++) cache.set(String(n), value(250));
    expect(cache.bytes).toBe(4000);
    expect(cache.get('1')).not.toBeNull();
    cache.set('5', value(250));
    expect([1, 2, 3, 4, 5].map((n) => cache.get(String(n)) !== null)).toEqual([true, false, true, true, true]);
    expect(cache.bytes).toBe(4000);
  });

  test('what is larger than all it may hold is still handed back at once; the same signature is kept once', () => {
    const cache = new TileCache(100);
    const large = value(500);
    cache.set('1', large);
    expect(cache.get('1')).toBe(large);
    cache.set('1', value(10));
    expect(cache.get('1')).toBe(large);
    cache.set('2', value(5));
    expect(cache.get('1')).toBeNull();
    expect(cache.bytes).toBe(20);
  });
});

describe('levels made ready', () => {
  const [width, height] = [5, 3];
  const random = seededRandom(3);
  const data = Uint16Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 65535 : random() * 65535));
  const level = { width, height, data };
  const filled = (pixels: ReturnType<typeof readyPixels>) => {
    const out = new Int16Array(pixels.length);
    pixels.fill(out);
    return out;
  };

  test('hold each code as it is, and the first column and row again behind the last', () => {
    const codes = filled(readyPixels(level, 'colour', 'luminance', null));
    expect(codes).toHaveLength(6 * 4 * 4);
    for (let y = 0; y <= height; y++)
      for (let x = 0; x <= width; x++)
        for (let c = 0; c < 3; c++)
          expect(codes[(y * 6 + x) * 4 + c] + 32768).toBe(data[((y % height) * width + (x % width)) * 4 + c]);
    const red = filled(readyPixels(level, 'value', 'red', null));
    expect(red[7] + 32768).toBe(data[(width + 1) * 4]);
  });

  test('alpha is left out of what is solid all over, and kept where it is not', () => {
    expect(readyAlpha(level)).toBeNull();
    const holed = data.slice();
    holed[4 * 7 + 3] = 1000;
    const alpha = filled(readyAlpha({ width, height, data: holed })!);
    expect(alpha[6 + 2] + 32768).toBe(1000);
    expect(alpha[0] + 32768).toBe(65535);
  });

  test('made Gaussian they have mean 0 and deviation 1, and their order stays', () => {
    const side = 96;
    const noise = new Uint16Array(side * side * 4);
    for (let i = 0; i < noise.length; i += 4) noise.set([random() ** 3 * 65535, random() * 65535, random() * 30000, 65535], i);
    const large = { width: side, height: side, data: noise };
    const recipe = hiddenRecipe(large, 'value', 'red');
    const codes = filled(readyPixels(large, 'value', 'red', recipe));
    let [sum, squares] = [0, 0];
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const g = (codes[y * (side + 1) + x] * 4) / 32767;
        sum += g;
        squares += g * g;
      }
    expect(Math.abs(sum / (side * side))).toBeLessThan(0.02);
    expect(Math.sqrt(squares / (side * side))).toBeCloseTo(1, 1);
    for (let i = 1; i < side; i++) {
      const [a, b] = [noise[(i - 1) * 4], noise[i * 4]];
      if (Math.abs(a - b) > 600) expect(codes[i - 1] < codes[i]).toBe(a < b);
    }
  });
});
