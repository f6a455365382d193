import '../compute';
import { srgbToLinear } from '../colour/transfer';
import { marginSources } from '../tile/gutter';
import { inPairs, MipPyramid } from '../tile/mips';
import { normalAt, normalsFromField } from '../tile/normal';
import { resample } from '../tile/resample';
import {
  invertChanges,
  pictureFromTiles,
  TILE,
  tileIndex,
  tilesFromPicture,
  tilesOf,
  TileStore,
  tileX,
  tileY,
  type TileChange,
} from '../tile/tiles';
import { validateTiles } from '../document/planes';
import { seededRandom } from '../testing/models';

describe('tiles', () => {
  test('a picture of any size survives being cut into tiles', () => {
    const random = seededRandom(1);
    for (const [w, h, c] of [
      [16, 16, 4],
      [300, 130, 2],
      [129, 257, 4],
    ] as const) {
      const pixels = Uint16Array.from({ length: w * h * c }, () => 1 + random() * 65534);
      const tiles = tilesFromPicture(pixels, w, h, c);
      const versions = new Map([...tiles].map(([i, data]) => [i, { data, hash: null }]));
      expect(pictureFromTiles(versions, w, h, c)).toEqual(pixels);
    }
  });

  test('tiles without coverage do not exist', () => {
    const pixels = new Uint16Array(256 * 256 * 2);
    pixels[(200 * 256 + 10) * 2 + 1] = 1;
    expect([...tilesFromPicture(pixels, 256, 256, 2).keys()]).toEqual([tileIndex(0, 1)]);
  });

  test('indices name column and row, and cover the sheet', () => {
    expect([tileX(tileIndex(3, 5)), tileY(tileIndex(3, 5))]).toEqual([3, 5]);
    expect([...tilesOf(300, 130)].length).toBe(3 * 2);
  });

  test('inverting changes puts every tile back', () => {
    const store = new TileStore();
    const a = { data: new Uint16Array(TILE * TILE * 2), hash: null };
    const b = { data: new Uint16Array(TILE * TILE * 2), hash: null };
    store.set('l/height', 0, a);
    const changes: TileChange[] = [
      { plane: 'l/height', tile: 0, before: a, after: b },
      { plane: 'l/height', tile: 1, before: null, after: b },
    ];
    store.apply(changes);
    expect(validateTiles(store)).toBeNull();
    store.apply(invertChanges(changes));
    expect(store.get('l/height', 0)).toBe(a);
    expect(store.get('l/height', 1)).toBeNull();
    expect(store.planeKeys()).toEqual(['l/height']);
  });

  test('the integrity check finds a tile of the wrong length', () => {
    const store = new TileStore();
    store.set('l/height', 0, { data: new Uint16Array(7), hash: null });
    expect(validateTiles(store)).toContain('7 numbers');
  });
});

describe('display pyramids', () => {
  test.each([
    [64, 64],
    [100, 60],
    [1, 9],
  ])('refreshing random rectangles equals building from scratch (%i × %i)', (w, h) => {
    const random = seededRandom(w);
    const step = new MipPyramid(w, h, 'srgb');
    const whole = new MipPyramid(w, h, 'srgb');
    const size = { width: w, height: h };
    const texels = new Uint8Array(w * h * 4);
    for (let n = 0; n < 20; n++) {
      const x = Math.floor(random() * w);
      const y = Math.floor(random() * h);
      const rect = inPairs({ x, y, width: 1 + Math.floor(random() * (w - x)), height: 1 + Math.floor(random() * (h - y)) }, size);
      const part = new Uint8Array(rect.width * rect.height * 4).map(() => random() * 256);
      for (let r = 0; r < rect.height; r++)
        texels.set(part.subarray(r * rect.width * 4, (r + 1) * rect.width * 4), ((rect.y + r) * w + rect.x) * 4);
      step.lay(rect, part);
    }
    whole.lay({ x: 0, y: 0, ...size }, texels);
    for (let n = 1; n < step.sizes.length; n++) expect(step.level(n).data).toEqual(whole.level(n).data);
  });

  test('what is even takes no memory and says so once; the first texel that differs fills the rest with what it was', () => {
    const p = new MipPyramid(64, 32, 'srgb');
    const one = (v: number) => new Uint8Array(16 * 16 * 4).fill(v);
    expect(p.lay({ x: 0, y: 0, width: 16, height: 16 }, one(90))).toEqual({
      rects: [],
      first: 0,
      data: new Uint8Array(4).fill(90),
    });
    expect(p.lay({ x: 16, y: 0, width: 16, height: 16 }, one(90))).toBeNull();
    expect(p.bytes).toBe(0);
    expect(p.level(1).data.every((v) => v === 90)).toBe(true);
    const patch = p.lay({ x: 32, y: 16, width: 16, height: 16 }, one(200))!;
    expect(patch.rects).toHaveLength(p.sizes.length);
    expect(p.bytes).toBeGreaterThan(32 * 16 * 4);
    const { data } = p.level(1);
    for (let y = 0; y < 16; y++)
      for (let x = 0; x < 32; x++) expect(data[(y * 32 + x) * 4]).toBe(x >= 16 && x < 24 && y >= 8 ? 200 : 90);
  });

  test('black and white average to middle light, not to middle code', () => {
    const p = new MipPyramid(2, 2, 'srgb');
    const { data } = p.lay(
      { x: 0, y: 0, width: 2, height: 2 },
      Uint8Array.from([0, 0, 0, 255, 255, 255, 255, 255, 255, 255, 255, 255, 0, 0, 0, 255]),
    )!;
    expect(srgbToLinear(data[16] / 255)).toBeCloseTo(0.5, 2);
    expect(p.level(1).data[0]).toBe(data[16]);
  });
});

describe('normal from height', () => {
  test('a tilted plane has its own normal everywhere, whichever way it is computed', () => {
    const [sx, sy] = [0.3, -0.7];
    const l = Math.hypot(sx, sy, 1);
    const out = new Float32Array(3);
    normalAt((x, y) => sx * x + sy * y, 5, 9, out);
    expect([...out]).toEqual([-sx / l, sy / l, 1 / l].map((v) => expect.closeTo(v, 6)));
    const field = Float32Array.from({ length: 6 * 5 }, (_, i) => sx * (i % 6) + sy * Math.floor(i / 6));
    const normals = new Float32Array(4 * 3 * 3);
    normalsFromField(field, 4, 3, 3, normals);
    for (let i = 0; i < 12; i++)
      expect([0, 1, 2].map((c) => normals[c * 12 + i])).toEqual([...out].map((v) => expect.closeTo(v, 5)));
  });

  test('green points up where the surface rises downwards in the picture, as glTF has it', () => {
    const out = new Float32Array(3);
    normalAt((_x, y) => y, 0, 0, out);
    expect(out[1]).toBeGreaterThan(0.6);
  });

  test('a sphere cap of 100 texels has the analytic normal within half a percent', () => {
    const out = new Float32Array(3);
    const cap = (x: number, y: number) => Math.sqrt(100 * 100 - x * x - y * y);
    for (const [x, y] of [
      [0, 0],
      [30, 10],
      [-40, 25],
    ]) {
      normalAt(cap, x, y, out);
      const expected = [x / 100, -y / 100, cap(x, y) / 100];
      expected.forEach((v, k) => expect(Math.abs(out[k] - v)).toBeLessThan(0.005));
    }
  });
});

describe('resampling', () => {
  test('an even picture stays even, at any size', () => {
    for (const to of [5, 8, 31, 100])
      for (const v of resample(new Float32Array(20 * 20).fill(0.37), 20, 20, 1, to, to)) expect(v).toBeCloseTo(0.37, 5);
  });

  test('a slow wave keeps its values when made half as large', () => {
    const wave = (x: number, n: number) => 0.5 + 0.4 * Math.sin((2 * Math.PI * (x + 0.5)) / n);
    const small = resample(
      Float32Array.from({ length: 64 * 4 }, (_, i) => wave(i % 64, 64)),
      64,
      4,
      1,
      32,
      4,
      { wrapX: true },
    );
    for (let x = 0; x < 32; x++) expect(small[x]).toBeCloseTo(wave(x, 32), 2);
  });

  test('a wrapping picture resampled is the same wherever it is cut', () => {
    const random = seededRandom(3);
    const line = Float32Array.from({ length: 32 }, random);
    const turned = Float32Array.from(line, (_, i) => line[(i + 8) % 32]);
    const a = resample(line, 32, 1, 1, 16, 1, { wrapX: true });
    const b = resample(turned, 32, 1, 1, 16, 1, { wrapX: true });
    for (let i = 0; i < 16; i++) expect(b[i]).toBeCloseTo(a[(i + 4) % 16], 5);
  });

  test('a fine checker shrinks to its mean, without moiré', () => {
    const checker = Float32Array.from({ length: 64 * 64 }, (_, i) => ((i % 64) + Math.floor(i / 64)) % 2);
    for (const v of resample(checker, 64, 64, 1, 8, 8, { wrapX: true, wrapY: true })) expect(v).toBeCloseTo(0.5, 1);
  });
});

describe('margins', () => {
  test('each texel near an island copies from one as near as the nearest, within a texel', () => {
    const random = seededRandom(11);
    const [w, h, reach] = [48, 40, 6];
    const covered = Uint8Array.from({ length: w * h }, () => (random() < 0.01 ? 1 : 0));
    const sources = marginSources(covered, w, h, reach);
    for (let i = 0; i < w * h; i++) {
      let nearest = Infinity;
      for (let j = 0; j < w * h; j++)
        if (covered[j]) nearest = Math.min(nearest, Math.hypot((i % w) - (j % w), Math.floor(i / w) - Math.floor(j / w)));
      if (sources[i] < 0) expect(nearest).toBeGreaterThan(reach - 1);
      else {
        expect(covered[sources[i]]).toBe(1);
        const d = Math.hypot((i % w) - (sources[i] % w), Math.floor(i / w) - Math.floor(sources[i] / w));
        expect(d).toBeLessThanOrEqual(Math.min(reach, nearest + 1));
      }
    }
  });
});
