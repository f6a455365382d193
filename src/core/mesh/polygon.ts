/** Polygons into triangles: as a fan where that is right, else by cutting ears (the package earcut) in the polygon's own plane. */
import earcut, { deviation } from 'earcut';

/** Corners of the triangles, three places in the polygon each, wound as it is. `at`: 3 numbers a corner. */
export function trianglesOfPolygon(at: Float64Array, corners: number): number[] {
  if (corners === 3) return TRIANGLE;
  if (corners === 4) return trianglesOfQuad(at);
  const [nx, ny, nz] = newell(at, corners);
  // The two axes that see it largest, right way round.
  const [ax, ay, az] = [Math.abs(nx), Math.abs(ny), Math.abs(nz)];
  const flip = (ax >= ay && ax >= az ? nx : ay >= az ? ny : nz) < 0;
  let [u, v] = ax >= ay && ax >= az ? [1, 2] : ay >= az ? [2, 0] : [0, 1];
  if (flip) [u, v] = [v, u];
  const side = (i: number, j: number, k: number) => across(at, i, j, k, u, v);
  let convex = true;
  for (let i = 0; i < corners && convex; i++) convex = side(i, (i + 1) % corners, (i + 2) % corners) >= 0;
  if (convex && turnsOnce(at, corners, u, v)) return fan(corners);
  const flat = new Array<number>(corners * 2);
  for (let i = 0; i < corners; i++) [flat[i * 2], flat[i * 2 + 1]] = [at[i * 3 + u], at[i * 3 + v]];
  const cut = earcut(flat);
  // Where it crosses itself, or is far from flat, ears say nothing.
  if (cut.length === 0 || deviation(flat, null, 2, cut) > 1e-3) return fan(corners);
  for (let i = 0; i < cut.length; i += 3)
    if (side(cut[i], cut[i + 1], cut[i + 2]) < 0) [cut[i + 1], cut[i + 2]] = [cut[i + 2], cut[i + 1]];
  return cut;
}

const TRIANGLE = [0, 1, 2];
const QUAD = [0, 1, 2, 0, 2, 3];
/** Cut at its other corners. */
const OTHER = [1, 2, 3, 1, 3, 0];

/** From the first corner, unless a corner that points inwards makes the other diagonal the right one. */
function trianglesOfQuad(at: Float64Array): number[] {
  const first = alike(at, 0, 1, 2, 0, 2, 3);
  return first > 0 || alike(at, 1, 2, 3, 1, 3, 0) <= 0 ? QUAD : OTHER;
}

/** Dot product of two triangles' normals: above 0 they look the same way. */
function alike(at: Float64Array, a: number, b: number, c: number, p: number, q: number, r: number): number {
  let sum = 0;
  for (let k = 0; k < 3; k++) {
    const u = k === 2 ? 0 : k + 1;
    const v = k === 0 ? 2 : k - 1;
    sum += across(at, a, b, c, u, v) * across(at, p, q, r, u, v);
  }
  return sum;
}

const across = (at: Float64Array, i: number, j: number, k: number, u: number, v: number): number =>
  (at[j * 3 + u] - at[i * 3 + u]) * (at[k * 3 + v] - at[i * 3 + v]) -
  (at[k * 3 + u] - at[i * 3 + u]) * (at[j * 3 + v] - at[i * 3 + v]);

const fan = (corners: number): number[] => Array.from({ length: corners - 2 }, (_, i) => [0, i + 1, i + 2]).flat();

/** Normal of a polygon, as long as twice its area (M. Newell's method, in I. Sutherland et al., 1974). */
function newell(at: Float64Array, corners: number): [number, number, number] {
  const n: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < corners; i++) {
    const j = (i + 1) % corners;
    for (let k = 0; k < 3; k++) {
      const [p, q] = [(k + 1) % 3, (k + 2) % 3];
      n[k] += (at[i * 3 + p] - at[j * 3 + p]) * (at[i * 3 + q] + at[j * 3 + q]);
    }
  }
  return n;
}

/** Stars turn left all the way and go round twice: their sides change direction along U more often than a convex polygon's. */
function turnsOnce(at: Float64Array, corners: number, u: number, v: number): boolean {
  for (const axis of [u, v]) {
    let changes = 0;
    let last = 0;
    let first = 0;
    for (let i = 0; i < corners; i++) {
      const d = Math.sign(at[((i + 1) % corners) * 3 + axis] - at[i * 3 + axis]);
      if (d === 0) continue;
      if (first === 0) first = d;
      else if (d !== last) changes++;
      last = d;
    }
    if (changes + (last !== first ? 1 : 0) > 2) return false;
  }
  return true;
}
