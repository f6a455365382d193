/** Weighted sums around the numbers of a plane, in double precision and always in the same order: the same bits on every machine. */

export interface SumKernels {
  /**
   * A plane of across × down numbers, row by row, summed along rows and then along columns: weight 0 for a number itself, weight k for the
   * two that lie k away. The result has `weights.length − 1` fewer numbers on each side; its columns are a multiple of 4.
   */
  separableSums(plane: Float64Array, across: number, down: number, weights: Float32Array, out: Float64Array): void;
}
