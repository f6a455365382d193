/** How far a place lies from some faces: a grid of them, asked in rings of cells. */
import type { Model } from '../mesh/model';

/** Cells along the longest side. */
const ACROSS = 48;

/** The least distance to the faces, at most `reach`. Ericson, Real-Time Collision Detection, 2005, 5.1.5. */
export function distanceToFaces(
  { positions: p, indices }: Pick<Model, 'positions' | 'indices'>,
  faces: Uint32Array,
  reach: number,
): (x: number, y: number, z: number) => number {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (const f of faces)
    for (let c = 0; c < 9; c++) {
      const v = p[indices[f * 3 + Math.floor(c / 3)] * 3 + (c % 3)];
      low[c % 3] = Math.min(low[c % 3], v);
      high[c % 3] = Math.max(high[c % 3], v);
    }
  if (faces.length === 0) return () => reach;
  const cell = Math.max(1e-9, ...low.map((v, k) => high[k] - v)) / ACROSS;
  const size = low.map((v, k) => Math.max(1, Math.ceil((high[k] - v) / cell + 1e-9)));
  const cells = new Map<number, number[]>();
  const keyOf = (x: number, y: number, z: number) => (z * size[1] + y) * size[0] + x;
  const cellOf = (v: number, k: number) => Math.min(size[k] - 1, Math.max(0, Math.floor((v - low[k]) / cell)));
  for (const f of faces) {
    const ends = [0, 1, 2].map((k) => {
      const v = [0, 1, 2].map((c) => p[indices[f * 3 + c] * 3 + k]);
      return [cellOf(Math.min(...v), k), cellOf(Math.max(...v), k)];
    });
    for (let x = ends[0][0]; x <= ends[0][1]; x++)
      for (let y = ends[1][0]; y <= ends[1][1]; y++)
        for (let z = ends[2][0]; z <= ends[2][1]; z++) {
          const key = keyOf(x, y, z);
          const list = cells.get(key);
          if (list) list.push(f);
          else cells.set(key, [f]);
        }
  }
  return (x, y, z) => {
    const at = [x, y, z];
    const [cx, cy, cz] = at.map(cellOf);
    // How far outside of the grid the place lies: no face is nearer.
    const out = Math.hypot(...at.map((v, k) => Math.max(0, low[k] - v, v - high[k])));
    if (out >= reach) return reach;
    let best = reach * reach;
    const most = Math.max(...size);
    for (let ring = 0; ring <= most; ring++) {
      // All cells of this ring lie at least so far off.
      const clear = Math.max(0, ring - 1) * cell;
      if (clear > 0 && clear * clear >= best) break;
      for (let gx = Math.max(0, cx - ring); gx <= Math.min(size[0] - 1, cx + ring); gx++)
        for (let gy = Math.max(0, cy - ring); gy <= Math.min(size[1] - 1, cy + ring); gy++) {
          // Of a column within the ring only the two ends belong to it.
          const whole = Math.abs(gx - cx) === ring || Math.abs(gy - cy) === ring;
          for (let gz = cz - ring; gz <= cz + ring; gz += whole ? 1 : 2 * ring)
            for (const f of (gz >= 0 && gz < size[2] && cells.get(keyOf(gx, gy, gz))) || [])
              best = Math.min(best, squareToTriangle(p, indices, f, x, y, z));
        }
    }
    return Math.sqrt(best);
  };
}

/** Squared distance of a place to a triangle. */
export function squareToTriangle(p: Float32Array, indices: Uint32Array, f: number, x: number, y: number, z: number): number {
  const [ia, ib, ic] = [indices[f * 3] * 3, indices[f * 3 + 1] * 3, indices[f * 3 + 2] * 3];
  const sub = (a: number, b: number) => [p[a] - p[b], p[a + 1] - p[b + 1], p[a + 2] - p[b + 2]];
  const dot = (a: number[], b: number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const from = (a: number) => [x - p[a], y - p[a + 1], z - p[a + 2]];
  const [ab, ac] = [sub(ib, ia), sub(ic, ia)];
  const at = (v: number, w: number) => {
    const d = [0, 1, 2].map((k) => p[ia + k] + ab[k] * v + ac[k] * w - [x, y, z][k]);
    return dot(d, d);
  };
  const ap = from(ia);
  const [d1, d2] = [dot(ab, ap), dot(ac, ap)];
  if (d1 <= 0 && d2 <= 0) return at(0, 0);
  const bp = from(ib);
  const [d3, d4] = [dot(ab, bp), dot(ac, bp)];
  if (d3 >= 0 && d4 <= d3) return at(1, 0);
  const vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return at(d1 / (d1 - d3), 0);
  const cp = from(ic);
  const [d5, d6] = [dot(ab, cp), dot(ac, cp)];
  if (d6 >= 0 && d5 <= d6) return at(0, 1);
  const vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return at(0, d2 / (d2 - d6));
  const va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const w = (d4 - d3) / (d4 - d3 + (d5 - d6));
    return at(1 - w, w);
  }
  const denominator = va + vb + vc;
  if (!(denominator > 0)) return Math.min(at(0, 0), at(1, 0), at(0, 1));
  return at(vb / denominator, vc / denominator);
}
