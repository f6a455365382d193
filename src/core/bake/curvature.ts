/**
 * Mean curvature, signed: above 0 where the surface bulges. It is the divergence of the shading normals, half of it, taken over
 * a ball around each place: over faces by how the normals turn across them, and at edges where they jump by the angle of the jump
 * (after Cohen-Steiner and Morvan, Restricted Delaunay triangulations and normal cycle, 2003, whose measure is that of flat
 * faces). What lies further off counts less, by (1 − d²/r²)²; over a plane, and over a sphere by chords, that weighs π r² / 3.
 */
import type { Model } from '../mesh/model';
import { eachEdge } from '../mesh/sharpEdges';

interface Samples {
  count: number;
  /** Place, half the measure that it stands for (m), the normal there: 7 × float32. */
  data: Float32Array;
}
const SAMPLE = 7;

/** Samples lie a quarter of the radius apart, or further where that would be more than these. */
const MOST_SAMPLES = 1_500_000;

export class Curvature {
  private readonly samples: Samples;
  private readonly grid = new Map<number, [from: number, to: number]>();
  /** Of the places asked last: which samples come near. */
  private list = new Int32Array(1024);
  private listed = 0;

  /** `corner`: welded vertex of each corner. `radius`: model units, above 0. */
  constructor(
    model: Pick<Model, 'positions' | 'normals' | 'indices'>,
    corner: Uint32Array,
    readonly radius: number,
  ) {
    this.samples = this.sorted(samplesOf(model, corner, radius));
  }

  private key(x: number, y: number, z: number): number {
    return ((x + 65536) % 131072) * 17179869184 + ((y + 65536) % 131072) * 131072 + ((z + 65536) % 131072);
  }

  private sorted({ count, data }: Samples): Samples {
    const keys = new Float64Array(count);
    for (let i = 0; i < count; i++) {
      const o = i * SAMPLE;
      const [x, y, z] = [0, 1, 2].map((k) => Math.floor(data[o + k] / this.radius));
      keys[i] = this.key(x, y, z);
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

  /** Samples that may come near a box (min x y z, max x y z) are listed for `at`. */
  around(box: ArrayLike<number>): void {
    const { radius } = this;
    const low = [0, 1, 2].map((k) => Math.floor((box[k] - radius) / radius));
    const high = [0, 1, 2].map((k) => Math.floor((box[k + 3] + radius) / radius));
    this.listed = 0;
    const { data } = this.samples;
    for (let x = low[0]; x <= high[0]; x++)
      for (let y = low[1]; y <= high[1]; y++)
        for (let z = low[2]; z <= high[2]; z++) {
          const cell = this.grid.get(this.key(x, y, z));
          if (!cell) continue;
          for (let i = cell[0]; i < cell[1]; i++) {
            const o = i * SAMPLE;
            if (data[o] < box[0] - radius || data[o] > box[3] + radius) continue;
            if (data[o + 1] < box[1] - radius || data[o + 1] > box[4] + radius) continue;
            if (data[o + 2] < box[2] - radius || data[o + 2] > box[5] + radius) continue;
            if (this.listed === this.list.length) {
              const more = new Int32Array(this.list.length * 2);
              more.set(this.list);
              this.list = more;
            }
            this.list[this.listed++] = o;
          }
        }
  }

  /** 1 / model units, at a place within the box that was asked last, on a surface that faces n. */
  at(x: number, y: number, z: number, nx: number, ny: number, nz: number): number {
    const { list, listed } = this;
    const { data } = this.samples;
    const square = this.radius * this.radius;
    const one = 1 / square;
    let sum = 0;
    for (let i = 0; i < listed; i++) {
      const o = list[i];
      const dx = data[o] - x;
      const dy = data[o + 1] - y;
      const dz = data[o + 2] - z;
      const d = dx * dx + dy * dy + dz * dz;
      if (d >= square) continue;
      // The far side of a thin part bends for itself.
      if (data[o + 4] * nx + data[o + 5] * ny + data[o + 6] * nz <= 0) continue;
      const w = 1 - d * one;
      sum += data[o + 3] * w * w;
    }
    return sum / ((Math.PI * square) / 3);
  }
}

function samplesOf(model: Pick<Model, 'positions' | 'normals' | 'indices'>, corner: Uint32Array, radius: number): Samples {
  for (let spacing = radius / 4; ; spacing *= 1.5) {
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
    let longest = 0;
    for (let k = 0; k < 3; k++) {
      const [v, s, t] = [
        [a, b, c],
        [b, c, a],
        [c, a, b],
      ][k];
      const [ex, ey, ez] = [p[t] - p[s], p[t + 1] - p[s + 1], p[t + 2] - p[s + 2]];
      longest = Math.max(longest, Math.sqrt(ex * ex + ey * ey + ez * ez));
      divergence += (n[v] * (gy * ez - gz * ey) + n[v + 1] * (gz * ex - gx * ez) + n[v + 2] * (gx * ey - gy * ex)) / g;
    }
    if (Math.abs(divergence) < FLAT) continue;
    const cuts = Math.max(1, Math.ceil(longest / spacing));
    if (out.length / SAMPLE + cuts * cuts > MOST_SAMPLES) return false;
    const share = ((divergence / 2) * (g / 2)) / (cuts * cuts);
    const put = (wb: number, wc: number) => {
      for (let k = 0; k < 3; k++) out.push(p[a + k] + (p[b + k] - p[a + k]) * wb + (p[c + k] - p[a + k]) * wc);
      out.push(share, gx * side, gy * side, gz * side);
    };
    for (let i = 0; i < cuts; i++)
      for (let j = 0; j < cuts - i; j++) {
        put((j + 1 / 3) / cuts, (i + 1 / 3) / cuts);
        if (j < cuts - i - 1) put((j + 2 / 3) / cuts, (i + 2 / 3) / cuts);
      }
  }
  return true;
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
