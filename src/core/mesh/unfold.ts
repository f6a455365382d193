/**
 * The surface around a place laid out flat, as far as asked: for pictures that follow it around bends. Triangle after triangle is
 * laid beside those that lie already, each like it is in space; where several say where a corner lies, it lies at their mean. What
 * can be unrolled (boxes, prisms, cylinders, cones) comes out without a stretch; what is round twice is stretched as little as
 * need be, the nearer the less; over sharp edges pieces lie beside each other as they come, each by the nearest. In the manner of Schmidt, Grimm and Wyvill, Interactive decal compositing with discrete
 * exponential maps, 2006, with whole triangles in place of tangent planes.
 */
import { distanceToFace2 } from '../../kernels/distances';
import { faceNormals } from './faceNormals';

export interface UnfoldMesh {
  positions: Float32Array;
  indices: Uint32Array;
  /** Welded vertex of each corner. */
  corner: Uint32Array;
}

/** By corner of each face, metres to the right and up from the middle; NaN: its face does not lie in it. */
export type Unfolded = Float32Array;

/** A triangle whose area came out more than so much smaller or larger is torn: there the surface came together from two sides. */
const MOST_STRETCH = 4;

/** Cosine of 40°: over edges that bend further pieces lie beside each other as they come, on others they grow together. */
const SMOOTH = 0.766;

/** What does not hang on where it is looked at from; once a mesh. */
interface Joints {
  /** Of each corner: its vertex, apart on both sides of sharp edges. */
  wedge: Int32Array;
  /** Corners of wedge w: of[start[w] … start[w + 1]). */
  start: Uint32Array;
  of: Uint32Array;
  /** The piece of each face: what hangs together over edges that are not sharp. */
  piece: Int32Array;
  /** Of the edge from each corner to the next one: the corner of the other face at which that edge ends; −1: none, or smooth. */
  over: Int32Array;
  normals: Float32Array;
}
const known = new WeakMap<object, Joints>();

function jointsOf(mesh: UnfoldMesh): Joints {
  let joints = known.get(mesh);
  if (!joints) known.set(mesh, (joints = findJoints(mesh)));
  return joints;
}

function findJoints(mesh: UnfoldMesh): Joints {
  const { corner } = mesh;
  const faces = corner.length / 3;
  const normals = faceNormals(mesh);
  const edges = new Map<number, number>();
  const over = new Int32Array(corner.length).fill(-1);
  const wedges = new Joined(corner.length);
  const pieces = new Joined(faces);
  const next = (i: number) => (i % 3 === 2 ? i - 2 : i + 1);
  const vertices = corner.reduce((most, v) => Math.max(most, v), 0) + 1;
  for (let i = 0; i < corner.length; i++) {
    const [a, b] = [corner[i], corner[next(i)]];
    // Its other face runs along it the other way.
    const other = edges.get(b * vertices + a);
    edges.set(a * vertices + b, i);
    if (other === undefined) continue;
    const [f, g] = [(i / 3) | 0, (other / 3) | 0];
    const bend = [0, 1, 2].reduce((sum, k) => sum + normals[f * 3 + k] * normals[g * 3 + k], 0);
    if (bend >= SMOOTH) {
      wedges.join(i, next(other));
      wedges.join(next(i), other);
      pieces.join(f, g);
    } else {
      over[i] = next(other);
      over[other] = next(i);
    }
  }
  const wedge = wedges.labels();
  const count = wedge.reduce((most, v) => Math.max(most, v), 0) + 1;
  const start = new Uint32Array(count + 1);
  for (const w of wedge) start[w + 1]++;
  for (let w = 0; w < count; w++) start[w + 1] += start[w];
  const at = start.slice();
  const of = new Uint32Array(corner.length);
  for (let i = 0; i < corner.length; i++) of[at[wedge[i]]++] = i;
  return { wedge, start, of, piece: pieces.labels(), over, normals };
}

/** Sets that grow together (Tarjan 1975). */
class Joined {
  private up: Int32Array;
  constructor(count: number) {
    this.up = Int32Array.from({ length: count }, (_, i) => i);
  }
  private root(i: number): number {
    const { up } = this;
    while (up[i] !== i) i = up[i] = up[up[i]];
    return i;
  }
  join(a: number, b: number): void {
    this.up[this.root(a)] = this.root(b);
  }
  /** Numbers from 0 on, the same within a set. */
  labels(): Int32Array {
    const numbers = new Map<number, number>();
    return this.up.map((_, i) => {
      const root = this.root(i);
      const known = numbers.get(root) ?? numbers.size;
      numbers.set(root, known);
      return known;
    });
  }
}

/** `out`: the direction out of the surface; `right`: what is to lie to the right, square to it. `reach`: metres from the middle. */
export function unfoldAround(
  mesh: UnfoldMesh,
  centre: readonly number[],
  { out, right }: { out: readonly number[]; right: readonly number[] },
  reach: number,
): Unfolded {
  const { positions: p, indices } = mesh;
  const corners = indices.length;
  const laid = new Float32Array(corners * 2).fill(NaN);
  const joints = jointsOf(mesh);
  const { wedge, start, of, piece, over, normals } = joints;
  const seed = nearestFace(mesh, normals, centre, out);
  if (seed < 0) return laid;
  const count = start.length - 1;
  const x = new Float64Array(count);
  const y = new Float64Array(count);
  /** Infinity: it lies nowhere yet; 0: where it is given. */
  const far = new Float64Array(count).fill(Infinity);
  const done = new Uint8Array(count);
  const entered = new Set([piece[seed]]);
  // Wedges by their number, edges that are gone over behind them.
  const open = new Queue();
  const n = normals.subarray(seed * 3, seed * 3 + 3);
  const along = right[0] * n[0] + right[1] * n[1] + right[2] * n[2];
  const length = Math.hypot(...right.map((v, k) => v - along * n[k])) || 1;
  const r = right.map((v, k) => (v - along * n[k]) / length);
  const u = [n[1] * r[2] - n[2] * r[1], n[2] * r[0] - n[0] * r[2], n[0] * r[1] - n[1] * r[0]];
  for (let i = seed * 3; i < seed * 3 + 3; i++) {
    const d = [0, 1, 2].map((c) => p[indices[i] * 3 + c] - centre[c]);
    give(wedge[i], d[0] * r[0] + d[1] * r[1] + d[2] * r[2], d[0] * u[0] + d[1] * u[1] + d[2] * u[2]);
  }
  const place = new Float64Array(2);
  for (let v = open.take(); v >= 0; v = open.take()) {
    if (v >= count) goOver(v - count);
    else if (!done[v]) spread(v);
  }
  for (let i = 0; i < corners; i += 3) {
    const [a, b, c] = [wedge[i], wedge[i + 1], wedge[i + 2]];
    if (!done[a] || !done[b] || !done[c]) continue;
    const flat = ((x[b] - x[a]) * (y[c] - y[a]) - (x[c] - x[a]) * (y[b] - y[a])) / 2;
    const area = areaOf(mesh, i / 3);
    if (!(flat > area / MOST_STRETCH && flat < area * MOST_STRETCH)) continue;
    for (let k = i; k < i + 3; k++) {
      laid[k * 2] = x[wedge[k]];
      laid[k * 2 + 1] = y[wedge[k]];
    }
  }
  return laid;

  function give(w: number, atX: number, atY: number): void {
    x[w] = atX;
    y[w] = atY;
    far[w] = 0;
    open.add(w, Math.hypot(atX, atY));
  }

  /** Where a wedge lies is certain now: what it says of those beside it. */
  function spread(v: number): void {
    if (far[v] > 0) settle(v);
    done[v] = 1;
    for (let i = start[v]; i < start[v + 1]; i++) {
      const f = of[i] - (of[i] % 3);
      for (let k = 0; k < 3; k++) {
        // Over the edge that lies across from corner k, and from there to corner k.
        const edge = f + ((k + 1) % 3);
        const [a, b, w] = [wedge[edge], wedge[f + ((k + 2) % 3)], wedge[f + k]];
        if (!done[a] || !done[b]) continue;
        const near = fromMiddle(a, b);
        if (near > reach) continue;
        if (over[edge] >= 0 && !entered.has(piece[(over[edge] / 3) | 0])) open.add(count + edge, near);
        if (done[w] || !layCorner(f, k)) continue;
        const way = Math.hypot(place[0], place[1]);
        if (way >= far[w]) continue;
        // Never nothing: that is for what is given.
        far[w] = Math.max(1e-12, way);
        open.add(w, far[w]);
      }
    }
  }

  /** From the edge of a corner onto the piece beyond it, which is entered once. */
  function goOver(a: number): void {
    const other = over[a];
    const beyond = piece[(other / 3) | 0];
    if (entered.has(beyond)) return;
    entered.add(beyond);
    const b = a - (a % 3) + ((a + 1) % 3);
    const before = other - (other % 3) + ((other + 2) % 3);
    give(wedge[other], x[wedge[a]], y[wedge[a]]);
    give(wedge[before], x[wedge[b]], y[wedge[b]]);
  }

  /** How near an edge comes to the middle. */
  function fromMiddle(a: number, b: number): number {
    const [ex, ey] = [x[b] - x[a], y[b] - y[a]];
    const t = Math.min(1, Math.max(0, -(x[a] * ex + y[a] * ey) / (ex * ex + ey * ey || 1)));
    return Math.hypot(x[a] + t * ex, y[a] + t * ey);
  }

  /** Where corner k of a face lies by its two others, if these lie: beside their edge, like it does in space. */
  function layCorner(f: number, k: number): boolean {
    const [i, j] = [f + ((k + 1) % 3), f + ((k + 2) % 3)];
    const [a, b] = [wedge[i], wedge[j]];
    if (!done[a] || !done[b]) return false;
    const [pa, pb, pc] = [indices[i] * 3, indices[j] * 3, indices[f + k] * 3];
    let [ee, ed, dd] = [0, 0, 0];
    for (let c = 0; c < 3; c++) {
      const e = p[pb + c] - p[pa + c];
      const d = p[pc + c] - p[pa + c];
      ee += e * e;
      ed += e * d;
      dd += d * d;
    }
    if (!(ee > 0)) return false;
    const t = ed / ee;
    const [ex, ey] = [x[b] - x[a], y[b] - y[a]];
    // As far off the edge as in space, though the edge came out longer: so ways from the middle keep their lengths.
    const h = Math.sqrt(Math.max(0, dd - t * t * ee) / (ex * ex + ey * ey || 1));
    // Corners run against the clock as seen from outside: the third lies to the left of the edge from a to b.
    place[0] = x[a] + t * ex - h * ey;
    place[1] = y[a] + t * ey + h * ex;
    return true;
  }

  /** At the mean of where the triangles around say, by how much of the vertex each takes up. */
  function settle(v: number): void {
    let [sx, sy, sum] = [0, 0, 0];
    for (let i = start[v]; i < start[v + 1]; i++) {
      const f = of[i] - (of[i] % 3);
      if (!layCorner(f, of[i] - f)) continue;
      const weight = areaOf(mesh, f / 3);
      sx += place[0] * weight;
      sy += place[1] * weight;
      sum += weight;
    }
    if (!(sum > 0)) return;
    x[v] = sx / sum;
    y[v] = sy / sum;
  }
}

/** The face that a place lies on: the nearest one that is turned to `out`; −1: there is none. */
function nearestFace(mesh: UnfoldMesh, normals: Float32Array, [x, y, z]: readonly number[], out: readonly number[]): number {
  let [best, least] = [-1, Infinity];
  for (let f = 0; f * 3 < mesh.indices.length; f++) {
    const d = distanceToFace2(mesh, f, x, y, z);
    if (!(d < least)) continue;
    if (normals[f * 3] * out[0] + normals[f * 3 + 1] * out[1] + normals[f * 3 + 2] * out[2] > 0) [best, least] = [f, d];
  }
  return best;
}

function areaOf({ positions: p, indices }: UnfoldMesh, f: number): number {
  const [a, b, c] = [indices[f * 3] * 3, indices[f * 3 + 1] * 3, indices[f * 3 + 2] * 3];
  const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
  const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
  return Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
}

/** Gives the nearest first. */
class Queue {
  private items: { v: number; far: number }[] = [];

  add(v: number, far: number): void {
    const { items } = this;
    let at = items.length;
    items.push({ v, far });
    while (at > 0) {
      const up = (at - 1) >> 1;
      if (items[up].far <= far) break;
      items[at] = items[up];
      at = up;
    }
    items[at] = { v, far };
  }

  /** −1: there is none. */
  take(): number {
    const { items } = this;
    if (items.length === 0) return -1;
    const { v } = items[0];
    const last = items.pop()!;
    if (items.length > 0) {
      let at = 0;
      for (;;) {
        let down = at * 2 + 1;
        if (down >= items.length) break;
        if (down + 1 < items.length && items[down + 1].far < items[down].far) down++;
        if (items[down].far >= last.far) break;
        items[at] = items[down];
        at = down;
      }
      items[at] = last;
    }
    return v;
  }
}
