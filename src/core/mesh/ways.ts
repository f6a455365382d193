/**
 * Ways over the surface of a sheet: straight on from a texel by a length (over edges as if they were folded flat: Polthier
 * and Schmies, "Straightest geodesics on polyhedral surfaces", 1998), or to the place nearest to a point. Seams of the UVs do
 * not exist here; ways end at borders of the surface, at hidden faces and where another sheet begins.
 */
import { lasting } from '../tile/tiles';
import type { SurfaceMap } from './surfaceMap/surfaceMap';
import { distanceToFace2 } from '../../kernels/distances';
import type { SurfaceQuery } from './surfaceQuery';
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
  const out = lasting(Int32Array, faceCount * 3).fill(-1);
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

const known = new WeakMap<SurfaceMap, Ways>();

/** The ways of a surface: what they learn of faces and edges stays for the strokes to come. */
export function waysOf(map: SurfaceMap, query: SurfaceQuery): Ways {
  let ways = known.get(map);
  if (!ways) known.set(map, (ways = new Ways(map, query)));
  return ways;
}

export class Ways {
  /** Where the last way led: texels of the sheet, and the face there. */
  x = 0;
  y = 0;
  face = 0;
  /** Weights of corners 1 and 2 where it began, as that lies in the plane of the face where it led, unfolded. */
  private s1 = 0;
  private s2 = 0;
  private n1 = 0;
  private n2 = 0;
  readonly beyond: Int32Array;
  /** Per face, made when first needed: gradients of the weights of corners 1 and 2, 1/metre. */
  private readonly gradientsOfAll: Float64Array;
  private readonly known: Uint8Array;
  /**
   * Per edge, made when first needed: from weights of corners 1 and 2 of a face to those of the face beyond, as it lies when
   * both are folded flat: two rows of a matrix and what is added, 6 numbers.
   */
  readonly foldings: Float64Array;
  /** 0: not worked out yet. 2: one of the two faces has no area. */
  readonly folded: Uint8Array;
  /** Per face, made when first needed: see `intoWeights`. */
  readonly into: Float64Array;
  private readonly turned: Uint8Array;

  constructor(
    private map: SurfaceMap,
    private query: SurfaceQuery,
  ) {
    const faces = query.topology.faceCount;
    this.beyond = beyondEdges(query.topology);
    this.gradientsOfAll = new Float64Array(faces * 6);
    this.known = new Uint8Array(faces);
    this.foldings = lasting(Float64Array, faces * 18);
    this.folded = lasting(Uint8Array, faces * 3).fill(0);
    this.into = lasting(Float64Array, faces * 6);
    this.turned = new Uint8Array(faces);
  }

  /** The way ends at this face. */
  private ends(face: number): boolean {
    return face < 0 || this.query.isHidden(face) || Number.isNaN(this.map.cornersTexels[face * 6]);
  }

  /** How the weights of corners 1 and 2 of a face grow, 3 numbers each, 1/metre. */
  gradients(f: number): Float64Array {
    const o = this.gradientsOf(f);
    return this.gradientsOfAll.subarray(o, o + 6);
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
    const g = this.gradientsOfAll;
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

  get hidden(): Uint8Array {
    return this.query.hidden;
  }

  get corners(): Float32Array {
    return this.map.cornersTexels;
  }

  /** Works an edge out. */
  foldEdge(edge: number): void {
    const f = (edge / 3) | 0;
    if (!this.fold(f, edge, this.beyond[edge])) this.folded[edge] = 2;
  }

  /** Where the matrix of a face begins in `into`: of two rows, from a place in the sheet to the weights of corners 1 and 2, then the place of corner 0. */
  intoWeights(f: number): number {
    const o = f * 6;
    if (this.turned[f] === 1) return o;
    this.turned[f] = 1;
    const c = this.map.cornersTexels;
    const m = this.into;
    const area2 = (c[o + 2] - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (c[o + 3] - c[o + 1]);
    // A face without area in the sheet owns no texel.
    const k = Math.abs(area2) > 1e-9 ? 1 / area2 : 0;
    m[o] = (c[o + 5] - c[o + 1]) * k;
    m[o + 1] = -(c[o + 4] - c[o]) * k;
    m[o + 2] = -(c[o + 3] - c[o + 1]) * k;
    m[o + 3] = (c[o + 2] - c[o]) * k;
    m[o + 4] = c[o];
    m[o + 5] = c[o + 1];
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

  /** From weights to weights of the face's plane, which may lie far outside of the face. */
  goTo(f: number, s1: number, s2: number, n1: number, n2: number): boolean {
    // 1. What lies in the gutter lies beyond the edge: the way begins at the edge.
    if (s1 < 0 || s2 < 0 || s1 + s2 > 1) {
      s1 = s1 < 0 ? 0 : s1;
      s2 = s2 < 0 ? 0 : s2;
      const sum = s1 + s2;
      if (sum > 1) {
        s1 /= sum;
        s2 /= sum;
      }
    }
    // 2. Face by face: over the edge that is met first, both ends are seen from the face beyond.
    const m = this.foldings;
    for (let n = 0; n < MOST_CROSSINGS; n++) {
      const n0 = 1 - n1 - n2;
      if (n0 >= WITHIN && n1 >= WITHIN && n2 >= WITHIN) {
        this.s1 = s1;
        this.s2 = s2;
        this.n1 = n1;
        this.n2 = n2;
        this.arrive(f, n1, n2);
        return true;
      }
      const s0 = 1 - s1 - s2;
      let t = Infinity;
      let k = 0;
      if (n0 < WITHIN && s0 > n0) t = s0 / (s0 - n0);
      if (n1 < WITHIN && s1 > n1 && s1 / (s1 - n1) < t) {
        t = s1 / (s1 - n1);
        k = 1;
      }
      if (n2 < WITHIN && s2 > n2 && s2 / (s2 - n2) < t) {
        t = s2 / (s2 - n2);
        k = 2;
      }
      const edge = f * 3 + (k === 2 ? 0 : k + 1);
      const beyond = t === Infinity ? -1 : this.beyond[edge];
      if (this.ends(beyond) || !(this.folded[edge] === 1 || this.fold(f, edge, beyond))) {
        t = t < 0 ? 0 : t > 1 ? 1 : t;
        this.arriveWithin(f, s1 + (n1 - s1) * t, s2 + (n2 - s2) * t);
        return false;
      }
      const o = edge * 6;
      const a1 = m[o] * s1 + m[o + 1] * s2 + m[o + 2];
      const a2 = m[o + 3] * s1 + m[o + 4] * s2 + m[o + 5];
      const b1 = m[o] * n1 + m[o + 1] * n2 + m[o + 2];
      const b2 = m[o + 3] * n1 + m[o + 4] * n2 + m[o + 5];
      s1 = a1;
      s2 = a2;
      n1 = b1;
      n2 = b2;
      f = beyond;
    }
    this.arriveWithin(f, n1, n2);
    return false;
  }

  /** The last way as a vector in the plane of the face where it led: as long as the way. */
  heading(): [number, number, number] {
    const { positions: p, indices } = this.query.model;
    const [a, b, c] = [indices[this.face * 3] * 3, indices[this.face * 3 + 1] * 3, indices[this.face * 3 + 2] * 3];
    const [d1, d2] = [this.n1 - this.s1, this.n2 - this.s2];
    const of = (k: number) => (p[b + k] - p[a + k]) * d1 + (p[c + k] - p[a + k]) * d2;
    return [of(0), of(1), of(2)];
  }

  private arriveWithin(f: number, w1: number, w2: number): void {
    const a = w1 < 0 ? 0 : w1;
    const b = w2 < 0 ? 0 : w2;
    const sum = a + b > 1 ? a + b : 1;
    this.arrive(f, a / sum, b / sum);
  }

  /** Works an edge's folding out. false: one of the two faces has no area. */
  private fold(f: number, edge: number, g: number): boolean {
    const { positions: p, indices } = this.query.model;
    const { corner } = this.query.topology;
    const from = edge - f * 3;
    const to = (from + 1) % 3;
    const third = (from + 2) % 3;
    let ga = 0;
    while (ga < 2 && corner[g * 3 + ga] !== corner[edge]) ga++;
    let gb = 0;
    while (gb < 2 && corner[g * 3 + gb] !== corner[f * 3 + to]) gb++;
    const gc = 3 - ga - gb;
    if (ga === gb) return false;
    const at = (v: number, k: number) => p[indices[v] * 3 + k];
    const edgeVector = [0, 1, 2].map((k) => at(f * 3 + to, k) - at(edge, k));
    const length2 = edgeVector[0] ** 2 + edgeVector[1] ** 2 + edgeVector[2] ** 2;
    // How far along the edge a corner lies, as a share of it, and how far beside it.
    const placed = (v: number) => {
      const d = [0, 1, 2].map((k) => at(v, k) - at(edge, k));
      const along = (d[0] * edgeVector[0] + d[1] * edgeVector[1] + d[2] * edgeVector[2]) / length2;
      return { along, tall: Math.hypot(...d.map((x, k) => x - along * edgeVector[k])) };
    };
    const own = placed(f * 3 + third);
    const other = placed(g * 3 + gc);
    if (!(length2 > 0) || own.tall === 0 || other.tall === 0) return false;
    // A point is (x along the edge, y beside it) with y towards f's third corner. From weights of f: x = w_to + own.along·w_third,
    // y = own.tall·w_third; to weights of g, whose third corner lies at (other.along, −other.tall).
    const weight = (c: number): [number, number, number] => (c === 0 ? [-1, -1, 1] : c === 1 ? [1, 0, 0] : [0, 1, 0]);
    const [t1, t2, t0] = weight(third);
    const [e1, e2, e0] = weight(to);
    const gcOf = (w: number) => (-own.tall / other.tall) * w;
    const third_ = [gcOf(t1), gcOf(t2), gcOf(t0)];
    const to_ = [0, 1, 2].map((k) => [e1, e2, e0][k] + own.along * [t1, t2, t0][k] - other.along * third_[k]);
    const of = (c: number): number[] =>
      c === gc ? third_ : c === gb ? to_ : [-third_[0] - to_[0], -third_[1] - to_[1], 1 - third_[2] - to_[2]];
    this.foldings.set([...of(1), ...of(2)], edge * 6);
    this.folded[edge] = 1;
    return true;
  }

  /**
   * To the place of the surface nearest to a point, downhill from face `f` on: a place from which no neighbouring face is
   * nearer. false: the surface ends there.
   */
  nearest(f: number, px: number, py: number, pz: number): boolean {
    const { positions: p, indices } = this.query.model;
    const g = this.gradientsOfAll;
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
