/** How a surface bends around places, from samples of it that lie near (core/rays/curvature.ts). */

/** Planes of a list of samples: place x y z, measure, normal x y z. */
export const BEND_PLANES = 7;

export interface BendKernels {
  /**
   * Of `count` points (place and normal, 6 × float32 each) the sum of the measures of the samples within the radius, weighed by
   * (1 − d²/r²)², of those only that lie on the same side. `near`: seven planes of `stride` numbers; `listed`, a multiple of 4,
   * of them count. All of it float32 in the kernels' arena.
   */
  bends(
    points: Float32Array,
    count: number,
    near: Float32Array,
    stride: number,
    listed: number,
    radius: number,
    out: Float32Array,
  ): void;
}
