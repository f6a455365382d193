/**
 * Mean curvature, signed: above 0 where the surface bulges. It is the divergence of the shading normals, half of it, taken over
 * a ball around each place: over faces by how the normals turn across them, and at edges where they jump by the angle of the jump
 * (after Cohen-Steiner and Morvan, Restricted Delaunay triangulations and normal cycle, 2003, whose measure is that of flat
 * faces). What lies further off counts less, by (1 − d²/r²)²; over a plane, and over a sphere by chords, that weighs π r² / 3.
 */
import { BEND_PLANES as SAMPLE } from '../../kernels/bends';
import { kernels } from '../kernels';
import { cellKey } from '../mesh/cellKey';
import type { Model } from '../mesh/model';
import { eachEdge } from '../mesh/sharpEdges';

interface Samples {
  count: number;
  /** Place, half the measure that it stands for (m), the normal there: 7 × float32. */
  data: Float32Array;
}

/** Samples lie a third of the radius apart, or further where that would be more than these. */
const MOST_SAMPLES = 1_500_000;

export class Curvature {
  private readonly samples: Samples;
  private readonly grid = new Map<number, [from: number, to: number]>();
  /** Of the box asked last: the samples that come near. */
  private list = new Int32Array(4096);
  private listed = 0;

  /** `corner`: welded vertex of each corner. `radius`: model units, above 0. */
  constructor(
    model: Pick<Model, 'positions' | 'normals' | 'indices'>,
    corner: Uint32Array,
    readonly radius: number,
  ) {
    this.samples = this.sorted(merged(samplesOf(model, corner, radius), radius / VOXELS));
  }

  private sorted({ count, data }: Samples): Samples {
    const keys = new Float64Array(count);
    for (let i = 0; i < count; i++) {
      const o = i * SAMPLE;
      const [x, y, z] = [0, 1, 2].map((k) => Math.floor(data[o + k] / this.radius));
      keys[i] = cellKey(x, y, z);
    }
    const order = Uint32Array.from({ length: count }, (_, i) => i).sort((a, b) => keys[a] - keys[b] || a - b);
    const out = new Float32Array(count * SAMPLE);
    for (let i = 0; i < count; i++) {
      out.set(data.subarray(order[i] * SAMPLE, (order[i] + 1) * SAMPLE), i * SAMPLE);
      const key = keys[order[i]];
      const cell = this.grid.get(key);
      if (cell) cell[1] = i + 1;
      else this.grid.set(key, [i, i + 1]);
    }
    return { count, data: out };
  }

  /**
   * Of places that lie together (6 × float32 each: place, and the normal of the face) the curvature, 1 / model units.
   * `box`: min x y z, max x y z around them.
   */
  of(points: Float32Array, count: number, box: ArrayLike<number>, out: Float32Array): void {
    this.gather(box);
    const mark = kernels().mark();
    try {
      const stride = (this.listed + 3) & ~3;
      const near = kernels()
        .floats(stride * SAMPLE)
        .fill(0);
      const { data } = this.samples;
      for (let i = 0; i < this.listed; i++) {
        const o = this.list[i];
        for (let k = 0; k < SAMPLE; k++) near[k * stride + i] = data[o + k];
      }
      const places = kernels().floats(count * 6);
      places.set(points.subarray(0, count * 6));
      const sums = kernels().floats(count);
      kernels().bends(places, count, near, stride, stride, this.radius, sums);
      const area = (Math.PI * this.radius * this.radius) / 3;
      for (let n = 0; n < count; n++) out[n] = sums[n] / area;
    } finally {
      kernels().release(mark);
    }
  }

  private gather(box: ArrayLike<number>): void {
    const { radius } = this;
    const cell = (v: number) => Math.floor(v / radius);
    this.listed = 0;
    const { data } = this.samples;
    for (let x = cell(box[0] - radius); x <= cell(box[3] + radius); x++)
      for (let y = cell(box[1] - radius); y <= cell(box[4] + radius); y++)
        for (let z = cell(box[2] - radius); z <= cell(box[5] + radius); z++) {
          const found = this.grid.get(cellKey(x, y, z));
          if (!found) continue;
          for (let i = found[0]; i < found[1]; i++) {
            const o = i * SAMPLE;
            if (awayFrom(box, data, o) >= radius * radius) continue;
            if (this.listed === this.list.length) {
              const more = new Int32Array(this.list.length * 2);
              more.set(this.list);
              this.list = more;
            }
            this.list[this.listed++] = o;
          }
        }
  }
}

/** The squared distance of a sample to a box. */
function awayFrom(box: ArrayLike<number>, data: Float32Array, o: number): number {
  const dx = Math.max(box[0] - data[o], 0, data[o] - box[3]);
  const dy = Math.max(box[1] - data[o + 1], 0, data[o + 1] - box[4]);
  const dz = Math.max(box[2] - data[o + 2], 0, data[o + 2] - box[5]);
  return dx * dx + dy * dy + dz * dz;
}

/** Samples within so much of a radius that face alike count as one: dense meshes have more than the sum needs. */
const VOXELS = 4;

/** Those of one cell, of one sign, that face into one octant, become one: their measures added, in their middle. */
function merged({ count, data }: Samples, cell: number): Samples {
  const known = new Map<string, number>();
  const out = new Float64Array(count * SAMPLE);
  const weight = new Float64Array(count);
  let made = 0;
  for (let i = 0; i < count; i++) {
    const o = i * SAMPLE;
    const octant = (data[o + 4] < 0 ? 1 : 0) + (data[o + 5] < 0 ? 2 : 0) + (data[o + 6] < 0 ? 4 : 0) + (data[o + 3] < 0 ? 8 : 0);
    const key = `${Math.floor(data[o] / cell)} ${Math.floor(data[o + 1] / cell)} ${Math.floor(data[o + 2] / cell)} ${octant}`;
    let at = known.get(key);
    if (at === undefined) known.set(key, (at = made++));
    const w = Math.abs(data[o + 3]);
    weight[at] += w;
    out[at * SAMPLE + 3] += data[o + 3];
    for (const k of [0, 1, 2, 4, 5, 6]) out[at * SAMPLE + k] += data[o + k] * w;
  }
  const found = new Float32Array(made * SAMPLE);
  for (let n = 0; n < made; n++) {
    const o = n * SAMPLE;
    const l = Math.hypot(out[o + 4], out[o + 5], out[o + 6]) || 1;
    for (const k of [0, 1, 2]) {
      found[o + k] = out[o + k] / weight[n];
      found[o + 4 + k] = out[o + 4 + k] / l;
    }
    found[o + 3] = out[o + 3];
  }
  return { count: made, data: found };
}

function samplesOf(model: Pick<Model, 'positions' | 'normals' | 'indices'>, corner: Uint32Array, radius: number): Samples {
  for (let spacing = radius / 3; ; spacing *= 1.5) {
    const out: number[] = [];
    const there = onFaces(model, spacing, out) && onEdges(model, corner, spacing, out);
    if (there || spacing > radius) return { count: out.length / SAMPLE, data: Float32Array.from(out) };
  }
}

/** A face whose normals turn less than this over a metre of it is flat: it gives nothing. */
const FLAT = 1e-9;

/** false: too many. */
function onFaces(
  { positions: p, normals: n, indices }: Pick<Model, 'positions' | 'normals' | 'indices'>,
  spacing: number,
  out: number[],
): boolean {
  for (let f = 0; f < indices.length; f += 3) {
    const [a, b, c] = [indices[f] * 3, indices[f + 1] * 3, indices[f + 2] * 3];
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    let [gx, gy, gz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    const g = Math.sqrt(gx * gx + gy * gy + gz * gz);
    if (!(g > 0)) continue;
    [gx, gy, gz] = [gx / g, gy / g, gz / g];
    // The shaded side is the outer one.
    const mean = [0, 1, 2].map((k) => n[a + k] + n[b + k] + n[c + k]);
    const side = mean[0] * gx + mean[1] * gy + mean[2] * gz < 0 ? -1 : 1;
    // The gradient of a corner's weight: square to the opposite edge, in the plane, over twice the area.
    let divergence = 0;
    for (let k = 0; k < 3; k++) {
      const [v, s, t] = [
        [a, b, c],
        [b, c, a],
        [c, a, b],
      ][k];
      const [ex, ey, ez] = [p[t] - p[s], p[t + 1] - p[s + 1], p[t + 2] - p[s + 2]];
      divergence += (n[v] * (gy * ez - gz * ey) + n[v + 1] * (gz * ex - gx * ez) + n[v + 2] * (gx * ey - gy * ex)) / g;
    }
    if (Math.abs(divergence) < FLAT) continue;
    const measure = (divergence / 2) * (g / 2);
    const put = (x: number, y: number, z: number, share: number) =>
      out.push(x, y, z, measure * share, gx * side, gy * side, gz * side);
    if (
      !halve(
        [0, 1, 2].flatMap((k) => [p[a + k], p[b + k], p[c + k]]),
        spacing,
        1,
        put,
        () => out.length / SAMPLE < MOST_SAMPLES,
      )
    )
      return false;
  }
  return true;
}

/**
 * Cuts a triangle (x of its corners, y, z) across its longest side until that is short enough, and gives the middle of each part
 * with its share of the whole. false: there are too many.
 */
function halve(
  t: number[],
  longest: number,
  share: number,
  put: (x: number, y: number, z: number, share: number) => void,
  more: () => boolean,
): boolean {
  if (!more()) return false;
  let [best, at] = [-1, 0];
  for (let k = 0; k < 3; k++) {
    const n = (k + 1) % 3;
    const d = (t[n] - t[k]) ** 2 + (t[3 + n] - t[3 + k]) ** 2 + (t[6 + n] - t[6 + k]) ** 2;
    if (d > best) [best, at] = [d, k];
  }
  if (best <= longest * longest) {
    put((t[0] + t[1] + t[2]) / 3, (t[3] + t[4] + t[5]) / 3, (t[6] + t[7] + t[8]) / 3, share);
    return true;
  }
  const n = (at + 1) % 3;
  const [one, other] = [t.slice(), t.slice()];
  for (let o = 0; o < 9; o += 3) one[o + n] = other[o + at] = (t[o + at] + t[o + n]) / 2;
  return halve(one, longest, share / 2, put, more) && halve(other, longest, share / 2, put, more);
}

/** Where the normals of two faces differ along the edge between them. */
function onEdges(
  { positions: p, normals: n, indices }: Pick<Model, 'positions' | 'normals' | 'indices'>,
  corner: Uint32Array,
  spacing: number,
  out: number[],
): boolean {
  let fits = true;
  const unit = (o: number, q: number, t: number): number[] => {
    const v = [0, 1, 2].map((k) => n[o + k] * (1 - t) + n[q + k] * t);
    const l = Math.hypot(v[0], v[1], v[2]) || 1;
    return [v[0] / l, v[1] / l, v[2] / l];
  };
  eachEdge(corner, indices.length / 3, (c, d) => {
    if (!fits) return;
    const follows = (x: number) => (x % 3 === 2 ? x - 2 : x + 1);
    const [a, b] = [indices[c] * 3, indices[follows(c)] * 3];
    // In the other face the edge most often runs the other way round.
    const turned = corner[d] !== corner[c];
    const [oa, ob] = turned ? [indices[follows(d)] * 3, indices[d] * 3] : [indices[d] * 3, indices[follows(d)] * 3];
    const e = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
    const length = Math.hypot(e[0], e[1], e[2]);
    if (!(length > 0)) return;
    // Out of the first face, across the edge: away from its third corner.
    const third = indices[Math.floor(c / 3) * 3 + (((c % 3) + 2) % 3)] * 3;
    const inner = [0, 1, 2].map((k) => p[third + k] - p[a + k]);
    const along = (inner[0] * e[0] + inner[1] * e[1] + inner[2] * e[2]) / (length * length);
    const across = inner.map((v, k) => along * e[k] - v);
    const steps = Math.max(1, Math.ceil(length / spacing));
    if (out.length / SAMPLE + steps > MOST_SAMPLES) {
      fits = false;
      return;
    }
    for (let s = 0; s < steps; s++) {
      const t = (s + 0.5) / steps;
      const [u, v] = [unit(a, b, t), unit(oa, ob, t)];
      const cross = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
      const angle = Math.atan2(Math.hypot(cross[0], cross[1], cross[2]), u[0] * v[0] + u[1] * v[1] + u[2] * v[2]);
      if (angle < 1e-4) continue;
      const bulges = v.reduce((sum, w, k) => sum + (w - u[k]) * across[k], 0) > 0;
      const mean = u.map((w, k) => w + v[k]);
      const l = Math.hypot(mean[0], mean[1], mean[2]) || 1;
      for (let k = 0; k < 3; k++) out.push(p[a + k] + e[k] * t);
      out.push((((bulges ? 1 : -1) * angle) / 2) * (length / steps), mean[0] / l, mean[1] / l, mean[2] / l);
    }
  });
  return fits;
}
