/** Repeats that do not show; exact distances; normals by wider kernels; filters that look around. */
import '../colour/blend';
import { chooseKernels } from '../compute';
import { newAdjustLayer, newPaintedLayer, newSheet } from '../document/factory';
import { planeKey } from '../document/planes';
import { FAR_SQUARED, signedDistances, squaredDistances } from '../tile/distance';
import { kernelWeights, NORMAL_KERNELS, normalsFromField } from '../tile/normal';
import { TILE, TILE_TEXELS, tileIndex, TileStore } from '../tile/tiles';
import { evaluateWhole16 } from '../strata/evaluate';
import type { Filter } from '../kinds/filters';
import { lineTaps } from '../kinds/filters/around';
import { PLAUSIBLE_ALBEDO } from '../kinds/filters/more';
import { FILTERS } from '../kinds/filters';
import { inverseNormal } from '../strata/hidden';
import { pictureTile, type PictureData } from '../strata/picture';
import { placementSchema } from '../kinds/placement';
import { seededRandom } from '../testing/models';
import { scribble } from '../testing/stacks';

/** A picture of blurred specks, whose repeats are plain to see. */
function picture(side: number): PictureData {
  const random = seededRandom(6);
  const field = new Float32Array(side * side);
  for (let n = 0; n < 60; n++) {
    const [cx, cy, r, v] = [random() * side, random() * side, 2 + random() * 5, random() - 0.5];
    for (let y = 0; y < side; y++)
      for (let x = 0; x < side; x++) {
        const dx = Math.abs(x - cx);
        const dy = Math.abs(y - cy);
        const d = Math.hypot(Math.min(dx, side - dx), Math.min(dy, side - dy));
        field[y * side + x] += v * Math.exp(-(d * d) / (2 * r * r));
      }
  }
  const data = new Uint16Array(side * side * 4);
  for (let i = 0; i < field.length; i++)
    data.set(
      [0, 1, 2].map(() => Math.min(1, Math.max(0, 0.5 + field[i])) * 65535),
      i * 4,
    );
  for (let i = 3; i < data.length; i += 4) data[i] = 65535;
  return { stamp: 'one', levels: [{ width: side, height: side, data }], mean: [0.5, 0.5, 0.5], ready: new Map() };
}

describe('hidden repeats', () => {
  const side = 64;
  const repeats = 6;
  const size = side * repeats;
  const place = { sheet: { width: size, height: size, wrapU: true, wrapV: true }, surface: null };
  const whole = (hide: number): Float32Array => {
    const data = picture(side);
    const placement = placementSchema.parse({ by: 'uv', repeats, hide });
    const out = new Float32Array(size * size);
    for (let ty = 0; ty < 3; ty++)
      for (let tx = 0; tx < 3; tx++) {
        const use = { picture: 'p', take: 'luminance' as const, neutral: 0 };
        const values = pictureTile(data, use, placement, 'value', { ...place, tile: tileIndex(tx, ty) })!;
        for (let y = 0; y < TILE; y++) out.set(values.subarray(y * TILE, (y + 1) * TILE), (ty * TILE + y) * size + tx * TILE);
      }
    return out;
  };
  /** Correlation of the result with itself, shifted by a whole repeat. */
  const correlation = (values: Float32Array, dx: number, dy: number): number => {
    const mean = values.reduce((a, b) => a + b, 0) / values.length;
    let [cross, own] = [0, 0];
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++) {
        const v = values[y * size + x] - mean;
        cross += v * (values[((y + dy) % size) * size + ((x + dx) % size)] - mean);
        own += v * v;
      }
    return cross / own;
  };
  /** Mean distance between sorted values (the first Wasserstein distance of the histograms). */
  const histogramDistance = (a: Float32Array, b: Float32Array): number => {
    const [p, q] = [a, b].map((v) => v.slice().sort());
    return p.reduce((sum, v, i) => sum + Math.abs(v - q[i]), 0) / p.length;
  };

  test('as it is, a picture is its own twin one repeat further on; hidden, the peak is under 0.2 and the histogram stays', () => {
    const [plain, hidden] = [whole(0), whole(1)];
    expect(correlation(plain, side, 0)).toBeGreaterThan(0.99);
    for (const [dx, dy] of [
      [side, 0],
      [0, side],
      [side, side],
      [2 * side, 0],
    ])
      expect(correlation(hidden, dx, dy)).toBeLessThan(0.2);
    // The stated bound: 0.02 of the whole range.
    expect(histogramDistance(plain, hidden)).toBeLessThan(0.02);
  });

  test('half strength is in between, and strength 0 is the picture itself', () => {
    const half = correlation(whole(0.5), side, 0);
    expect(half).toBeGreaterThan(0.2);
    expect(half).toBeLessThan(0.9);
    const plain = whole(0);
    expect(Math.max(...plain.slice(0, side).map((v, x) => Math.abs(v - plain[x + side])))).toBeLessThan(1e-3);
  });

  test('on a wrapping canvas hidden repeats come round too', () => {
    const data = picture(side);
    const placement = placementSchema.parse({ by: 'uv', repeats, hide: 1 });
    const use = { picture: 'p', take: 'luminance' as const, neutral: 0 };
    const at = (tx: number) => pictureTile(data, use, placement, 'value', { ...place, tile: tileIndex(tx, 0) })!;
    const [here, round] = [at(0), at(3)];
    let most = 0;
    for (let i = 0; i < TILE_TEXELS; i++) most = Math.max(most, Math.abs(here[i] - round[i]));
    expect(most).toBeLessThan(0.02);
  });

  test('directions stay unit length, plain and hidden', () => {
    const random = seededRandom(8);
    const data = picture(side);
    const { data: rgba } = data.levels[0];
    for (let i = 0; i < rgba.length; i += 4) {
      const [x, y] = [(random() - 0.5) * 0.8, (random() - 0.5) * 0.8];
      rgba.set(
        [x, y, Math.sqrt(1 - x * x - y * y)].map((v) => (v * 0.5 + 0.5) * 65535),
        i,
      );
    }
    for (const hide of [0, 1]) {
      const placement = placementSchema.parse({ by: 'uv', repeats, hide, turn: 90 });
      const v = pictureTile(data, { picture: 'p', take: 'luminance', neutral: 0 }, placement, 'normal', { ...place, tile: 0 })!;
      let worst = 0;
      for (let i = 0; i < TILE_TEXELS; i++)
        worst = Math.max(worst, Math.abs(Math.hypot(...[0, 1, 2].map((c) => v[c * TILE_TEXELS + i] * 2 - 1)) - 1));
      expect(worst).toBeLessThan(1e-3);
    }
  });

  test('the inverse of the normal distribution has its known values', () => {
    for (const [p, x] of [
      [0.5, 0],
      [0.975, 1.959964],
      [0.025, -1.959964],
      [0.999, 3.090232],
      [0.01, -2.326348],
    ])
      expect(inverseNormal(p)).toBeCloseTo(x, 5);
  });
});

describe('distances', () => {
  test.each(['wasm', 'twin'] as const)(
    'equal a search through all texels, for random pictures of random shapes (%s)',
    (which) => {
      chooseKernels(which);
      for (let seed = 1; seed <= 12; seed++) {
        const random = seededRandom(seed);
        const width = 5 + Math.floor(random() * 28);
        const height = 5 + Math.floor(random() * 28);
        const density = seed % 4 === 0 ? 0.01 : random();
        const inside = Uint8Array.from({ length: width * height }, () => (random() < density ? 1 : 0));
        const out = new Float32Array(width * height);
        squaredDistances(inside, width, height, 1, out);
        for (let y = 0; y < height; y++)
          for (let x = 0; x < width; x++) {
            let best = FAR_SQUARED;
            for (let i = 0; i < inside.length; i++)
              if (inside[i]) best = Math.min(best, (x - (i % width)) ** 2 + (y - Math.floor(i / width)) ** 2);
            if (out[y * width + x] !== Math.fround(best))
              throw new Error(`seed ${seed}, ${x} ${y}: ${out[y * width + x]}, not ${best}`);
          }
      }
      chooseKernels('wasm');
    },
  );

  test('the outline runs between texels: half a texel on each side of it', () => {
    const inside = Uint8Array.from({ length: 16 }, (_, i) => (i % 8 >= 4 ? 1 : 0));
    expect([...signedDistances(inside, 8, 2)].slice(0, 8)).toEqual([-3.5, -2.5, -1.5, -0.5, 0.5, 1.5, 2.5, 3.5]);
  });
});

describe('normals by kernels of 3 to 9 texels', () => {
  const normalOf = (kernel: (typeof NORMAL_KERNELS)[number], h: (x: number, y: number) => number): number[] => {
    const r = (kernel - 1) / 2;
    const side = 4 + 2 * r;
    const field = Float32Array.from({ length: side * (1 + 2 * r) }, (_, i) => h((i % side) - r, Math.floor(i / side) - r));
    const out = new Float32Array(12);
    normalsFromField(field, 4, 1, kernel, out);
    return [out[0], out[4], out[8]];
  };

  test.each(NORMAL_KERNELS)('%i: weights sum to one, a ramp has slope one, a tilted plane its own normal', (kernel) => {
    const { smooth, slope } = kernelWeights(kernel);
    expect(smooth.reduce((a, b) => a + b)).toBeCloseTo(1, 6);
    expect(slope.reduce((a, v, k) => a + v * k, 0)).toBeCloseTo(1, 6);
    const l = Math.hypot(0.4, -0.9, 1);
    const n = normalOf(kernel, (x, y) => 0.4 * x - 0.9 * y);
    [-0.4 / l, -0.9 / l, 1 / l].forEach((v, k) => expect(n[k]).toBeCloseTo(v, 5));
  });

  test.each(NORMAL_KERNELS)('%i: the top of a ball and a sine of 64 texels are within the kernel’s known error', (kernel) => {
    const r = 200;
    const n = normalOf(kernel, (x, y) => Math.sqrt(r * r - (x - 60) ** 2 - (y + 40) ** 2));
    // The ball's normal is its place over its radius; wide kernels flatten it by about (kernel / r)².
    [-60 / r, -40 / r, Math.sqrt(1 - 0.09 - 0.04)].forEach((v, k) =>
      expect(Math.abs(n[k] - v)).toBeLessThan(0.002 + (kernel / r) ** 2),
    );
    const w = (2 * Math.PI) / 64;
    const m = normalOf(kernel, (x) => 3 * Math.sin(w * x));
    // Binomial weights of n texels pass a wave by cos(w/2)^(n−1), the central difference by sin(w)/w.
    const passed = 3 * w * (Math.sin(w) / w) * Math.cos(w / 2) ** (kernel - 3);
    expect(-m[0] / m[2]).toBeCloseTo(passed, 3);
  });
});

describe('adjustments that came with sources', () => {
  const through = (filter: Filter, texel: number[], kind: 'colour' | 'value' = 'value'): number[] => {
    const data = Float32Array.from(texel);
    FILTERS[filter.type].apply!(data, 1, kind, filter);
    return [...data];
  };

  test('posterise leaves its steps, threshold cuts, a band is white around its middle', () => {
    const steps = new Set(
      [...Array(101).keys()].map((n) => through({ type: 'posterise', steps: 4 }, [n / 100, 1])[0].toFixed(4)),
    );
    expect([...steps]).toEqual(['0.0000', '0.3333', '0.6667', '1.0000']);
    expect(through({ type: 'threshold', at: 0.5, soften: 0 }, [0.49, 1])[0]).toBe(0);
    expect(through({ type: 'threshold', at: 0.5, soften: 0 }, [0.51, 1])[0]).toBe(1);
    const band: Filter = { type: 'band', centre: 0.6, width: 0.2, soften: 0 };
    expect([0.45, 0.55, 0.65, 0.75].map((v) => through(band, [v, 1])[0])).toEqual([0, 1, 1, 0]);
  });

  test('plausible albedo lifts black and lowers white to its bounds, and leaves what lies between', () => {
    const filter: Filter = { type: 'albedo', ...PLAUSIBLE_ALBEDO };
    const lum = (c: number[]) => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2];
    expect(lum(through(filter, [0, 0, 0, 1], 'colour'))).toBeCloseTo(PLAUSIBLE_ALBEDO.low, 4);
    expect(lum(through(filter, [1, 1, 1, 1], 'colour'))).toBeCloseTo(PLAUSIBLE_ALBEDO.high, 4);
    expect(through(filter, [0.5, 0.25, 0.75, 1], 'colour')).toEqual([0.5, 0.25, 0.75, 1]);
  });

  test('the taps of a direction sum to one and lie on its line', () => {
    for (const angle of [0, 30, 90, -45]) {
      const taps = lineTaps(41, angle);
      expect(taps.reduce((s, t) => s + t.weight, 0)).toBeCloseTo(1, 6);
      const turn = (angle * Math.PI) / 180;
      for (const t of taps) expect(Math.abs(t.x * Math.sin(turn) + t.y * Math.cos(turn))).toBeLessThan(Math.SQRT2);
    }
  });

  /** A painted value with one adjustment over it, as 16-bit codes. */
  function adjusted(filter: Filter, wrap: boolean, paint: (store: TileStore, key: string) => void): Uint16Array {
    const store = new TileStore();
    paint(store, planeKey('p', 'roughness'));
    const layers = [newPaintedLayer('p', 'P', ['roughness']), newAdjustLayer('a', 'A', filter, ['roughness'])];
    return evaluateWhole16({ sheet: newSheet('s', 'S', 200, 150, { layers, wrapU: wrap, wrapV: wrap }), store }, 'roughness');
  }
  const noise = (store: TileStore, key: string) => scribble(seededRandom(2), store, key, 2, 200, 150);

  test('the median is the middle of the sorted neighbours, to half a code', () => {
    const plain = adjusted({ type: 'blur', sigma: 0 }, false, noise);
    const median = adjusted({ type: 'median', radius: 2 }, false, noise);
    for (const [x, y] of [
      [10, 10],
      [127, 60],
      [128, 127],
      [199, 149],
      [0, 0],
    ]) {
      const near: number[] = [];
      for (let dy = -2; dy <= 2; dy++)
        for (let dx = -2; dx <= 2; dx++)
          near.push(plain[Math.min(149, Math.max(0, y + dy)) * 200 + Math.min(199, Math.max(0, x + dx))]);
      expect(Math.abs(median[y * 200 + x] - near.sort((a, b) => a - b)[12])).toBeLessThanOrEqual(1);
    }
  });

  test('a wrapped shift moves every texel round, and half a turn twice is where it was', () => {
    const plain = adjusted({ type: 'blur', sigma: 0 }, false, noise);
    const shifted = adjusted({ type: 'shift', x: 0.25, y: -0.1 }, false, noise);
    for (const [x, y] of [
      [0, 0],
      [60, 20],
      [199, 149],
    ])
      expect(shifted[((y - 15 + 150) % 150) * 200 + ((x + 50) % 200)]).toBe(plain[y * 200 + x]);
  });

  test('sharpening an even area and warping by nothing change nothing; warping moves no texel farther than its amount', () => {
    const even = (store: TileStore, key: string) =>
      store.set(key, 0, { data: new Uint16Array(TILE_TEXELS * 2).fill(40000), hash: null });
    const sharp = adjusted({ type: 'sharpen', sigma: 2, amount: 2 }, true, even);
    const plain = adjusted({ type: 'blur', sigma: 0 }, true, even);
    expect(Math.abs(sharp[60 * 200 + 60] - plain[60 * 200 + 60])).toBeLessThanOrEqual(2);
    const half = (store: TileStore, key: string) => {
      const data = new Uint16Array(TILE_TEXELS * 2).fill(65535);
      for (let i = 0; i < TILE_TEXELS; i++) if (i % TILE < 64) data[i * 2] = 0;
      store.set(key, 0, { data, hash: null });
    };
    const warped = adjusted({ type: 'warp', seed: 3, amount: 10, scale: 30, octaves: 3 }, false, half);
    let moved = 0;
    for (let y = 20; y < 100; y++) {
      expect(warped[y * 200 + 50]).toBe(0);
      expect(warped[y * 200 + 78]).toBe(65535);
      for (let x = 52; x < 76; x++) if (warped[y * 200 + x] > 0 && x < 63) moved++;
    }
    expect(moved).toBeGreaterThan(20);
  });
});
