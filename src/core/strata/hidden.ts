/**
 * Repeats that do not show: the picture is cut into patches on a triangle grid, each turned and shifted at random, and
 * three of them are blended at every texel so that the histogram stays. E. Heitz and F. Neyret, "High-Performance
 * By-Example Noise using a Histogram-Preserving Blending Operator", Proc. ACM Comput. Graph. Interact. Tech. 1 (2),
 * 2018: values are made Gaussian, blended with weights divided by the root of the sum of their squares, and brought
 * back. Colours go through their principal axes first (section 4.2 there), so that channels do not part.
 *
 * The patches hang on the place only, not on the map: all maps of a material move together.
 */
import type { MapKind } from './filters/filter';
import { greyOf, type Grey } from './grey';
import { sample, type PictureLevel } from './picture';
import { hash01, wrapTo, type Field } from './sources/source';

/** Steps of the tables; between them values are interpolated. */
const BINS = 2048;
/** ± standard deviations that the tables span: beyond lies 1 value in 16,000. */
const SPAN = 4;
/** Patches a repeat: each shows about half of the picture. */
const PATCHES = 2;
/** Pixels looked at for the histogram. */
const SAMPLES = 65536;

/** A value axis: to Gaussian and back, by tables. */
interface Axis {
  low: number;
  high: number;
  toGauss: Float32Array;
  fromGauss: Float32Array;
}

export interface HiddenRecipe {
  kind: MapKind;
  take: Grey;
  mean: number[];
  /** Principal axes of colour, rows of a 3 × 3 matrix; values use the first row only. */
  axes: number[][];
  tables: Axis[];
  /** Levels made Gaussian, `axes.length` float32 a pixel; null where a level is see-through. */
  levels: Map<PictureLevel, Float32Array | null>;
}

/** Inverse of the normal distribution function: P. Acklam's rational approximation, relative error below 1.2e-9. */
export function inverseNormal(p: number): number {
  const a = [
    -3.969683028665376e1, 2.209460984245205e2, -2.759285104469687e2, 1.38357751867269e2, -3.066479806614716e1, 2.506628277459239,
  ];
  const b = [-5.447609879822406e1, 1.615858368580409e2, -1.556989798598866e2, 6.680131188771972e1, -1.328068155288572e1];
  const c = [
    -7.784894002430293e-3, -3.223964580411365e-1, -2.400758277161838, -2.549732539343734, 4.374664141464968, 2.938163982698783,
  ];
  const d = [7.784695709041462e-3, 3.224671290700398e-1, 2.445134137142996, 3.754408661907416];
  const tail = (q: number) =>
    (((((c[0] * q + c[1]) * q + c[2]) * q + c[3]) * q + c[4]) * q + c[5]) / ((((d[0] * q + d[1]) * q + d[2]) * q + d[3]) * q + 1);
  if (p < 0.02425) return tail(Math.sqrt(-2 * Math.log(p)));
  if (p > 1 - 0.02425) return -tail(Math.sqrt(-2 * Math.log(1 - p)));
  const q = p - 0.5;
  const r = q * q;
  return (
    ((((((a[0] * r + a[1]) * r + a[2]) * r + a[3]) * r + a[4]) * r + a[5]) * q) /
    (((((b[0] * r + b[1]) * r + b[2]) * r + b[3]) * r + b[4]) * r + 1)
  );
}

export function hiddenRecipe(level: PictureLevel, kind: MapKind, take: Grey): HiddenRecipe {
  const { data } = level;
  const pixels = level.width * level.height;
  const stride = Math.max(1, Math.floor(pixels / SAMPLES)) | 1;
  const colours: number[][] = [];
  for (let i = 0; i < pixels; i += stride) {
    const c = [0, 1, 2, 3].map((k) => data[i * 4 + k] / 65535);
    colours.push(kind === 'value' ? [greyOf(take, c)] : c.slice(0, 3));
  }
  const size = colours[0].length;
  const mean = Array.from({ length: size }, (_, k) => colours.reduce((s, c) => s + c[k], 0) / colours.length);
  const axes = kind === 'colour' ? principalAxes(colours, mean) : identity(size);
  const tables =
    kind === 'normal'
      ? []
      : axes.map((axis) =>
          axisOf(colours.map((c) => axis.reduce((s, w, k) => s + w * (c[k] - mean[k]), 0)).sort((p, q) => p - q)),
        );
  return { kind, take, mean, axes, tables, levels: new Map() };
}

const identity = (n: number): number[][] =>
  Array.from({ length: n }, (_, i) => Array.from({ length: n }, (_, j) => (i === j ? 1 : 0)));

/** Tables from sorted values: rank to Gaussian and back. */
function axisOf(sorted: number[]): Axis {
  const count = sorted.length;
  const [low, high] = [sorted[0], Math.max(sorted[count - 1], sorted[0] + 1e-6)];
  const toGauss = new Float32Array(BINS + 1);
  for (let b = 0, r = 0; b <= BINS; b++) {
    const v = low + ((high - low) * b) / BINS;
    while (r < count && sorted[r] < v) r++;
    // Where many are equal, the middle of them.
    let q = r;
    while (q < count && sorted[q] <= v) q++;
    toGauss[b] = Math.max(-SPAN, Math.min(SPAN, inverseNormal(Math.min(count - 0.5, Math.max(0.5, (r + q) / 2)) / count)));
  }
  const fromGauss = Float32Array.from({ length: BINS + 1 }, (_, b) => {
    const at = normalShare(-SPAN + (2 * SPAN * b) / BINS) * count - 0.5;
    const i = Math.max(0, Math.min(count - 1, Math.floor(at)));
    const next = Math.min(count - 1, i + 1);
    return sorted[i] + (sorted[next] - sorted[i]) * Math.max(0, Math.min(1, at - i));
  });
  return { low, high, toGauss, fromGauss };
}

/** The normal distribution function: W. J. Cody's idea in the short form of Abramowitz and Stegun 26.2.17, error below 7.5e-8. */
function normalShare(x: number): number {
  const t = 1 / (1 + 0.2316419 * Math.abs(x));
  const tail =
    0.3989422804014327 *
    Math.exp((-x * x) / 2) *
    t *
    (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return x >= 0 ? 1 - tail : tail;
}

/** Eigenvectors of the covariance of colours, by Jacobi rotations, as rows. */
function principalAxes(colours: number[][], mean: number[]): number[][] {
  const m = identity(3).map((row, i) =>
    row.map((_, j) => colours.reduce((s, c) => s + (c[i] - mean[i]) * (c[j] - mean[j]), 0) / colours.length),
  );
  const v = identity(3);
  for (let sweep = 0; sweep < 12; sweep++)
    for (const [p, q] of [
      [0, 1],
      [0, 2],
      [1, 2],
    ]) {
      if (Math.abs(m[p][q]) < 1e-15) continue;
      const angle = 0.5 * Math.atan2(2 * m[p][q], m[q][q] - m[p][p]);
      const [c, s] = [Math.cos(angle), Math.sin(angle)];
      for (let k = 0; k < 3; k++) [m[k][p], m[k][q]] = [c * m[k][p] - s * m[k][q], s * m[k][p] + c * m[k][q]];
      for (let k = 0; k < 3; k++) [m[p][k], m[q][k]] = [c * m[p][k] - s * m[q][k], s * m[p][k] + c * m[q][k]];
      for (let k = 0; k < 3; k++) [v[k][p], v[k][q]] = [c * v[k][p] - s * v[k][q], s * v[k][p] + c * v[k][q]];
    }
  return [0, 1, 2].map((j) => v.map((row) => row[j]));
}

function through(table: Float32Array, at: number): number {
  const t = at <= 0 ? 0 : at >= BINS ? BINS : at;
  const i = Math.min(BINS - 1, Math.floor(t));
  return table[i] + (table[i + 1] - table[i]) * (t - i);
}

/** A function that writes RGBA of texel `i` of the field. Values come as grey in all three. */
export function patchesOf(
  recipe: HiddenRecipe,
  level: PictureLevel,
  field: Field,
  strength: number,
): (i: number, out: Float32Array) => void {
  const { kind, take, mean, axes, tables } = recipe;
  const size = axes.length;
  const cells = field.period.map((p) => (p === 0 ? 0 : Math.max(2, Math.round(p * PATCHES))));
  const perX = cells[0] ? cells[0] / field.period[0] : PATCHES;
  const perY = cells[1] ? cells[1] / field.period[1] : PATCHES;
  const texel = new Float32Array(4);
  const sum = new Float64Array(3);
  const plain = new Float64Array(3);
  /** Values of a sample on the axes, made Gaussian; directions stay what they are, turned back by `cos` and `sin`. */
  const gauss = (into: Float64Array, weight: number, cos: number, sin: number) => {
    if (kind === 'normal') {
      const x = texel[0] * 2 - 1;
      const y = texel[1] * 2 - 1;
      into[0] += weight * (cos * x + sin * y);
      into[1] += weight * (-sin * x + cos * y);
      return;
    }
    const c = kind === 'value' ? null : texel;
    const grey = c ? 0 : greyOf(take, texel) - mean[0];
    for (let a = 0; a < size; a++) {
      const axis = axes[a];
      const v = c ? axis[0] * (c[0] - mean[0]) + axis[1] * (c[1] - mean[1]) + axis[2] * (c[2] - mean[2]) : grey;
      const { low, high, toGauss } = tables[a];
      into[a] += weight * through(toGauss, ((v - low) / (high - low)) * BINS);
    }
  };
  return (i, out) => {
    const x = field.x[i];
    const y = field.y[i];
    const gx = x * perX;
    const gy = y * perY;
    const cx = Math.floor(gx);
    const cy = Math.floor(gy);
    const fx = gx - cx;
    const fy = gy - cy;
    const upper = fx + fy > 1;
    sum.fill(0);
    let alpha = 0;
    let squares = 0;
    for (let k = 0; k < 3; k++) {
      // Corners of the triangle: (0,0) (1,0) (0,1) or (1,1) (0,1) (1,0).
      const dx = k === 1 ? (upper ? 0 : 1) : upper && k === 0 ? 1 : k === 2 && upper ? 1 : 0;
      const dy = k === 2 ? (upper ? 0 : 1) : upper ? 1 : 0;
      const w = k === 0 ? (upper ? fx + fy - 1 : 1 - fx - fy) : k === 1 ? (upper ? 1 - fx : fx) : upper ? 1 - fy : fy;
      if (w <= 0) continue;
      const vx = wrapTo(cx + dx, cells[0]);
      const vy = wrapTo(cy + dy, cells[1]);
      const angle = hash01(vx, vy, 11) * 2 * Math.PI;
      const cos = Math.cos(angle);
      const sin = Math.sin(angle);
      const px = x - (cx + dx) / perX;
      const py = y - (cy + dy) / perY;
      sample(level, cos * px - sin * py + hash01(vx, vy, 23), sin * px + cos * py + hash01(vx, vy, 37), texel);
      gauss(sum, w, cos, -sin);
      alpha += w * texel[3];
      squares += w * w;
    }
    const norm = 1 / Math.sqrt(squares);
    for (let a = 0; a < 3; a++) sum[a] *= norm;
    if (strength < 1) {
      plain.fill(0);
      sample(level, x, y, texel);
      gauss(plain, 1, 1, 0);
      alpha = alpha * strength + texel[3] * (1 - strength);
      const share = 1 / Math.hypot(strength, 1 - strength);
      for (let a = 0; a < 3; a++) sum[a] = (strength * sum[a] + (1 - strength) * plain[a]) * share;
    }
    out[3] = alpha;
    if (kind === 'normal') {
      const l = Math.hypot(sum[0], sum[1]);
      const k = l > 0.98 ? 0.98 / l : 1;
      out[0] = sum[0] * k * 0.5 + 0.5;
      out[1] = sum[1] * k * 0.5 + 0.5;
      out[2] = Math.sqrt(1 - (l * k) ** 2) * 0.5 + 0.5;
      return;
    }
    for (let a = 0; a < size; a++) sum[a] = through(tables[a].fromGauss, ((sum[a] + SPAN) / (2 * SPAN)) * BINS);
    if (kind === 'value') {
      // Alpha is asked for by its own place, the rest by any of the colours.
      const v = sum[0] + mean[0];
      out[0] = out[1] = out[2] = v;
      if (take === 'alpha') out[3] = v;
    } else for (let c = 0; c < 3; c++) out[c] = mean[c] + axes[0][c] * sum[0] + axes[1][c] * sum[1] + axes[2][c] * sum[2];
  };
}

/** A level on its axes and made Gaussian, once for all that is laid from it; null if it is see-through anywhere. */
function gaussianLevel(recipe: HiddenRecipe, level: PictureLevel): Float32Array | null {
  const known = recipe.levels.get(level);
  if (known !== undefined) return known;
  const { kind, take, mean, axes, tables } = recipe;
  const pixels = level.width * level.height;
  const { data } = level;
  let out: Float32Array | null = new Float32Array(pixels * axes.length);
  const c = [0, 0, 0, 0];
  for (let i = 0; i < pixels && out; i++) {
    for (let k = 0; k < 4; k++) c[k] = data[i * 4 + k] / 65535;
    if (c[3] < 1) out = null;
    else
      for (let a = 0; a < axes.length; a++) {
        const v = kind === 'value' ? greyOf(take, c) - mean[0] : axes[a].reduce((s, w, k) => s + w * (c[k] - mean[k]), 0);
        const { low, high, toGauss } = tables[a];
        out[i * axes.length + a] = through(toGauss, ((v - low) / (high - low)) * BINS);
      }
  }
  recipe.levels.set(level, out);
  return out;
}

/**
 * All texels of a field at full strength from a level that is solid: values or colours into `out`, `size` planes of the
 * field's length. What `patchesOf` gives, five times as quick: the corners of the triangle at hand and the Gaussian
 * pixels are kept ready. Says false where it cannot (directions, see-through pictures); then nothing is written.
 */
export function fillHidden(
  recipe: HiddenRecipe,
  level: PictureLevel,
  field: Field,
  skip: Float32Array | null,
  out: Float32Array,
): boolean {
  const { kind, mean, axes, tables } = recipe;
  if (kind === 'normal') return false;
  const gauss = gaussianLevel(recipe, level);
  if (!gauss) return false;
  const size = axes.length;
  const { width, height } = level;
  const { n } = field;
  const cells = field.period.map((p) => (p === 0 ? 0 : Math.max(2, Math.round(p * PATCHES))));
  const perX = cells[0] ? cells[0] / field.period[0] : PATCHES;
  const perY = cells[1] ? cells[1] / field.period[1] : PATCHES;
  // Corner by corner: where it lies, its turn and its shift.
  const corner = new Float64Array(18);
  let [lastX, lastY, lastUpper] = [NaN, NaN, false];
  for (let i = 0; i < n; i++) {
    if (skip && skip[i] === 0) continue;
    const x = field.x[i];
    const y = field.y[i];
    const gx = x * perX;
    const gy = y * perY;
    const cx = Math.floor(gx);
    const cy = Math.floor(gy);
    const fx = gx - cx;
    const fy = gy - cy;
    const upper = fx + fy > 1;
    if (cx !== lastX || cy !== lastY || upper !== lastUpper) {
      [lastX, lastY, lastUpper] = [cx, cy, upper];
      for (let k = 0; k < 3; k++) {
        const dx = k === 1 ? (upper ? 0 : 1) : upper ? 1 : 0;
        const dy = k === 2 ? (upper ? 0 : 1) : upper ? 1 : 0;
        const vx = wrapTo(cx + dx, cells[0]);
        const vy = wrapTo(cy + dy, cells[1]);
        const angle = hash01(vx, vy, 11) * 2 * Math.PI;
        corner[k * 6] = (cx + dx) / perX;
        corner[k * 6 + 1] = (cy + dy) / perY;
        corner[k * 6 + 2] = Math.cos(angle);
        corner[k * 6 + 3] = Math.sin(angle);
        corner[k * 6 + 4] = hash01(vx, vy, 23);
        corner[k * 6 + 5] = hash01(vx, vy, 37);
      }
    }
    const w0 = upper ? fx + fy - 1 : 1 - fx - fy;
    const w1 = upper ? 1 - fx : fx;
    const w2 = upper ? 1 - fy : fy;
    let s0 = 0;
    let s1 = 0;
    let s2 = 0;
    for (let k = 0; k < 3; k++) {
      const w = k === 0 ? w0 : k === 1 ? w1 : w2;
      if (w <= 0) continue;
      const o = k * 6;
      const px = x - corner[o];
      const py = y - corner[o + 1];
      const u = corner[o + 2] * px - corner[o + 3] * py + corner[o + 4];
      const v = corner[o + 3] * px + corner[o + 2] * py + corner[o + 5];
      const tx = (u - Math.floor(u)) * width - 0.5;
      const ty = (v - Math.floor(v)) * height - 0.5;
      const ix = Math.floor(tx);
      const iy = Math.floor(ty);
      const ax = tx - ix;
      const ay = ty - iy;
      const x0 = ix < 0 ? width - 1 : ix;
      const y0 = iy < 0 ? height - 1 : iy;
      const x1 = x0 + 1 === width ? 0 : x0 + 1;
      const y1 = y0 + 1 === height ? 0 : y0 + 1;
      const a = (y0 * width + x0) * size;
      const b = (y0 * width + x1) * size;
      const c = (y1 * width + x0) * size;
      const d = (y1 * width + x1) * size;
      const wd = ax * ay * w;
      const wb = ax * w - wd;
      const wc = ay * w - wd;
      const wa = w - ax * w - wc;
      s0 += gauss[a] * wa + gauss[b] * wb + gauss[c] * wc + gauss[d] * wd;
      if (size === 3) {
        s1 += gauss[a + 1] * wa + gauss[b + 1] * wb + gauss[c + 1] * wc + gauss[d + 1] * wd;
        s2 += gauss[a + 2] * wa + gauss[b + 2] * wb + gauss[c + 2] * wc + gauss[d + 2] * wd;
      }
    }
    const scale = BINS / (2 * SPAN) / Math.sqrt(w0 * w0 + w1 * w1 + w2 * w2);
    const p0 = through(tables[0].fromGauss, s0 * scale + BINS / 2);
    if (size === 1) out[i] = p0 + mean[0];
    else {
      const p1 = through(tables[1].fromGauss, s1 * scale + BINS / 2);
      const p2 = through(tables[2].fromGauss, s2 * scale + BINS / 2);
      out[i] = mean[0] + axes[0][0] * p0 + axes[1][0] * p1 + axes[2][0] * p2;
      out[n + i] = mean[1] + axes[0][1] * p0 + axes[1][1] * p1 + axes[2][1] * p2;
      out[2 * n + i] = mean[2] + axes[0][2] * p0 + axes[1][2] * p1 + axes[2][2] * p2;
    }
  }
  return true;
}
