/** How like its dense twin a model looks with a normal map that was baked from it: both lit, seen from several sides. */
import { Ground } from '../src/core/rays/ground';
import { matchingOf } from '../src/core/bake/matching';
import type { Model } from '../src/core/mesh/model';
import { baked } from '../src/core/testing/baked';
import { MOST_POINTS, NO_FACE, RAY_NUMBERS } from '../src/kernels/rays';

type Vec = [number, number, number];
const dot = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const unit = (v: readonly number[]): Vec => {
  const l = Math.hypot(v[0], v[1], v[2]) || 1;
  return [v[0] / l, v[1] / l, v[2] / l];
};
const cross = (a: readonly number[], b: readonly number[]): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** Key, fill and rim: shares of white. */
const LIGHTS: readonly { from: Vec; strength: number }[] = [
  { from: unit([0.5, 0.8, 0.6]), strength: 0.65 },
  { from: unit([-0.8, 0.2, 0.4]), strength: 0.25 },
  { from: unit([0.1, 0.3, -1]), strength: 0.25 },
];
const AMBIENT = 0.08;
const lit = (n: readonly number[]): number =>
  Math.min(1, AMBIENT + LIGHTS.reduce((sum, { from, strength }) => sum + strength * Math.max(0, dot(n, from)), 0));

/** Directions that it is looked at along. */
const VIEWS: readonly Vec[] = [unit([-0.4, -0.3, -1]), unit([-1, -0.5, 0.2]), unit([0.7, 0.4, 0.6]), unit([0.1, -1, 0.1])];

/** Baked normals of a material: the direction at a place of its sheet, in the frame of the surface; null: there is none. */
type Baked = (u: number, v: number) => Vec | null;

function bakedNormals(low: Ground, twin: Ground, material: number, size: number): Baked {
  const matching = matchingOf({ match: 'names', pairs: [] }, low.model.parts, twin.model.parts);
  const reach = { outward: 0.012 * low.size, inward: 0.012 * low.size };
  const out = baked(low.model, { type: 'normal' }, { size, material, twin: twin.model, reach, matching });
  return (u, v) => {
    const clamp = (n: number) => Math.min(size - 1, Math.max(0, n));
    const [x, y] = [u * size - 0.5, v * size - 0.5];
    const [x0, y0] = [Math.floor(x), Math.floor(y)];
    const sum = [0, 0, 0];
    let whole = 0;
    for (let k = 0; k < 4; k++) {
      const [dx, dy] = [k & 1, k >> 1];
      const c = out.at(clamp(x0 + dx), clamp(y0 + dy));
      const w = (dx ? x - x0 : 1 - x + x0) * (dy ? y - y0 : 1 - y + y0);
      if (!c) continue;
      whole += w;
      for (let a = 0; a < 3; a++) sum[a] += w * (c[a] * 2 - 1);
    }
    return whole > 0 ? (sum as Vec) : null;
  };
}

/** The direction of a model's surface where a ray met it; null: its normal map has nothing there. */
function normalAt(ground: Ground, face: number, w1: number, w2: number, maps: Baked[] | null): Vec | null {
  const { normals, indices, uvs, faceMaterial } = ground.model;
  const weights = [1 - w1 - w2, w1, w2];
  const mix = (of: ArrayLike<number>, numbers: number, at: (k: number) => number): number[] =>
    Array.from({ length: numbers }, (_, c) => weights.reduce((sum, w, k) => sum + w * of[at(k) * numbers + c], 0));
  const n = mix(normals, 3, (k) => indices[face * 3 + k]);
  if (!maps) return unit(n);
  const [u, v] = mix(uvs[0], 2, (k) => indices[face * 3 + k]);
  const there = maps[faceMaterial[face]](u, v);
  if (!there) return null;
  // As a renderer does it (glTF 2.0, 3.9.3): neither is made unit before they are added up.
  const t = mix(ground.cornerTangents, 4, (k) => face * 3 + k);
  const b = cross(n, t).map((x) => x * (t[3] < 0 ? -1 : 1));
  return unit([0, 1, 2].map((k) => t[k] * there[0] + b[k] * there[1] + n[k] * there[2]));
}

/** Samples a side of a pixel, as any renderer smooths its edges. */
const FINE = 3;

/**
 * Peak signal to noise, dB, over the pixels in which both show the same part; and the share of the model's samples that these are.
 * The rest are outlines, which no normal map moves. `without`: the model as it is, with no normal map. `side`: pixels of a picture's longer side.
 */
export function litPsnr(lowModel: Model, twinModel: Model, { size, side }: { size: number; side: number }) {
  const [low, twin] = [new Ground(lowModel, { uvSet: 0 }), new Ground(twinModel)];
  const maps = lowModel.materials.map((_, m) => bakedNormals(low, twin, m, size));
  const middle = low.min.map((v, k) => (v + low.max[k]) / 2);
  const partOf = ({ model }: Ground, face: number) => model.parts[model.facePart[face]].replace(/_dense$/, '');
  const rays = new Float32Array(MOST_POINTS * RAY_NUMBERS);
  const hits = [low, twin].map(() => new Float32Array(MOST_POINTS * 4));
  let [square, bare, count, shown, compared] = [0, 0, 0, 0, 0];
  const across = side * FINE;
  for (const d of VIEWS) {
    const right = unit(cross(d, Math.abs(d[1]) > 0.9 ? [0, 0, 1] : [0, 1, 0]));
    const up = cross(right, d);
    const step = (low.size * 1.6) / across;
    // Of each pixel of a row: samples, and what both show in them.
    const sums = new Float64Array(side * 4);
    for (let y = 0; y < across; y++) {
      for (let x = 0; x < across; x++) {
        const [a, b] = [(x - across / 2 + 0.5) * step, (y - across / 2 + 0.5) * step];
        const from = middle.map((v, k) => v + right[k] * a + up[k] * b - d[k] * low.size * 2);
        rays.set([...from, ...d, 0, low.size * 4], x * RAY_NUMBERS);
      }
      [low, twin].forEach((ground, k) => ground.rays.hits(rays, across, false, hits[k]));
      const faces = hits.map((h) => new Uint32Array(h.buffer));
      for (let x = 0; x < across; x++) {
        const [f, g] = faces.map((list) => list[x * 4 + 3]);
        if (f !== NO_FACE) shown++;
        if (f === NO_FACE || g === NO_FACE || partOf(low, f) !== partOf(twin, g)) continue;
        // What is hidden in the one and not in the other is no matter of normals.
        if (Math.abs(hits[0][x * 4] - hits[1][x * 4]) > low.size * 0.01) continue;
        const n = normalAt(low, f, hits[0][x * 4 + 1], hits[0][x * 4 + 2], maps);
        const m = normalAt(twin, g, hits[1][x * 4 + 1], hits[1][x * 4 + 2], null);
        if (!n || !m) continue;
        const o = Math.floor(x / FINE) * 4;
        sums[o]++;
        sums[o + 1] += lit(n);
        sums[o + 2] += lit(m);
        sums[o + 3] += lit(normalAt(low, f, hits[0][x * 4 + 1], hits[0][x * 4 + 2], null)!);
        compared++;
      }
      if ((y + 1) % FINE !== 0) continue;
      for (let o = 0; o < sums.length; o += 4) {
        if (sums[o] === 0) continue;
        square += ((sums[o + 1] - sums[o + 2]) / sums[o]) ** 2;
        bare += ((sums[o + 3] - sums[o + 2]) / sums[o]) ** 2;
        count++;
      }
      sums.fill(0);
    }
  }
  const decibels = (sum: number) => 10 * Math.log10(count / sum);
  return { decibels: decibels(square), without: decibels(bare), share: compared / shown };
}
