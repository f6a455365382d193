import '../compute';
import { directionsOf } from '../rays/directions';
import { treeOf } from '../rays/tree';
import { getKernels } from '../compute';
import { kernels } from '../kernels';
import { seededRandom } from '../testing/models';
import { NO_FACE, POINT_NUMBERS, RAY_NUMBERS, type Rays } from '../../kernels/rays';
import { raysTwin } from '../../kernels/raysTwin';

interface Soup {
  positions: Float32Array;
  indices: Uint32Array;
}

/** Triangles in a cube of 2, most of them small. */
function soup(count: number, seed: number): Soup {
  const random = seededRandom(seed);
  const positions = new Float32Array(count * 9);
  for (let t = 0; t < count; t++) {
    const middle = [0, 1, 2].map(() => random() * 2 - 1);
    const size = random() < 0.05 ? 0.8 : 0.12;
    for (let k = 0; k < 9; k++) positions[t * 9 + k] = middle[k % 3] + (random() - 0.5) * size;
  }
  return { positions, indices: Uint32Array.from({ length: count * 3 }, (_, i) => i) };
}

function randomRays(count: number, seed: number): Float32Array {
  const random = seededRandom(seed);
  const out = new Float32Array(count * RAY_NUMBERS);
  for (let n = 0; n < count; n++) {
    const from = [0, 1, 2].map(() => random() * 3 - 1.5);
    const to = [0, 1, 2].map(() => random() * 2 - 1);
    // Some run along an axis.
    const d = n % 7 === 0 ? [0, 0, 0].map((_, k) => (k === n % 3 ? 1 : 0)) : to.map((v, k) => v - from[k]);
    out.set([...from, ...d, 0, 10], n * RAY_NUMBERS);
  }
  return out;
}

/** Every triangle asked, in float64: Möller and Trumbore. */
function bruteHit({ positions: p, indices }: Soup, o: ArrayLike<number>, d: ArrayLike<number>, far: number) {
  const sub = (a: ArrayLike<number>, b: ArrayLike<number>) => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
  const cross = (a: number[], b: number[]) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
  const dot = (a: ArrayLike<number>, b: ArrayLike<number>) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  let best = { t: far, face: NO_FACE };
  for (let f = 0; f < indices.length / 3; f++) {
    const [a, b, c] = [0, 1, 2].map((k) => p.subarray(indices[f * 3 + k] * 3, indices[f * 3 + k] * 3 + 3));
    const [e1, e2] = [sub(b, a), sub(c, a)];
    const pv = cross([d[0], d[1], d[2]], e2);
    const det = dot(e1, pv);
    if (det === 0) continue;
    const s = sub(o, a);
    const u = dot(s, pv) / det;
    const q = cross(s, e1);
    const v = dot(d, q) / det;
    const t = dot(e2, q) / det;
    if (u >= 0 && v >= 0 && u + v <= 1 && t > 0 && t < best.t) best = { t, face: f };
  }
  return best;
}

const faceOf = (out: Float32Array, n: number) => new Uint32Array(out.buffer)[n * 4 + 3];

describe('Rays', () => {
  const mesh = soup(600, 11);
  const tree = treeOf(mesh);

  it('the nearest hit is that of asking every triangle', () => {
    const rays = randomRays(1500, 5);
    const out = new Float32Array(1500 * 4);
    kernels().raysOf(tree).hits(rays, 1500, false, out);
    let hits = 0;
    for (let n = 0; n < 1500; n++) {
      const o = n * RAY_NUMBERS;
      const brute = bruteHit(mesh, rays.subarray(o, o + 3), rays.subarray(o + 3, o + 6), 10);
      if (brute.face !== NO_FACE) hits++;
      // Where two lie within rounding of each other either will do.
      if (faceOf(out, n) !== brute.face) expect(Math.abs(out[n * 4] - brute.t)).toBeLessThan(1e-4);
      else if (brute.face !== NO_FACE) expect(out[n * 4]).toBeCloseTo(brute.t, 4);
    }
    expect(hits).toBeGreaterThan(300);
  });

  it('kernel and twin give the same bits', () => {
    const both: Rays[] = [getKernels('wasm').raysOf(tree), raysTwin(tree)];
    const rays = randomRays(800, 9);
    const points = new Float32Array(300 * POINT_NUMBERS);
    const words = new Uint32Array(points.buffer);
    const random = seededRandom(3);
    for (let n = 0; n < 300; n++) {
      const v = [0, 1, 2].map(() => random() - 0.5);
      const g = v.map((x) => x / Math.hypot(...v));
      points.set([random() * 2 - 1, random() * 2 - 1, random() * 2 - 1, ...g, ...g], n * POINT_NUMBERS);
      words[n * POINT_NUMBERS + 9] = (random() * 2 ** 32) >>> 0;
    }
    const to = directionsOf(16);
    const results = both.map((r) => {
      const [hit, front, open, culled, deep] = [800 * 4, 800 * 4, 300 * 4, 300 * 4, 300].map((n) => new Float32Array(n));
      r.hits(rays, 800, false, hit);
      r.hits(rays, 800, true, front);
      r.occlusion(points, 300, to, { reach: 0.7, bias: 1e-4, cull: false }, open);
      r.occlusion(points, 300, to, { reach: 10, bias: 1e-4, cull: true }, culled);
      r.depth(points, 300, to, { reach: 1, bias: 1e-4 }, deep);
      return [hit, front, open, culled, deep].map((a) => Buffer.from(a.buffer).toString('hex'));
    });
    expect(results[1]).toEqual(results[0]);
  });

  it('of two triangles at one distance the lower face is hit, wherever it lies in the tree', () => {
    const one = [0, 0, 0, 1, 0, 0, 0, 1, 0];
    const many = {
      positions: Float32Array.from([...one, ...one, ...one, ...one, ...one, ...one]),
      indices: Uint32Array.from({ length: 18 }, (_, i) => i),
    };
    const out = new Float32Array(4);
    kernels()
      .raysOf(treeOf(many))
      .hits(Float32Array.of(0.2, 0.2, 1, 0, 0, -1, 0, 5), 1, false, out);
    expect(faceOf(out, 0)).toBe(0);
    expect(out[0]).toBe(1);
  });

  it('with fronts only, a triangle seen from behind is not there', () => {
    const one = { positions: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0), indices: Uint32Array.of(0, 1, 2) };
    const out = new Float32Array(8);
    const rays = Float32Array.of(0.2, 0.2, 1, 0, 0, -1, 0, 5, 0.2, 0.2, -1, 0, 0, 1, 0, 5);
    kernels().raysOf(treeOf(one)).hits(rays, 2, true, out);
    expect([out[0], out[4]]).toEqual([1, -1]);
  });

  it.each([
    ['nothing', { positions: new Float32Array(0), indices: new Uint32Array(0) }],
    [
      'triangles without area, or not finite',
      { positions: Float32Array.of(0, 0, 0, NaN, 1, 1, 2, 2, 2), indices: Uint32Array.of(0, 0, 2, 0, 1, 2) },
    ],
  ])('a tree of %s is never hit', (_, mesh) => {
    const out = new Float32Array(4);
    for (const rays of [kernels().raysOf(treeOf(mesh)), raysTwin(treeOf(mesh))]) {
      rays.hits(Float32Array.of(0, 0, -5, 0, 0, 1, 0, 100), 1, false, out);
      expect(out[0]).toBe(-1);
    }
  });

  it('a thousand triangles at one place are still found', () => {
    const one = [0, 0, 0, 1, 0, 0, 0, 1, 0];
    const same = { positions: Float32Array.from(one), indices: Uint32Array.from({ length: 3000 }, (_, i) => i % 3) };
    const out = new Float32Array(4);
    kernels()
      .raysOf(treeOf(same))
      .hits(Float32Array.of(0.2, 0.2, 1, 0, 0, -1, 0, 5), 1, false, out);
    expect(out[0]).toBe(1);
  });
});

it('sums over samples of a surface are the same bits in kernel and twin', () => {
  const random = seededRandom(6);
  const [count, listed] = [50, 600];
  const points = Float32Array.from({ length: count * 6 }, () => random() * 2 - 1);
  const near = Float32Array.from({ length: 7 * listed }, () => random() * 2 - 1);
  const results = (['wasm', 'twin'] as const).map((which) => {
    const out = new Float32Array(count);
    getKernels(which).bends(points, count, near, listed, listed, 0.9, out);
    return [...out];
  });
  expect(results[1]).toEqual(results[0]);
  expect(results[0].filter((v) => v !== 0).length).toBe(count);
});

test('distances to segments: the kernel and its twin give the same bits, and those of a plain loop to rounding', () => {
  const random = seededRandom(71);
  const [count, listed, reach] = [32, 40, 0.7];
  const unit = () => {
    const v = [0, 1, 2].map(() => random() * 2 - 1);
    return v.map((x) => x / Math.hypot(...v));
  };
  const places = new Float32Array(count * 6);
  for (let i = 0; i < count; i++) {
    const n = unit();
    for (let k = 0; k < 3; k++) {
      places[count * k + i] = random() * 2 - 1;
      places[count * (k + 3) + i] = n[k];
    }
  }
  const list = new Float32Array(listed * 10);
  for (let s = 0; s < listed; s++) {
    const way = [0, 1, 2].map(() => (s === 3 ? 0 : random() - 0.5));
    const square = way.reduce((a, v) => a + v * v, 0);
    list.set([random() * 2 - 1, random() * 2 - 1, random() * 2 - 1, ...way, ...unit(), square > 0 ? 1 / square : 0], s * 10);
  }
  const results = (['wasm', 'twin'] as const).map((which) => {
    const out = new Float32Array(count);
    getKernels(which).segments(places, count, count, list, listed, reach, out);
    return [...out];
  });
  expect(results[1]).toEqual(results[0]);
  expect(results[0].filter((v) => v < reach - 1e-6).length).toBeGreaterThan(count / 2);
  for (let i = 0; i < count; i++) {
    const at = (k: number) => places[count * k + i];
    let best = reach;
    for (let s = 0; s < listed; s++) {
      const [ax, ay, az, ex, ey, ez, nx, ny, nz, one] = list.subarray(s * 10, s * 10 + 10);
      if (at(3) * nx + at(4) * ny + at(5) * nz < 0.05) continue;
      const t = Math.min(1, Math.max(0, ((at(0) - ax) * ex + (at(1) - ay) * ey + (at(2) - az) * ez) * one));
      best = Math.min(best, Math.hypot(at(0) - ax - ex * t, at(1) - ay - ey * t, at(2) - az - ez * t));
    }
    expect(results[0][i]).toBeCloseTo(best, 5);
  }
});

describe('Directions', () => {
  it('are unit, spread by the cosine, and as even as a net: each of 16 rings and wedges of equal weight gets its share', () => {
    const { data, sets, samples } = directionsOf(64);
    for (let s = 0; s < sets; s += 37) {
      const rings = new Array<number>(16).fill(0);
      let up = 0;
      for (let n = 0; n < samples; n++) {
        const [x, y, z] = data.subarray((s * samples + n) * 3, (s * samples + n) * 3 + 3);
        expect(Math.hypot(x, y, z)).toBeCloseTo(1, 6);
        rings[Math.min(15, Math.floor((x * x + y * y) * 16))]++;
        up += z;
      }
      // The mean height of a cosine's spread is 2/3.
      expect(up / samples).toBeCloseTo(2 / 3, 1);
      expect(Math.max(...rings)).toBeLessThanOrEqual(8);
    }
  });
});
