/**
 * Gaussian weights, and for wide ones a way around most of the work: as many samples as the blur can tell apart.
 *
 * A Gaussian of σ ≥ 8 texels is carried out on every `factor`-th sample (σ / factor is 4 to 8), taken through a cubic
 * B-spline and brought back through one. Each has the variance factor² / 3, the Gaussian on the samples has the rest:
 * variances of filters that follow each other add up. What differs from the Gaussian is the fourth cumulant,
 * −0.6 · (factor / σ)⁴ / 9 of σ⁴, under 3e-4, which moves the step from dark to bright by under 1e-5. (M. Unser, A. Aldroubi
 * and M. Eden, "Fast B-spline transforms for continuous image representation and interpolation", IEEE Transactions on
 * Pattern Analysis and Machine Intelligence 13 (3), 1991, for splines as smoothing kernels.)
 */
import type { WidePlan } from '../../../kernels/kernels';

/** Weights of the centre and one side, cut at 4σ (beyond lie 6e-5 of it): w[0] + 2·Σ w[k] = 1. */
export function gaussianSide(sigma: number): Float32Array {
  const radius = Math.ceil(sigma * 4);
  const w = Float32Array.from({ length: radius + 1 }, (_, k) => Math.exp((-k * k) / (2 * sigma * sigma)));
  let sum = w[0];
  for (let k = 1; k <= radius; k++) sum += 2 * w[k];
  return w.map((v) => v / sum);
}

/** The cubic B-spline: four pieces of width 1 around 0. Its integers shifts sum to 1. */
export function cubicSpline(x: number): number {
  const t = Math.abs(x);
  if (t < 1) return 2 / 3 - t * t + (t * t * t) / 2;
  return t < 2 ? (2 - t) ** 3 / 6 : 0;
}

/** From this σ on blurs go by samples. */
export const WIDE_FROM = 8;
const MOST_FACTOR = 32;

/** Null: narrow, by its weights. */
export function widePlan(sigma: number): WidePlan | null {
  if (sigma < WIDE_FROM) return null;
  const factor = Math.min(MOST_FACTOR, 2 ** Math.floor(Math.log2(sigma / 4)));
  const taps = 4 * factor;
  const middle = (taps - 1) / 2;
  const decimate = Float32Array.from({ length: taps }, (_, k) => cubicSpline((k - middle) / factor) / factor);
  const sum = decimate.reduce((a, b) => a + b);
  let spread = 0;
  for (let k = 0; k < taps; k++) spread += (decimate[k] /= sum) * (k - middle) ** 2;
  const side = gaussianSide(Math.sqrt(sigma * sigma - spread - (factor * factor) / 3) / factor);
  // Texel φ of a factor lies (φ − (factor − 1) / 2) / factor samples from the one in its middle.
  const period = Math.max(1, factor / 4);
  const step = Math.max(1, 4 / factor);
  const refineTaps = step + 4;
  const table = new Float32Array(period * refineTaps * 4);
  for (let x = 0; x < period * 4; x++)
    for (let k = 0; k < refineTaps; k++)
      // The first sample lies two before the first texel's own.
      table[((x >> 2) * refineTaps + k) * 4 + (x & 3)] = cubicSpline((x - (factor - 1) / 2) / factor - (k - 2));
  return { factor, decimate, side, period, step, taps: refineTaps, table, radius: factor * (side.length - 1 + 3.5) };
}
