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
      const { radius } = this;
      keys[i] = cellKey(Math.floor(data[o] / radius), Math.floor(data[o + 1] / radius), Math.floor(data[o + 2] / radius));
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
  // Of each sign and octant by cell: numbers for keys, since text takes three times as long.
  const known = Array.from({ length: 16 }, () => new Map<number, number>());
  const out = new Float64Array(count * SAMPLE);
  const weight = new Float64Array(count);
  let made = 0;
  for (let i = 0; i < count; i++) {
    const o = i * SAMPLE;
    const octant = (data[o + 4] < 0 ? 1 : 0) + (data[o + 5] < 0 ? 2 : 0) + (data[o + 6] < 0 ? 4 : 0) + (data[o + 3] < 0 ? 8 : 0);
    const key = cellKey(Math.floor(data[o] / cell), Math.floor(data[o + 1] / cell), Math.floor(data[o + 2] / cell));
    let at = known[octant].get(key);
    if (at === undefined) known[octant].set(key, (at = made++));
    const w = Math.abs(data[o + 3]);
    weight[at] += w;
    const to = at * SAMPLE;
    out[to + 3] += data[o + 3];
    for (let k = 0; k < SAMPLE; k++) if (k !== 3) out[to + k] += data[o + k] * w;
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

/** Samples as they are found: room that grows. */
class Found {
  data = new Float32Array(1 << 16);
  length = 0;

  get count(): number {
    return this.length / SAMPLE;
  }

  put(x: number, y: number, z: number, measure: number, nx: number, ny: number, nz: number): void {
    if (this.length + SAMPLE > this.data.length) {
      const more = new Float32Array(this.data.length * 2);
      more.set(this.data);
      this.data = more;
    }
    const { data, length: o } = this;
    data[o] = x;
    data[o + 1] = y;
    data[o + 2] = z;
    data[o + 3] = measure;
    data[o + 4] = nx;
    data[o + 5] = ny;
    data[o + 6] = nz;
    this.length = o + SAMPLE;
  }
}

function samplesOf(model: Pick<Model, 'positions' | 'normals' | 'indices'>, corner: Uint32Array, radius: number): Samples {
  for (let spacing = radius / 3; ; spacing *= 1.5) {
    const out = new Found();
    const there = onFaces(model, spacing, out) && onEdges(model, corner, spacing, out);
    if (there || spacing > radius) return { count: out.count, data: out.data };
  }
}

/** A face whose normals turn less than this over a metre of it is flat: it gives nothing. */
const FLAT = 1e-9;

/** false: too many. */
function onFaces(
  { positions: p, normals: n, indices }: Pick<Model, 'positions' | 'normals' | 'indices'>,
  spacing: number,
  out: Found,
): boolean {
  const part = { nx: 0, ny: 0, nz: 0, measure: 0, square: spacing * spacing, out };
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
    part.nx = gx * side;
    part.ny = gy * side;
    part.nz = gz * side;
    part.measure = measure;
    if (!halve(part, 1, p[a], p[a + 1], p[a + 2], p[b], p[b + 1], p[b + 2], p[c], p[c + 1], p[c + 2])) return false;
  }
  return true;
}

/** Of the face at work: its normal, the measure that it stands for, how long a side may be, squared. */
interface Part {
  nx: number;
  ny: number;
  nz: number;
  measure: number;
  square: number;
  out: Found;
}

/**
 * Cuts a triangle across its longest side until that is short enough, and puts a sample into the middle of each part, with its
 * share of the whole. false: there are too many. Numbers, not lists: there are a million of them.
 */
function halve(
  part: Part,
  share: number,
  ax: number,
  ay: number,
  az: number,
  bx: number,
  by: number,
  bz: number,
  cx: number,
  cy: number,
  cz: number,
): boolean {
  const ab = (bx - ax) * (bx - ax) + (by - ay) * (by - ay) + (bz - az) * (bz - az);
  const bc = (cx - bx) * (cx - bx) + (cy - by) * (cy - by) + (cz - bz) * (cz - bz);
  const ca = (ax - cx) * (ax - cx) + (ay - cy) * (ay - cy) + (az - cz) * (az - cz);
  // The longest side comes first: all turn round until it does.
  if (bc > ab && bc >= ca) return halve(part, share, bx, by, bz, cx, cy, cz, ax, ay, az);
  if (ca > ab && ca > bc) return halve(part, share, cx, cy, cz, ax, ay, az, bx, by, bz);
  const { out } = part;
  if (ab <= part.square) {
    if (out.length >= MOST_SAMPLES * SAMPLE) return false;
    out.put((ax + bx + cx) / 3, (ay + by + cy) / 3, (az + bz + cz) / 3, part.measure * share, part.nx, part.ny, part.nz);
    return true;
  }
  const mx = (ax + bx) / 2;
  const my = (ay + by) / 2;
  const mz = (az + bz) / 2;
  return halve(part, share / 2, ax, ay, az, mx, my, mz, cx, cy, cz) && halve(part, share / 2, mx, my, mz, bx, by, bz, cx, cy, cz);
}

/** Where the normals of two faces differ along the edge between them. */
function onEdges(
  { positions: p, normals: n, indices }: Pick<Model, 'positions' | 'normals' | 'indices'>,
  corner: Uint32Array,
  spacing: number,
  out: Found,
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
    if (out.count + steps > MOST_SAMPLES) {
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
      const half = (((bulges ? 1 : -1) * angle) / 2) * (length / steps);
      out.put(p[a] + e[0] * t, p[a + 1] + e[1] * t, p[a + 2] + e[2] * t, half, mean[0] / l, mean[1] / l, mean[2] / l);
    }
  });
  return fits;
}
