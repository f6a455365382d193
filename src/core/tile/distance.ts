/**
 * Exact Euclidean distances. P. Felzenszwalb and D. Huttenlocher, "Distance Transforms of Sampled Functions", Theory of
 * Computing 8, 2012: the lower envelope of parabolas, first down the columns (where it is two sweeps), then along the rows.
 */

import { kernels } from '../kernels';

/** Farther than any texel of a sheet. */
export const FAR_SQUARED = 1e12;

/**
 * Squared distance of every texel to the nearest one where `inside` says 1 (or 0, with `to` 0), in texels, row by row;
 * FAR_SQUARED where there is none.
 */
export function squaredDistances(inside: Uint8Array, width: number, height: number, to: 0 | 1, out: Float32Array): void {
  const far = 1e6;
  // Down: distance to the nearest above in the same column.
  for (let x = 0; x < width; x++) out[x] = inside[x] === to ? 0 : far;
  for (let y = 1, i = width; y < height; y++)
    for (let x = 0; x < width; x++, i++) out[i] = inside[i] === to ? 0 : out[i - width] + 1;
  kernels().distanceRows(out, width, far, FAR_SQUARED);
}

/**
 * Signed distance to the outline of what is inside, in texels: positive inside. The outline runs between texels, so
 * that the first one inside has 0.5 and the first outside −0.5.
 */
export function signedDistances(inside: Uint8Array, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height);
  const other = new Float32Array(width * height);
  squaredDistances(inside, width, height, 0, out);
  squaredDistances(inside, width, height, 1, other);
  for (let i = 0; i < out.length; i++) out[i] = inside[i] ? Math.sqrt(out[i]) - 0.5 : 0.5 - Math.sqrt(other[i]);
  return out;
}
