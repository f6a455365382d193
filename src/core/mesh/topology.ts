/**
 * Who touches whom: faces that share an edge in space (whatever their UVs), and faces that share an edge in
 * the UV sheet (islands). Vertices closer than 1e-6 of the model's diagonal count as one: that is some
 * 30 × float32's resolution at the model's own size, far below any modelled detail.
 */
import { boundsOf, type Model } from './model';

const WELD_FRACTION = 1e-6;

export interface Topology {
  faceCount: number;
  /** Welded vertex of each corner. */
  corner: Uint32Array;
  /** Neighbours in space of face f: neighbours[start[f] … start[f + 1]). */
  start: Uint32Array;
  neighbours: Uint32Array;
  /** Connected surface (in space) of each face. */
  component: Uint32Array;
  componentCount: number;
}

export function buildTopology(model: Model): Topology {
  const corner = weldCorners(model);
  const faceCount = model.indices.length / 3;
  const edges = edgeFaces(corner, faceCount);
  const { start, neighbours } = neighbourLists(edges, faceCount);
  const { labels, count } = connected(faceCount, start, neighbours);
  return { faceCount, corner, start, neighbours, component: labels, componentCount: count };
}

/** Cells that vertices are looked up in, in tolerances: so large that a vertex seldom lies near a cell's side. */
const CELL_TOLERANCES = 64;

/** Each corner's vertex, one number for all that lie at one place: each joins the first one that is near enough. */
export function weldCorners(model: Pick<Model, 'positions' | 'indices'>): Uint32Array {
  const { positions, indices } = model;
  const { min, max, diagonal } = boundsOf(positions);
  const tolerance = Math.max(1e-30, diagonal * WELD_FRACTION);
  // However far from the origin: numbers of cells can be counted up one by one.
  const farthest = Math.max(0, ...max, ...min.map((v) => -v));
  const cell = Math.max(tolerance * CELL_TOLERANCES, farthest * 2 ** -40);
  const welded = new Uint32Array(positions.length / 3);
  // Cells by a hash of their numbers: what lies in one is a chain of places, the latest first.
  const buckets = 2 ** Math.ceil(Math.log2(welded.length * 2 + 2));
  const latest = new Int32Array(buckets).fill(-1);
  const before = new Int32Array(welded.length);
  const first = new Uint32Array(welded.length);
  const bucketOf = (x: number, y: number, z: number): number => {
    const h = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca77) ^ Math.imul(z, 0xc2b2ae3d);
    return (h ^ (h >>> 15)) & (buckets - 1);
  };
  let count = 0;
  for (let v = 0; v < welded.length; v++) {
    const x = positions[v * 3];
    const y = positions[v * 3 + 1];
    const z = positions[v * 3 + 2];
    const x1 = Math.floor((x + tolerance) / cell);
    const y1 = Math.floor((y + tolerance) / cell);
    const z1 = Math.floor((z + tolerance) / cell);
    let found = -1;
    for (let cx = Math.floor((x - tolerance) / cell); cx <= x1; cx++)
      for (let cy = Math.floor((y - tolerance) / cell); cy <= y1; cy++)
        for (let cz = Math.floor((z - tolerance) / cell); cz <= z1; cz++)
          for (let n = latest[bucketOf(cx, cy, cz)]; n >= 0; n = before[n]) {
            const o = first[n] * 3;
            const d2 = (positions[o] - x) ** 2 + (positions[o + 1] - y) ** 2 + (positions[o + 2] - z) ** 2;
            if (d2 <= tolerance * tolerance && (found < 0 || n < found)) found = n;
          }
    if (found < 0) {
      found = count++;
      first[found] = v;
      const bucket = bucketOf(Math.floor(x / cell), Math.floor(y / cell), Math.floor(z / cell));
      before[found] = latest[bucket];
      latest[bucket] = found;
    }
    welded[v] = found;
  }
  return indices.map((v) => welded[v]);
}

/** Faces on each edge. Key: lower vertex · 2^26 + higher, exact in a double for up to 67 million vertices. */
function edgeFaces(corner: Uint32Array, faceCount: number): Map<number, number[]> {
  const edges = new Map<number, number[]>();
  for (let f = 0; f < faceCount; f++) {
    for (let k = 0; k < 3; k++) {
      const a = corner[f * 3 + k];
      const b = corner[f * 3 + ((k + 1) % 3)];
      if (a === b) continue;
      const key = Math.min(a, b) * 67108864 + Math.max(a, b);
      const faces = edges.get(key);
      if (faces) faces.push(f);
      else edges.set(key, [f]);
    }
  }
  return edges;
}

function neighbourLists(edges: Map<number, number[]>, faceCount: number) {
  const start = new Uint32Array(faceCount + 1);
  for (const faces of edges.values()) for (const f of faces) start[f + 1] += faces.length - 1;
  for (let f = 0; f < faceCount; f++) start[f + 1] += start[f];
  const fill = start.slice();
  const neighbours = new Uint32Array(start[faceCount]);
  for (const faces of edges.values()) for (const f of faces) for (const g of faces) if (f !== g) neighbours[fill[f]++] = g;
  return { start, neighbours };
}

function connected(faceCount: number, start: Uint32Array, neighbours: Uint32Array) {
  const NONE = 0xffffffff;
  const labels = new Uint32Array(faceCount).fill(NONE);
  const stack: number[] = [];
  let count = 0;
  for (let seed = 0; seed < faceCount; seed++) {
    if (labels[seed] !== NONE) continue;
    labels[seed] = count;
    stack.push(seed);
    while (stack.length) {
      const f = stack.pop()!;
      for (let i = start[f]; i < start[f + 1]; i++) {
        const g = neighbours[i];
        if (labels[g] === NONE) {
          labels[g] = count;
          stack.push(g);
        }
      }
    }
    count++;
  }
  return { labels, count };
}

export interface Islands {
  /** UV island of each face. */
  island: Uint32Array;
  count: number;
  /**
   * For each corner k of each face: 1 if the edge from k to k + 1 is a border in the sheet, with no face of its island on
   * its other side. Where two faces are folded onto each other (mirrored UVs), the fold is one.
   */
  border: Uint8Array;
}

/** Faces are in one island when they share an edge in space and its two ends have the same UVs. */
export function buildIslands(model: Model, topology: Topology, uv: Float32Array): Islands {
  const { indices } = model;
  const { corner, faceCount } = topology;
  const byEdge = new Map<string, number[]>();
  // UVs are equal when they round to the same 1/65536: a sixteenth of a texel at 4096.
  const q = (v: number, k: number) => Math.round(uv[v * 2 + k] * 65536);
  for (let f = 0; f < faceCount; f++) {
    for (let k = 0; k < 3; k++) {
      const k2 = (k + 1) % 3;
      const ends = [f * 3 + k, f * 3 + k2].map((c) => `${corner[c]}:${q(indices[c], 0)}:${q(indices[c], 1)}`);
      const key = ends[0] < ends[1] ? `${ends[0]}|${ends[1]}` : `${ends[1]}|${ends[0]}`;
      const list = byEdge.get(key);
      if (list) list.push(f * 3 + k);
      else byEdge.set(key, [f * 3 + k]);
    }
  }
  /** On which side of its edge a face lies in the sheet, with the edge's ends in the order of their vertices. 0: it has no area. */
  const sides = (c: number): number => {
    const f = ((c / 3) | 0) * 3;
    const [a, b, third] = [c, f + ((c + 1) % 3), f + ((c + 2) % 3)];
    const [u, v, w] = [a, b, third].map((n) => indices[n] * 2);
    const cross = (uv[v] - uv[u]) * (uv[w + 1] - uv[u + 1]) - (uv[w] - uv[u]) * (uv[v + 1] - uv[u + 1]);
    return Math.sign(cross) * (corner[a] < corner[b] ? 1 : -1);
  };
  const border = new Uint8Array(faceCount * 3).fill(1);
  const start = new Uint32Array(faceCount + 1);
  const pairs: [number, number][] = [];
  for (const corners of byEdge.values()) {
    if (corners.length < 2) continue;
    for (const c of corners) if (corners.some((other) => other !== c && sides(c) * sides(other) <= 0)) border[c] = 0;
    for (let i = 1; i < corners.length; i++) {
      const a = (corners[i - 1] / 3) | 0;
      const b = (corners[i] / 3) | 0;
      pairs.push([a, b], [b, a]);
    }
  }
  for (const [a] of pairs) start[a + 1]++;
  for (let f = 0; f < faceCount; f++) start[f + 1] += start[f];
  const fill = start.slice();
  const neighbours = new Uint32Array(pairs.length);
  for (const [a, b] of pairs) neighbours[fill[a]++] = b;
  const { labels, count } = connected(faceCount, start, neighbours);
  return { island: labels, count, border };
}
