/**
 * Normal from height, tangent space, glTF convention (X right, Y up in texture space, Z out; glTF 2.0,
 * section 3.9.3): with h(x, y) in texels and image rows running down,
 *   n ∝ (−∂h/∂x, +∂h/∂y_down, 1).
 * Slopes are estimated by separable filters: across, the binomial weights of the kernel's width; along, the difference
 * of binomials two narrower (the 3 × 3 one is Sobel's, weights 1 2 1 and −1 0 1, divided by 8). All are exact for a
 * tilted plane; wider ones smooth more: a sine of `w` texels comes out by the factor cos(π/w)^(k−1) · sinc-like terms
 * smaller (measured in the tests).
 */
import { kernels } from '../kernels';

export const NORMAL_KERNELS = [3, 5, 7, 9] as const;
export type NormalKernel = (typeof NORMAL_KERNELS)[number];

const binomial = (n: number): number[] => {
  let row = [1];
  for (let i = 0; i < n; i++) row = [1, ...row.slice(1).map((v, k) => v + row[k]), 1];
  return row;
};

const weights = new Map<NormalKernel, { smooth: Float32Array; slope: Float32Array }>();

/** Weights across (sum 1) and along (a ramp of slope 1 gives 1). */
export function kernelWeights(kernel: NormalKernel): { smooth: Float32Array; slope: Float32Array } {
  let found = weights.get(kernel);
  if (!found) {
    const smooth = binomial(kernel - 1);
    const inner = binomial(kernel - 3);
    const slope = smooth.map((_, k) => (inner[k - 2] ?? 0) - (inner[k] ?? 0));
    const sum = smooth.reduce((a, b) => a + b);
    const ramp = slope.reduce((a, v, k) => a + v * k, 0);
    found = { smooth: Float32Array.from(smooth, (v) => v / sum), slope: Float32Array.from(slope, (v) => v / ramp) };
    weights.set(kernel, found);
  }
  return found;
}

/** Reads height in texels at any integer place; the caller wraps or clamps. */
export type HeightAt = (x: number, y: number) => number;

/** Unit normal at one texel into `out` (x, y, z), by the 3 × 3 kernel, for tests and single samples. */
export function normalAt(h: HeightAt, x: number, y: number, out: Float32Array): void {
  const field = Float32Array.from({ length: 18 }, (_, i) => h(x + (i % 6) - 1, y + Math.floor(i / 6) - 1));
  const planes = new Float32Array(12);
  normalsFromField(field, 4, 1, 3, planes);
  for (let c = 0; c < 3; c++) out[c] = planes[c * 4];
}

/**
 * Normals of a region, from a height field that has (kernel − 1) / 2 more texels on each side.
 * `field`: heights in texels. `out`: three planes of width × height, unit vectors. Width is a multiple of 4.
 */
export function normalsFromField(
  field: Float32Array,
  width: number,
  height: number,
  kernel: NormalKernel,
  out: Float32Array,
): void {
  const { smooth, slope } = kernelWeights(kernel);
  kernels().normals(field, width, height, smooth, slope, out);
}
