/**
 * From a model to its dense twin: from each point's place outwards by the outward reach, then back along the same line until
 * something of the twin is met, at most as far as the inward reach under the place.
 */
import { MOST_POINTS, NO_FACE, POINT_NUMBERS, RAY_NUMBERS, type Rays } from '../../kernels/rays';
import type { Model } from '../mesh/model';
import type { Ground } from '../rays/ground';
import type { AskedPoints } from '../kinds/bakes/bake';
import type { Points } from '../rays/points';

export interface Reach {
  /** Model units, above or at 0. */
  outward: number;
  inward: number;
  /** How far of the way from averaged directions (0) to those of the faces' own shading (1). */
  split: number;
  /** What of both reaches counts, and what takes the place of `split`, by place of the sheet. Left out: all of them, as it says. */
  at?: (points: Points, n: number) => { reach: number; split: number };
}

/** Which of the twin's parts each of the model's is looked for in: numbers of the twin's parts; null: all of it. */
export type Matching = readonly (readonly number[] | null)[] | null;

/** Of the way to the middle of its face. */
const INSET = 0.01;

const rays = new Float32Array(MOST_POINTS * RAY_NUMBERS);
const found = new Float32Array(MOST_POINTS * 4);
const foundFaces = new Uint32Array(found.buffer);

export class Projector {
  private readonly averaged: Float32Array;

  constructor(
    private readonly low: Ground,
    private readonly twin: Ground,
    private readonly reach: Reach,
    private readonly matching: Matching,
  ) {
    this.averaged = averagedNormals(low);
  }

  /** Of those points that meet the twin, what they meet. */
  of(points: Points): AskedPoints {
    const met = new Uint8Array(points.count);
    const data = new Float32Array(points.count * POINT_NUMBERS);
    const hit: AskedPoints = {
      count: 0,
      data,
      seeds: new Uint32Array(data.buffer),
      face: new Int32Array(points.count),
      weights: new Float32Array(points.count * 3),
      texel: new Int32Array(points.count),
      gutter: new Uint8Array(0),
      copies: [],
      under: { points: emptyLike(points), offset: new Float32Array(points.count) },
    };
    const { facePart } = this.low.model;
    let left = Int32Array.from({ length: points.count }, (_, n) => n);
    // What lies on the very rim of an open mesh may pass the twin's by a hair: it looks again from a little further in.
    for (const inset of [0, INSET]) {
      // Points of one part go together: they may look among parts of the twin only.
      for (let from = 0; from < left.length;) {
        const part = facePart[points.face[left[from]]];
        let to = from + 1;
        while (to < left.length && to - from < MOST_POINTS && (!this.matching || facePart[points.face[left[to]]] === part)) to++;
        this.cast(points, left.subarray(from, to), inset, this.raysFor(part), hit, met);
        from = to;
      }
      left = left.filter((n) => met[n] === 0);
    }
    return hit;
  }

  private raysFor(part: number): Rays {
    const parts = this.matching?.[part] ?? null;
    if (!parts) return this.twin.rays;
    return this.twin.tree(`parts ${parts.join()}`, () => Uint32Array.from(parts.flatMap((p) => [...this.twin.facesOfPart(p)])));
  }

  private cast(points: Points, list: Int32Array, inset: number, among: Rays, hit: AskedPoints, met: Uint8Array): void {
    const { data } = points;
    const { positions: p, indices } = this.low.model;
    for (let i = 0; i < list.length; i++) {
      const n = list[i];
      const o = n * POINT_NUMBERS;
      const corner = points.face[n] * 3;
      const { reach, split } = this.reach.at?.(points, n) ?? { reach: 1, split: this.reach.split };
      const d = this.direction(points, n, split);
      const out = this.reach.outward * reach;
      const r = i * RAY_NUMBERS;
      for (let k = 0; k < 3; k++) {
        const middle = (p[indices[corner] * 3 + k] + p[indices[corner + 1] * 3 + k] + p[indices[corner + 2] * 3 + k]) / 3;
        rays[r + k] = data[o + k] + (middle - data[o + k]) * inset + d[k] * out;
        rays[r + 3 + k] = -d[k];
      }
      rays[r + 6] = -this.low.bias;
      rays[r + 7] = out + this.reach.inward * reach;
      outs[i] = out;
    }
    among.hits(rays, list.length, false, found);
    for (let i = 0; i < list.length; i++) {
      const n = list[i];
      if (foundFaces[i * 4 + 3] === NO_FACE) continue;
      met[n] = 1;
      this.put(points, n, hit, i);
    }
  }

  /** Writes the point of the twin that was met. */
  private put(points: Points, n: number, hit: AskedPoints, i: number): void {
    const { positions: p, normals, indices } = this.twin.model;
    const face = foundFaces[i * 4 + 3];
    const [w1, w2] = [found[i * 4 + 1], found[i * 4 + 2]];
    const w0 = 1 - w1 - w2;
    const [a, b, c] = [indices[face * 3] * 3, indices[face * 3 + 1] * 3, indices[face * 3 + 2] * 3];
    const h = hit.count++;
    const o = h * POINT_NUMBERS;
    let l = 0;
    for (let k = 0; k < 3; k++) {
      hit.data[o + k] = p[a + k] * w0 + p[b + k] * w1 + p[c + k] * w2;
      const v = normals[a + k] * w0 + normals[b + k] * w1 + normals[c + k] * w2;
      hit.data[o + 3 + k] = v;
      l += v * v;
    }
    const u = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
    const v = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
    const g = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const gl = Math.hypot(g[0], g[1], g[2]) || 1;
    l = Math.sqrt(l);
    let side = 0;
    for (let k = 0; k < 3; k++) {
      if (l > 1e-12) hit.data[o + 3 + k] /= l;
      else hit.data[o + 3 + k] = g[k] / gl;
      side += (hit.data[o + 3 + k] * g[k]) / gl;
    }
    for (let k = 0; k < 3; k++) hit.data[o + 6 + k] = (g[k] / gl) * (side < 0 ? -1 : 1);
    hit.seeds[o + 9] = points.seeds[n * POINT_NUMBERS + 9];
    hit.face[h] = face;
    hit.weights.set([w0, w1, w2], h * 3);
    hit.texel[h] = points.texel[n];
    const under = hit.under!;
    under.offset[h] = outs[i] - found[i * 4];
    const own = under.points;
    own.count = hit.count;
    own.face[h] = points.face[n];
    own.weights.set(points.weights.subarray(n * 3, n * 3 + 3), h * 3);
  }

  /** Averaged over all faces that meet at a vertex, so that no gaps open at hard edges; or as it is shaded; or between. */
  private direction(points: Points, n: number, split: number): number[] {
    const o = n * POINT_NUMBERS;
    const corner = points.face[n] * 3;
    const out = [0, 0, 0];
    for (let k = 0; k < 3; k++) {
      for (let c = 0; c < 3; c++) out[k] += this.averaged[(corner + c) * 3 + k] * points.weights[n * 3 + c];
    }
    const l = Math.hypot(out[0], out[1], out[2]) || 1;
    for (let k = 0; k < 3; k++) out[k] = (out[k] / l) * (1 - split) + points.data[o + 3 + k] * split;
    const m = Math.hypot(out[0], out[1], out[2]);
    return m > 1e-9 ? out.map((v) => v / m) : [points.data[o + 3], points.data[o + 4], points.data[o + 5]];
  }
}

const outs = new Float32Array(MOST_POINTS);

const emptyLike = ({ count }: Points): Points => ({
  count: 0,
  data: new Float32Array(0),
  seeds: new Uint32Array(0),
  face: new Int32Array(count),
  weights: new Float32Array(count * 3),
  texel: new Int32Array(0),
  gutter: new Uint8Array(0),
  copies: [],
});

/** Of each corner the mean of the faces' normals around its place, by their angles there, whatever is shaded hard: 3 × float32. */
export function averagedNormals({
  model: { positions: p, indices },
  corner,
}: {
  model: Pick<Model, 'positions' | 'indices'>;
  corner: Uint32Array;
}): Float32Array {
  let most = 0;
  for (const v of corner) most = Math.max(most, v + 1);
  const sums = new Float64Array(most * 3);
  for (let f = 0; f < indices.length; f += 3) {
    const v = [0, 1, 2].map((k) => indices[f + k] * 3);
    const e = [0, 1, 2].map((k) => [0, 1, 2].map((c) => p[v[(k + 1) % 3] + c] - p[v[k] + c]));
    const g = [
      e[0][1] * e[1][2] - e[0][2] * e[1][1],
      e[0][2] * e[1][0] - e[0][0] * e[1][2],
      e[0][0] * e[1][1] - e[0][1] * e[1][0],
    ];
    const l = Math.hypot(g[0], g[1], g[2]);
    if (!(l > 0)) continue;
    for (let k = 0; k < 3; k++) {
      const [a, b] = [e[k], e[(k + 2) % 3]];
      const cos = -(a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) / (Math.hypot(...a) * Math.hypot(...b));
      const angle = Math.acos(Math.max(-1, Math.min(1, cos)));
      for (let c = 0; c < 3; c++) sums[corner[f + k] * 3 + c] += (g[c] / l) * angle;
    }
  }
  const out = new Float32Array(indices.length * 3);
  for (let i = 0; i < indices.length; i++) {
    const [x, y, z] = sums.subarray(corner[i] * 3, corner[i] * 3 + 3);
    const l = Math.hypot(x, y, z) || 1;
    out.set([x / l, y / l, z / l], i * 3);
  }
  return out;
}
