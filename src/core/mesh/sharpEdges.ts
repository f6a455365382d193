/** Edges of a model that stand out: where two faces meet at an angle, and what an edge brush would catch. */
import { SEGMENT_NUMBERS, SIDE } from '../../kernels/segments';
import { cellKey } from './cellKey';
import type { Model } from './model';
import { faceNormals } from './faceNormals';

export interface EdgeSegments {
  count: number;
  /** Both ends, 6 × float32 each. */
  ends: Float32Array;
  /** The mean of the two faces' normals, unit, 3 × float32 each. */
  normals: Float32Array;
}

/**
 * Calls for each edge that two faces share, with the first corner of it in both. Of more than two faces the first two count.
 */
export function eachEdge(corner: Uint32Array, faceCount: number, visit: (a: number, b: number) => void): void {
  const open = new Map<number, number>();
  for (let c = 0; c < faceCount * 3; c++) {
    const next = c % 3 === 2 ? c - 2 : c + 1;
    const [s, t] = [corner[c], corner[next]];
    if (s === t) continue;
    const key = Math.min(s, t) * 67108864 + Math.max(s, t);
    const other = open.get(key);
    if (other === undefined) open.set(key, c);
    else if (other >= 0) {
      open.set(key, -1);
      visit(other, c);
    }
  }
}

/** What is shaded as one round thing is an edge only from here on: a rod of six sides turns by 60° at each. Radians. */
const ROUND = (65 * Math.PI) / 180;
/** Normals nearer to each other than this (cosine of 2°) are one. */
const SAME = 0.9994;

/**
 * Edges at which the surface turns outwards by at least `angle` (radians); where it is shaded smoothly over the edge, by 65° at
 * least. `corner`: welded vertex of each corner.
 */
export function convexEdges(
  { positions: p, normals: shading, indices }: Pick<Model, 'positions' | 'normals' | 'indices'>,
  corner: Uint32Array,
  angle: number,
): EdgeSegments {
  const planes = faceNormals({ positions: p, indices });
  const ends: number[] = [];
  const normals: number[] = [];
  const least = Math.cos(angle);
  const round = Math.cos(ROUND);
  eachEdge(corner, indices.length / 3, (a, b) => {
    const [f, g] = [Math.floor(a / 3) * 3, Math.floor(b / 3) * 3];
    const dot = planes[f] * planes[g] + planes[f + 1] * planes[g + 1] + planes[f + 2] * planes[g + 2];
    if (dot > least) return;
    if (dot > round && smoothOver(shading, indices, corner, a, b)) return;
    const s = indices[a] * 3;
    const t = indices[a % 3 === 2 ? a - 2 : a + 1] * 3;
    // The other face's third corner lies under this one's plane where the edge stands out.
    const third = indices[g + (((b % 3) + 2) % 3)] * 3;
    let under = 0;
    for (let k = 0; k < 3; k++) under += (p[third + k] - p[s + k]) * planes[f + k];
    if (under >= 0) return;
    for (let k = 0; k < 3; k++) ends.push(p[s + k]);
    for (let k = 0; k < 3; k++) ends.push(p[t + k]);
    const mean = [0, 1, 2].map((k) => planes[f + k] + planes[g + k]);
    const l = Math.hypot(mean[0], mean[1], mean[2]) || 1;
    for (const v of mean) normals.push(v / l);
  });
  return {
    count: ends.length / 6,
    ends: Float32Array.from(ends),
    normals: Float32Array.from(normals),
  };
}

/** Whether two faces have the same normals at both ends of the edge between them; a and b: its first corner in each. */
function smoothOver(n: Float32Array, indices: Uint32Array, corner: Uint32Array, a: number, b: number): boolean {
  const follows = (c: number) => (c % 3 === 2 ? c - 2 : c + 1);
  const turned = corner[a] !== corner[b];
  const ends = turned
    ? [
        [a, follows(b)],
        [follows(a), b],
      ]
    : [
        [a, b],
        [follows(a), follows(b)],
      ];
  return ends.every(([c, d]) => {
    const [u, v] = [indices[c] * 3, indices[d] * 3];
    return n[u] * n[v] + n[u + 1] * n[v + 1] + n[u + 2] * n[v + 2] > SAME;
  });
}

/** Of some normals: one that they lie around (x y z), and the least cosine that one of them has with it. */
export type Cone = Float64Array;

/**
 * All normals lie within an angle a (cosine c) of a cone's middle m. v · n can reach SIDE only where v · m reaches
 * cos(acos(SIDE) + a) = SIDE c − √(1 − SIDE²) √(1 − c²); a little lower for the rounding.
 */
const leastWith = (c: number): number =>
  c <= -SIDE ? -2 : SIDE * c - Math.sqrt(1 - SIDE * SIDE) * Math.sqrt(Math.max(0, 1 - c * c)) - 0.01;

/** Segments by place, for asking which of them come near a box. */
export class EdgeGrid {
  private readonly cells = new Map<number, number[]>();
  private readonly seen: Uint32Array;
  private round = 0;

  constructor(
    readonly edges: EdgeSegments,
    private readonly cell: number,
  ) {
    this.seen = new Uint32Array(edges.count);
    const { ends } = edges;
    for (let e = 0; e < edges.count; e++) {
      const o = e * 6;
      const length = Math.hypot(ends[o + 3] - ends[o], ends[o + 4] - ends[o + 1], ends[o + 5] - ends[o + 2]);
      const steps = Math.min(4096, Math.max(1, Math.ceil((length / cell) * 2)));
      for (let n = 0; n <= steps; n++) {
        const t = n / steps;
        const key = cellKey(
          Math.floor((ends[o] + (ends[o + 3] - ends[o]) * t) / cell),
          Math.floor((ends[o + 1] + (ends[o + 4] - ends[o + 1]) * t) / cell),
          Math.floor((ends[o + 2] + (ends[o + 5] - ends[o + 2]) * t) / cell),
        );
        const list = this.cells.get(key);
        if (!list) this.cells.set(key, [e]);
        else if (list[list.length - 1] !== e) list.push(e);
      }
    }
  }

  /** Segments that may come within `reach` of a box (min x y z, max x y z), into `out`; how many. */
  near(box: ArrayLike<number>, reach: number, out: number[]): number {
    out.length = 0;
    if (this.edges.count === 0) return 0;
    this.round++;
    // A segment is listed at points half a cell apart: it may pass a cell's corner unlisted.
    const wide = reach + this.cell * 0.5;
    const low = [0, 1, 2].map((k) => Math.floor((box[k] - wide) / this.cell));
    const high = [0, 1, 2].map((k) => Math.floor((box[k + 3] + wide) / this.cell));
    const room = (high[0] - low[0] + 1) * (high[1] - low[1] + 1) * (high[2] - low[2] + 1);
    if (!(room <= this.edges.count + 64)) for (let e = 0; e < this.edges.count; e++) out.push(e);
    else
      for (let x = low[0]; x <= high[0]; x++)
        for (let y = low[1]; y <= high[1]; y++)
          for (let z = low[2]; z <= high[2]; z++)
            for (const e of this.cells.get(cellKey(x, y, z)) ?? [])
              if (this.seen[e] !== this.round) {
                this.seen[e] = this.round;
                out.push(e);
              }
    return this.narrow(out, box, reach, out);
  }

  /** Of a list of segments those that may come within `reach` of a box, and be a side's of what faces as `cone` does; how many. */
  narrow(list: readonly number[], box: ArrayLike<number>, reach: number, out: number[], cone: Cone | null = null): number {
    // The box's ball and the segment are too far apart.
    const x = (box[0] + box[3]) / 2;
    const y = (box[1] + box[4]) / 2;
    const z = (box[2] + box[5]) / 2;
    const [dx, dy, dz] = [box[3] - x, box[4] - y, box[5] - z];
    const half = Math.sqrt(dx * dx + dy * dy + dz * dz) + reach;
    const { ends, normals } = this.edges;
    const least = cone ? leastWith(cone[3]) : -2;
    let kept = 0;
    for (let i = 0; i < list.length; i++) {
      const e = list[i];
      const n = e * 3;
      if (cone && normals[n] * cone[0] + normals[n + 1] * cone[1] + normals[n + 2] * cone[2] < least) continue;
      const o = e * 6;
      const ex = ends[o + 3] - ends[o];
      const ey = ends[o + 4] - ends[o + 1];
      const ez = ends[o + 5] - ends[o + 2];
      const qx = x - ends[o];
      const qy = y - ends[o + 1];
      const qz = z - ends[o + 2];
      const square = ex * ex + ey * ey + ez * ez;
      let t = square > 0 ? (qx * ex + qy * ey + qz * ez) / square : 0;
      t = t < 0 ? 0 : t > 1 ? 1 : t;
      const ax = qx - ex * t;
      const ay = qy - ey * t;
      const az = qz - ez * t;
      if (ax * ax + ay * ay + az * az <= half * half) out[kept++] = e;
    }
    out.length = kept;
    return kept;
  }

  /** Segments as the kernel reads them (kernels/segments.ts), valid until the next list. */
  listed(list: readonly number[]): Float32Array {
    const { ends, normals } = this.edges;
    const length = list.length * SEGMENT_NUMBERS;
    if (this.numbers.length < length) this.numbers = new Float32Array(length * 2);
    const n = this.numbers;
    for (let i = 0, o = 0; i < list.length; i++, o += SEGMENT_NUMBERS) {
      const e = list[i] * 6;
      for (let k = 0; k < 3; k++) {
        n[o + k] = ends[e + k];
        n[o + 3 + k] = ends[e + 3 + k] - ends[e + k];
        n[o + 6 + k] = normals[list[i] * 3 + k];
      }
      const square = n[o + 3] * n[o + 3] + n[o + 4] * n[o + 4] + n[o + 5] * n[o + 5];
      n[o + 9] = square > 0 ? 1 / square : 0;
    }
    return n.subarray(0, length);
  }
  private numbers = new Float32Array(0);
}
