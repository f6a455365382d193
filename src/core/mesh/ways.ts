/**
 * Ways over the surface of a sheet: straight on from a texel by a length (over edges as if they were folded flat: Polthier
 * and Schmies, "Straightest geodesics on polyhedral surfaces", 1998), or to the place nearest to a point. Seams of the UVs do
 * not exist here; ways end at borders of the surface, at hidden faces and where another sheet begins.
 */
import type { SurfaceMap } from './surfaceMap';
import { distanceToFace2, type SurfaceQuery } from './surfaceQuery';
import type { Topology } from './topology';

/** Faces that a way crosses at most: what lies further is given up. */
const MOST_CROSSINGS = 256;
/** Weights this far below 0 still count as within: a millionth of a face. */
const WITHIN = -1e-6;

/** Metres by which a face must be nearer to count as nearer. */
const NEARER = 1e-7;

const neighbourLists = new WeakMap<Topology, Int32Array>();

/** The face beyond each edge (3 a face, from corner k to the next); −1 where there is none, or more than one. */
function beyondEdges(topology: Topology): Int32Array {
  const known = neighbourLists.get(topology);
  if (known) return known;
  const { corner, faceCount } = topology;
  const keys = new Float64Array(faceCount * 3);
  const counts = new Map<number, number>();
  for (let e = 0; e < keys.length; e++) {
    const a = corner[e];
    const b = corner[e % 3 === 2 ? e - 2 : e + 1];
    keys[e] = a === b ? -1 : Math.min(a, b) * 67108864 + Math.max(a, b);
    counts.set(keys[e], (counts.get(keys[e]) ?? 0) + 1);
  }
  const out = new Int32Array(faceCount * 3).fill(-1);
  const first = new Map<number, number>();
  for (let e = 0; e < keys.length; e++) {
    if (keys[e] < 0 || counts.get(keys[e]) !== 2) continue;
    const other = first.get(keys[e]);
    if (other === undefined) first.set(keys[e], e);
    else {
      out[other] = (e / 3) | 0;
      out[e] = (other / 3) | 0;
    }
  }
  neighbourLists.set(topology, out);
  return out;
}

export class Ways {
  /** Where the last way led: texels of the sheet, and the face there. */
  x = 0;
  y = 0;
  face = 0;
  /** Which way it was still to go in the face where it led. */
  dx = 0;
  dy = 0;
  dz = 0;
  private readonly beyond: Int32Array;
  /** Per face, made when first needed: gradients of the weights of corners 1 and 2, 1/metre. */
  private readonly gradients: Float64Array;
  private readonly known: Uint8Array;

  constructor(
    private map: SurfaceMap,
    private query: SurfaceQuery,
  ) {
    const faces = query.topology.faceCount;
    this.beyond = beyondEdges(query.topology);
    this.gradients = new Float64Array(faces * 6);
    this.known = new Uint8Array(faces);
  }

  /** The way ends at this face. */
  private ends(face: number): boolean {
    return face < 0 || this.query.isHidden(face) || Number.isNaN(this.map.cornersTexels[face * 6]);
  }

  private gradientsOf(f: number): number {
    const o = f * 6;
    if (this.known[f]) return o;
    this.known[f] = 1;
    const { positions: p, indices } = this.query.model;
    const a = indices[f * 3] * 3;
    const b = indices[f * 3 + 1] * 3;
    const c = indices[f * 3 + 2] * 3;
    const ux = p[b] - p[a];
    const uy = p[b + 1] - p[a + 1];
    const uz = p[b + 2] - p[a + 2];
    const vx = p[c] - p[a];
    const vy = p[c + 1] - p[a + 1];
    const vz = p[c + 2] - p[a + 2];
    const uu = ux * ux + uy * uy + uz * uz;
    const uv = ux * vx + uy * vy + uz * vz;
    const vv = vx * vx + vy * vy + vz * vz;
    const d = uu * vv - uv * uv;
    const g = this.gradients;
    // A face without area is a border.
    if (d <= 0) return o;
    g[o] = (vv * ux - uv * vx) / d;
    g[o + 1] = (vv * uy - uv * vy) / d;
    g[o + 2] = (vv * uz - uv * vz) / d;
    g[o + 3] = (uu * vx - uv * ux) / d;
    g[o + 4] = (uu * vy - uv * uy) / d;
    g[o + 5] = (uu * vz - uv * uz) / d;
    return o;
  }

  private arrive(f: number, w1: number, w2: number): void {
    const c = this.map.cornersTexels;
    const o = f * 6;
    const w0 = 1 - w1 - w2;
    this.face = f;
    this.x = c[o] * w0 + c[o + 2] * w1 + c[o + 4] * w2;
    this.y = c[o + 1] * w0 + c[o + 3] * w1 + c[o + 5] * w2;
  }

  /**
   * From a place of face `f` (texels of the sheet; in its gutter too) by (dx, dy, dz) metres along the surface. false: the
   * surface ends on the way, and `x`, `y` are where it does.
   */
  walk(f: number, x: number, y: number, dx: number, dy: number, dz: number): boolean {
    const c = this.map.cornersTexels;
    const o = f * 6;
    const area2 = (c[o + 2] - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (c[o + 3] - c[o + 1]);
    if (!(Math.abs(area2) > 1e-9)) {
      this.face = f;
      this.x = x;
      this.y = y;
      return false;
    }
    const qx = x - c[o];
    const qy = y - c[o + 1];
    return this.go(
      f,
      (qx * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * qy) / area2,
      ((c[o + 2] - c[o]) * qy - qx * (c[o + 3] - c[o + 1])) / area2,
      dx,
      dy,
      dz,
    );
  }

  /** The same from weights of corners 1 and 2. */
  go(f: number, w1: number, w2: number, dx: number, dy: number, dz: number): boolean {
    const { positions: p, indices } = this.query.model;
    const g = this.gradients;
    // 1. What lies in the gutter lies beyond the edge: the way begins at the edge and is longer by that.
    if (w1 < 0 || w2 < 0 || w1 + w2 > 1) {
      let c1 = w1 < 0 ? 0 : w1;
      let c2 = w2 < 0 ? 0 : w2;
      if (c1 + c2 > 1) {
        const sum = c1 + c2;
        c1 /= sum;
        c2 /= sum;
      }
      const a = indices[f * 3] * 3;
      const b = indices[f * 3 + 1] * 3;
      const c = indices[f * 3 + 2] * 3;
      const e1 = w1 - c1;
      const e2 = w2 - c2;
      dx += (p[b] - p[a]) * e1 + (p[c] - p[a]) * e2;
      dy += (p[b + 1] - p[a + 1]) * e1 + (p[c + 1] - p[a + 1]) * e2;
      dz += (p[b + 2] - p[a + 2]) * e1 + (p[c + 2] - p[a + 2]) * e2;
      w1 = c1;
      w2 = c2;
    }
    // 2. Face by face.
    for (let n = 0; n < MOST_CROSSINGS; n++) {
      const o = this.gradientsOf(f);
      const s1 = g[o] * dx + g[o + 1] * dy + g[o + 2] * dz;
      const s2 = g[o + 3] * dx + g[o + 4] * dy + g[o + 5] * dz;
      const w0 = 1 - w1 - w2;
      const n1 = w1 + s1;
      const n2 = w2 + s2;
      const n0 = 1 - n1 - n2;
      if (n0 >= WITHIN && n1 >= WITHIN && n2 >= WITHIN) {
        this.dx = dx;
        this.dy = dy;
        this.dz = dz;
        this.arrive(f, n1, n2);
        return true;
      }
      // The edge that is met first lies opposite the corner whose weight comes to 0 first.
      let t = 2;
      let k = 0;
      if (n0 < WITHIN && w0 / (w0 - n0) < t) t = w0 / (w0 - n0);
      if (n1 < WITHIN && w1 / (w1 - n1) < t) {
        t = w1 / (w1 - n1);
        k = 1;
      }
      if (n2 < WITHIN && w2 / (w2 - n2) < t) {
        t = w2 / (w2 - n2);
        k = 2;
      }
      t = t < 0 ? 0 : t > 1 ? 1 : t;
      const m1 = k === 1 ? 0 : w1 + s1 * t;
      const m2 = k === 2 ? 0 : w2 + s2 * t;
      const m0 = k === 0 ? 0 : 1 - m1 - m2;
      const from = (k + 1) % 3;
      const to = (k + 2) % 3;
      const beyond = this.beyond[f * 3 + from];
      if (this.ends(beyond)) {
        const sum = m0 + m1 + m2 || 1;
        this.arrive(f, m1 / sum, m2 / sum);
        return false;
      }
      // 3. Over the edge: what goes along it stays, what goes across it goes on in the other face's plane.
      const { corner } = this.query.topology;
      const a = corner[f * 3 + from];
      const share =
        (from === 0 ? m0 : from === 1 ? m1 : m2) /
        ((from === 0 ? m0 : from === 1 ? m1 : m2) + (to === 0 ? m0 : to === 1 ? m1 : m2) || 1);
      const pa = indices[f * 3 + from] * 3;
      const pb = indices[f * 3 + to] * 3;
      let ex = p[pb] - p[pa];
      let ey = p[pb + 1] - p[pa + 1];
      let ez = p[pb + 2] - p[pa + 2];
      const length = Math.sqrt(ex * ex + ey * ey + ez * ez) || 1;
      ex /= length;
      ey /= length;
      ez /= length;
      const rest = 1 - t;
      const along = (dx * ex + dy * ey + dz * ez) * rest;
      const nf = this.query.faceNormal;
      // Within the old face's plane across the edge.
      const ax = dx * rest - along * ex;
      const ay = dy * rest - along * ey;
      const az = dz * rest - along * ez;
      const normalPart = ax * nf[f * 3] + ay * nf[f * 3 + 1] + az * nf[f * 3 + 2];
      const tx = ax - normalPart * nf[f * 3];
      const ty = ay - normalPart * nf[f * 3 + 1];
      const tz = az - normalPart * nf[f * 3 + 2];
      const across = Math.sqrt(tx * tx + ty * ty + tz * tz);
      // Into the new face: perpendicular to the edge, towards its third corner.
      let ga = 0;
      while (ga < 3 && corner[beyond * 3 + ga] !== a) ga++;
      const gNext = (ga + 1) % 3;
      const b = corner[f * 3 + to];
      const gb = corner[beyond * 3 + gNext] === b ? gNext : (ga + 2) % 3;
      const gc = 3 - ga - gb;
      const pc = indices[beyond * 3 + gc] * 3;
      const pg = indices[beyond * 3 + ga] * 3;
      let ix = p[pc] - p[pg];
      let iy = p[pc + 1] - p[pg + 1];
      let iz = p[pc + 2] - p[pg + 2];
      const off = ix * ex + iy * ey + iz * ez;
      ix -= off * ex;
      iy -= off * ey;
      iz -= off * ez;
      const tall = Math.sqrt(ix * ix + iy * iy + iz * iz);
      if (tall === 0) {
        this.arrive(f, m1, m2);
        return false;
      }
      dx = along * ex + (across * ix) / tall;
      dy = along * ey + (across * iy) / tall;
      dz = along * ez + (across * iz) / tall;
      w1 = ga === 1 ? share : gb === 1 ? 1 - share : 0;
      w2 = ga === 2 ? share : gb === 2 ? 1 - share : 0;
      f = beyond;
    }
    this.arrive(f, w1, w2);
    return false;
  }

  /**
   * To the place of the surface nearest to a point, downhill from face `f` on: a place from which no neighbouring face is
   * nearer. false: the surface ends there.
   */
  nearest(f: number, px: number, py: number, pz: number): boolean {
    const { positions: p, indices } = this.query.model;
    const g = this.gradients;
    let before = -1;
    for (let n = 0; n < MOST_CROSSINGS; n++) {
      const o = this.gradientsOf(f);
      const a = indices[f * 3] * 3;
      const dx = px - p[a];
      const dy = py - p[a + 1];
      const dz = pz - p[a + 2];
      let w1 = g[o] * dx + g[o + 1] * dy + g[o + 2] * dz;
      let w2 = g[o + 3] * dx + g[o + 4] * dy + g[o + 5] * dz;
      const w0 = 1 - w1 - w2;
      if (w0 >= WITHIN && w1 >= WITHIN && w2 >= WITHIN) {
        // Beyond an edge another face may be nearer still.
        const { faceNormal: nf } = this.query;
        const off = dx * nf[f * 3] + dy * nf[f * 3 + 1] + dz * nf[f * 3 + 2];
        const nearer = this.nearerBeside(f, px, py, pz, off * off);
        if (nearer < 0 || nearer === before) {
          this.arrive(f, w1, w2);
          return true;
        }
        before = f;
        f = nearer;
        continue;
      }
      const k = w0 <= w1 && w0 <= w2 ? 0 : w1 <= w2 ? 1 : 2;
      const beyond = this.beyond[f * 3 + ((k + 1) % 3)];
      const ended = this.ends(beyond);
      // Back to where it came from: the nearest place is on the edge between the two.
      if (ended || beyond === before) {
        w1 = w1 < 0 ? 0 : w1;
        w2 = w2 < 0 ? 0 : w2;
        const z0 = w0 < 0 ? 0 : w0;
        const sum = z0 + w1 + w2;
        this.arrive(f, w1 / sum, w2 / sum);
        return !ended;
      }
      before = f;
      f = beyond;
    }
    return false;
  }

  /** A face beside `f` that is nearer to a point than the square of `f`'s distance; −1: none. */
  private nearerBeside(f: number, px: number, py: number, pz: number, than2: number): number {
    let least = than2 - NEARER * NEARER;
    let found = -1;
    for (let k = 0; k < 3 && least > 0; k++) {
      const g = this.beyond[f * 3 + k];
      if (this.ends(g)) continue;
      const d2 = distanceToFace2(this.query.model, g, px, py, pz);
      if (d2 >= least) continue;
      least = d2;
      found = g;
    }
    return found;
  }
}
