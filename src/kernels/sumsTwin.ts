/** The twin of assembly/sums.ts: the same bits. */
import type { SumKernels } from './sums';

/** Writes into out[o … end) the sums around source[at], source[at + 1], …; the numbers that are summed lie `step` apart. */
function sumsAlong(
  source: Float64Array,
  at: number,
  step: number,
  weights: Float32Array,
  out: Float64Array,
  o: number,
  end: number,
): void {
  const { length } = weights;
  for (; o < end; o++, at++) {
    let sum = weights[0] * source[at];
    for (let k = 1, away = step; k < length; k++, away += step) sum += weights[k] * (source[at - away] + source[at + away]);
    out[o] = sum;
  }
}

export const sumsTwin: SumKernels = {
  separableSums: (plane, across, down, weights, out) => {
    const radius = weights.length - 1;
    const columns = across - 2 * radius;
    const half = new Float64Array(columns * down);
    for (let y = 0, o = 0; y < down; y++) sumsAlong(plane, y * across + radius, 1, weights, half, o, (o += columns));
    for (let y = 0, o = 0; y < down - 2 * radius; y++)
      sumsAlong(half, (y + radius) * columns, columns, weights, out, o, (o += columns));
  },
};
