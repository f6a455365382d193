/**
 * A twin that lies elsewhere, at another scale, on another axis or turned by any angle, laid onto its model: first by the bounds, in
 * each of the 24 ways in which axes can be turned onto axes, then by closest points (Besl and McKay, A method for registration of 3-D
 * shapes, 1992; the similarity of each step after Horn, Closed-form solution of absolute orientation using unit quaternions, 1987).
 * Where that does not meet, turns spread evenly over all that there are (Alexa, Super-Fibonacci spirals, CVPR 2022) are tried too.
 */
import type { Model } from '../mesh/model';
import { mix32 } from '../rays/directions';

type Shape = Pick<Model, 'positions' | 'indices'>;
type Matrix = number[];

export interface Fit {
  /** Moves the twin onto the model, column by column. */
  place: Matrix;
  /** Mean distance between the two, in shares of the model's size: as the twin lies, and as it would lie. */
  before: number;
  after: number;
}

/** Points of the model, and of the twin, that are held against each other. */
const OWN = 320;
const THEIRS = 2400;
const STEPS = 40;
/** Turns that are tried: neighbours lie some 15° apart. */
const TURNS = 1500;
/** So many of them, those that lie nearest, are improved by a few steps each. */
const PROMISING = 16;
const FIRST_STEPS = 12;
/** Two scatters of one surface are some 0.03 apart: more, and the two do not meet. */
const MEETS = 0.045;
/** The farthest are left out: parts that only one of the two has. */
const TRIMMED = 0.9;

/** null: one of the two has no area. */
export function fitTwin(model: Shape, twin: Shape): Fit | null {
  const [own, theirs] = [scattered(model, OWN, 1), scattered(twin, THEIRS, 2)];
  if (!own || !theirs) return null;
  const size = extentOf(own).size || 1;
  const away = (m: Matrix) => {
    const moved = movedBy(m, theirs);
    const there = distances(own, moved).reduce((a, b) => a + b, 0) / OWN;
    // Both ways: a twin shrunk into one of the model's corners is near to nothing else.
    const some = moved.filter((_, i) => Math.floor(i / 3) % 8 === 0);
    const back = distances(some, own).reduce((a, b) => a + b, 0) / (some.length / 3);
    return (there + back) / 2 / size;
  };
  const before = away(IDENTITY);
  let [best, error] = [IDENTITY, before];
  for (const turn of quarterTurns()) {
    const m = onBounds(own, theirs, turn);
    const e = away(m);
    // Of two that fit alike the one that turns less stands.
    if (e < error * 0.98) [best, error] = [m, e];
  }
  const followed = (from: Matrix, steps: number): [Matrix, number] => {
    let [m, e] = [from, away(from)];
    for (let n = 0; n < steps; n++) {
      const next = times(closer(own, movedBy(m, theirs)), m);
      const there = away(next);
      if (!(there < e * 0.9999)) break;
      [m, e] = [next, there];
    }
    return [m, e];
  };
  [best, error] = followed(best, STEPS);
  if (error > MEETS) {
    const [few, fewer] = [thinned(own, 4), thinned(theirs, 8)];
    const spreads = [spreadOf(own), spreadOf(theirs)];
    const roughly = (m: Matrix) => distances(few, movedBy(m, fewer)).reduce((a, b) => a + b, 0);
    const starts = evenTurns(TURNS)
      .map((turn) => onMiddles(spreads[0], spreads[1], turn))
      .map((m) => ({ m, e: roughly(m) }))
      .toSorted((a, b) => a.e - b.e)
      .slice(0, PROMISING);
    let found: [Matrix, number] = [best, error];
    // Each start is improved on a part of the points, which is quick, and judged by all of them.
    const [some, others] = [thinned(own, 2), thinned(theirs, 4)];
    for (const { m } of starts) {
      let near = m;
      for (let n = 0; n < FIRST_STEPS; n++) near = times(closer(some, movedBy(near, others)), near);
      const e = away(near);
      if (e < found[1]) found = [near, e];
    }
    found = followed(found[0], STEPS);
    // Of two that fit alike the one that turns less stands.
    if (found[1] < error * 0.9) [best, error] = found;
  }
  return { place: best, before, after: error };
}

/** One point out of `every`. */
const thinned = (points: Float64Array, every: number): Float64Array => points.filter((_, i) => Math.floor(i / 3) % every === 0);

/** Turns spread evenly over all that there are, rows of 3 × 3. */
function evenTurns(count: number): number[][] {
  return Array.from({ length: count }, (_, n) => {
    const s = n + 0.5;
    const [r, q] = [Math.sqrt(s / count), Math.sqrt(1 - s / count)];
    const [a, b] = [(2 * Math.PI * s) / Math.SQRT2, (2 * Math.PI * s) / 1.533751168755204];
    return rowsOf([r * Math.sin(a), r * Math.cos(a), q * Math.sin(b), q * Math.cos(b)]);
  });
}

/** Turned, then scaled and moved so that the middles of the points and their spread around those agree. */
function onMiddles(a: Spread, b: Spread, turn: number[]): Matrix {
  const scale = a.spread / (b.spread || 1);
  const turned = movedBy(matrixOf(turn, scale, [0, 0, 0]), Float64Array.from(b.middle));
  return matrixOf(
    turn,
    scale,
    a.middle.map((v, k) => v - turned[k]),
  );
}

/** The middle of points, and the root of their mean squared distance from it. */
interface Spread {
  middle: number[];
  spread: number;
}

function spreadOf(points: Float64Array): Spread {
  const count = points.length / 3;
  const middle = [0, 0, 0];
  for (let i = 0; i < points.length; i++) middle[i % 3] += points[i] / count;
  let sum = 0;
  for (let i = 0; i < points.length; i++) sum += (points[i] - middle[i % 3]) ** 2;
  return { middle, spread: Math.sqrt(sum / count) };
}

/** Worth offering: it lies off by more than a fit would leave. Two scatters of one surface are some 0.03 apart. */
export const worthFitting = ({ before, after }: Pick<Fit, 'before' | 'after'>): boolean => before > 0.05 && after < before * 0.7;

const IDENTITY: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** Points spread over a surface evenly by area, the same each time. */
function scattered({ positions: p, indices }: Shape, count: number, seed: number): Float64Array | null {
  const faces = indices.length / 3;
  const sums = new Float64Array(faces);
  let all = 0;
  const corner = (f: number, k: number) => indices[f * 3 + k] * 3;
  for (let f = 0; f < faces; f++) {
    const [a, b, c] = [0, 1, 2].map((k) => corner(f, k));
    const [u, v] = [b, c].map((q) => [0, 1, 2].map((k) => p[q + k] - p[a + k]));
    const area = Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
    sums[f] = all += Number.isFinite(area) ? area : 0;
  }
  if (!(all > 0)) return null;
  const out = new Float64Array(count * 3);
  const unit = (n: number) => mix32(n * 7919 + seed) / 4294967296;
  for (let n = 0, f = 0; n < count; n++) {
    const at = ((n + unit(n * 3)) / count) * all;
    while (f < faces - 1 && sums[f] < at) f++;
    let [s, t] = [unit(n * 3 + 1), unit(n * 3 + 2)];
    if (s + t > 1) [s, t] = [1 - s, 1 - t];
    for (let k = 0; k < 3; k++)
      out[n * 3 + k] = p[corner(f, 0) + k] * (1 - s - t) + p[corner(f, 1) + k] * s + p[corner(f, 2) + k] * t;
  }
  return out;
}

function extentOf(points: Float64Array) {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < points.length; i++) {
    low[i % 3] = Math.min(low[i % 3], points[i]);
    high[i % 3] = Math.max(high[i % 3], points[i]);
  }
  const middle = low.map((v, k) => (v + high[k]) / 2);
  const sides = low.map((v, k) => high[k] - v);
  return { middle, size: Math.max(...sides), diagonal: Math.hypot(...sides) };
}

function movedBy(m: Matrix, points: Float64Array): Float64Array {
  const out = new Float64Array(points.length);
  for (let i = 0; i < points.length; i += 3)
    for (let r = 0; r < 3; r++) out[i + r] = m[r] * points[i] + m[4 + r] * points[i + 1] + m[8 + r] * points[i + 2] + m[12 + r];
  return out;
}

/** Of each point the distance to the nearest of others; `nearest`: which. */
function distances(points: Float64Array, others: Float64Array, nearest?: Int32Array): number[] {
  const out: number[] = [];
  for (let i = 0; i < points.length; i += 3) {
    let [best, at] = [Infinity, 0];
    for (let o = 0; o < others.length; o += 3) {
      const x = others[o] - points[i];
      const y = others[o + 1] - points[i + 1];
      const z = others[o + 2] - points[i + 2];
      const d = x * x + y * y + z * z;
      if (d < best) [best, at] = [d, o];
    }
    if (nearest) nearest[i / 3] = at;
    out.push(Math.sqrt(best));
  }
  return out;
}

/** The 24 turns of axes onto axes, rows of 3 × 3; none first. */
function quarterTurns(): number[][] {
  const out: number[][] = [];
  for (const order of [
    [0, 1, 2],
    [0, 2, 1],
    [1, 0, 2],
    [1, 2, 0],
    [2, 0, 1],
    [2, 1, 0],
  ])
    for (let signs = 0; signs < 8; signs++) {
      const m = new Array<number>(9).fill(0);
      order.forEach((axis, r) => (m[r * 3 + axis] = signs & (1 << r) ? -1 : 1));
      const [a, b, c, d, e, f, g, h, i] = m;
      // Mirror images are no turns.
      if (a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g) > 0) out.push(m);
    }
  return out;
}

/** Turned, then scaled and moved so that the bounds agree. */
function onBounds(own: Float64Array, theirs: Float64Array, turn: number[]): Matrix {
  const turned = movedBy(matrixOf(turn, 1, [0, 0, 0]), theirs);
  const [a, b] = [extentOf(own), extentOf(turned)];
  const scale = a.diagonal / (b.diagonal || 1);
  return matrixOf(
    turn,
    scale,
    a.middle.map((v, k) => v - b.middle[k] * scale),
  );
}

/** Rows of a turn, a scale and a move, as 16 numbers column by column. */
function matrixOf(turn: number[], scale: number, move: number[]): Matrix {
  const out = [...IDENTITY];
  for (let r = 0; r < 3; r++) {
    for (let c = 0; c < 3; c++) out[c * 4 + r] = turn[r * 3 + c] * scale;
    out[12 + r] = move[r];
  }
  return out;
}

function times(a: Matrix, b: Matrix): Matrix {
  const out = new Array<number>(16).fill(0);
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++) for (let k = 0; k < 4; k++) out[c * 4 + r] += a[k * 4 + r] * b[c * 4 + k];
  return out;
}

/** The similarity that brings points of the twin nearest to those of the model that they are closest to. */
function closer(own: Float64Array, moved: Float64Array): Matrix {
  const nearest = new Int32Array(own.length / 3);
  const away = distances(own, moved, nearest);
  const most = away.toSorted((a, b) => a - b)[Math.floor(away.length * TRIMMED)] ?? Infinity;
  const pairs = [...nearest.keys()].filter((n) => away[n] <= most);
  const mean = (of: (n: number) => number[]) =>
    pairs.reduce((sum, n) => of(n).map((v, k) => sum[k] + v / pairs.length), [0, 0, 0]);
  const to = (n: number) => [own[n * 3], own[n * 3 + 1], own[n * 3 + 2]];
  const from = (n: number) => [moved[nearest[n]], moved[nearest[n] + 1], moved[nearest[n] + 2]];
  const [a, b] = [mean(from), mean(to)];
  const s = new Array<number>(9).fill(0);
  let [spread, spreadTo] = [0, 0];
  for (const n of pairs) {
    const [p, q] = [from(n).map((v, k) => v - a[k]), to(n).map((v, k) => v - b[k])];
    for (let r = 0; r < 3; r++) {
      spread += p[r] * p[r];
      spreadTo += q[r] * q[r];
      for (let c = 0; c < 3; c++) s[r * 3 + c] += p[r] * q[c];
    }
  }
  const turn = turnOf(s);
  const scale = spread > 0 ? Math.sqrt(spreadTo / spread) : 1;
  const moved0 = [0, 1, 2].map((r) => turn[r * 3] * a[0] + turn[r * 3 + 1] * a[1] + turn[r * 3 + 2] * a[2]);
  return matrixOf(
    turn,
    scale,
    b.map((v, k) => v - moved0[k] * scale),
  );
}

/** Horn: the quaternion of the best turn is the eigenvector of the largest eigenvalue of a symmetric 4 × 4 matrix. */
function turnOf([xx, xy, xz, yx, yy, yz, zx, zy, zz]: number[]): number[] {
  const n = [
    [xx + yy + zz, yz - zy, zx - xz, xy - yx],
    [yz - zy, xx - yy - zz, xy + yx, zx + xz],
    [zx - xz, xy + yx, yy - xx - zz, yz + zy],
    [xy - yx, zx + xz, yz + zy, zz - xx - yy],
  ];
  // Made positive, repeated multiplication goes to the largest.
  const lift = Math.max(...n.map((row) => row.reduce((sum, v) => sum + Math.abs(v), 0)));
  let q = [1, 1e-3, 2e-3, 3e-3];
  for (let k = 0; k < 400; k++) {
    const next = n.map((row, r) => row.reduce((sum, v, c) => sum + v * q[c], 0) + lift * q[r]);
    const l = Math.hypot(...next) || 1;
    q = next.map((v) => v / l);
  }
  return rowsOf(q);
}

/** The turn of a unit quaternion, rows of 3 × 3. */
function rowsOf([w, x, y, z]: number[]): number[] {
  return [
    ...[1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
    ...[2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
    ...[2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
  ];
}
