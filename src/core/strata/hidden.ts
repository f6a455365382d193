/**
 * Repeats that do not show: the picture is cut into patches on a triangle grid, each turned and shifted at random, and
 * three of them are blended at every texel so that the histogram stays. E. Heitz and F. Neyret, "High-Performance
 * By-Example Noise using a Histogram-Preserving Blending Operator", Proc. ACM Comput. Graph. Interact. Tech. 1 (2),
 * 2018: values are made Gaussian, blended with weights divided by the root of the sum of their squares, and brought
 * back. Colours go through their principal axes first (section 4.2 there), so that channels do not part.
 *
 * The patches (strata/taps.ts) hang on the place only, not on the map: all maps of a material move together. Here is
 * what histograms need.
 */
import { TABLE_BINS } from '../../kernels/taps';
import type { MapKind } from '../kinds/filters/filter';
import { greyOf, type Grey } from '../kinds/grey';
import type { PictureLevel } from './pictureLevel';

/** Steps of the tables; between them values are interpolated. */
const BINS = TABLE_BINS;
/** ± standard deviations that the tables span: beyond lies 1 value in 16,000. */
export const SPAN = 4;
export const BINS_A_DEVIATION = BINS / (2 * SPAN);
/** Pixels looked at for the histogram. */
const SAMPLES = 65536;

/** A value axis on its way to Gaussian, by a table. */
export interface Axis {
  low: number;
  high: number;
  toGauss: Float32Array;
}

export interface HiddenRecipe {
  mean: number[];
  /** Principal axes of colour, rows of a 3 × 3 matrix; values use the first row only. */
  axes: number[][];
  tables: Axis[];
  /** The way back of all tables in a row, and how many bins a standard deviation has there. */
  back: Float32Array;
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

export function hiddenRecipe(level: PictureLevel, kind: Exclude<MapKind, 'normal'>, take: Grey): HiddenRecipe {
  const { data } = level;
  const pixels = level.width * level.height;
  const stride = Math.max(1, Math.floor(pixels / SAMPLES)) | 1;
  const colours: number[][] = [];
  for (let i = 0; i < pixels; i += stride) {
    // What is not there has no say, unless nothing is.
    if (data[i * 4 + 3] === 0 && take !== 'alpha') continue;
    const c = [0, 1, 2, 3].map((k) => data[i * 4 + k] / 65535);
    colours.push(kind === 'value' ? [greyOf(take, c)] : c.slice(0, 3));
  }
  const size = kind === 'value' ? 1 : 3;
  if (!colours.length) colours.push(new Array<number>(size).fill(0));
  const mean = Array.from({ length: size }, (_, k) => colours.reduce((s, c) => s + c[k], 0) / colours.length);
  const axes = kind === 'colour' ? principalAxes(colours, mean) : identity(size);
  const sorted = axes.map((axis) =>
    colours.map((c) => axis.reduce((s, w, k) => s + w * (c[k] - mean[k]), 0)).sort((p, q) => p - q),
  );
  const back = new Float32Array(sorted.length * (BINS + 1));
  sorted.forEach((values, n) => back.set(fromGauss(values), n * (BINS + 1)));
  return { mean, axes, tables: sorted.map(toGauss), back };
}

const identity = (n: number): number[][] =>
  Array.from({ length: n }, (_, i) => Array.from({ length: n }, (_, j) => (i === j ? 1 : 0)));

/** From sorted values: rank to Gaussian. */
function toGauss(sorted: number[]): Axis {
  const count = sorted.length;
  const [low, high] = [sorted[0], Math.max(sorted[count - 1], sorted[0] + 1e-6)];
  const table = new Float32Array(BINS + 1);
  for (let b = 0, r = 0; b <= BINS; b++) {
    const v = low + ((high - low) * b) / BINS;
    while (r < count && sorted[r] < v) r++;
    // Where many are equal, the middle of them.
    let q = r;
    while (q < count && sorted[q] <= v) q++;
    table[b] = Math.max(-SPAN, Math.min(SPAN, inverseNormal(Math.min(count - 0.5, Math.max(0.5, (r + q) / 2)) / count)));
  }
  return { low, high, toGauss: table };
}

/** And back. */
function fromGauss(sorted: number[]): Float32Array {
  const count = sorted.length;
  return Float32Array.from({ length: BINS + 1 }, (_, b) => {
    const at = normalShare(-SPAN + (2 * SPAN * b) / BINS) * count - 0.5;
    const i = Math.max(0, Math.min(count - 1, Math.floor(at)));
    const next = Math.min(count - 1, i + 1);
    return sorted[i] + (sorted[next] - sorted[i]) * Math.max(0, Math.min(1, at - i));
  });
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
  const i = t >= BINS ? BINS - 1 : t | 0;
  return table[i] + (table[i + 1] - table[i]) * (t - i);
}

/** A value around the mean, as a standard Gaussian within ± SPAN. */
export const gaussOf = ({ low, high, toGauss }: Axis, v: number): number => through(toGauss, ((v - low) / (high - low)) * BINS);
