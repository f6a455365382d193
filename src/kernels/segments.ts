/** How far places lie from segments: the edges of a model (core/mesh/sharpEdges.ts). */

/** Numbers a segment: one end, the way to the other, a normal, one over the way's square (0 where it has no length). */
export const SEGMENT_NUMBERS = 10;
/** Planes of a list of places: x y z, normal x y z. */
export const PLACE_PLANES = 6;
/** How far a surface may turn away from a segment's normal (cosine) and still be one of its two sides. */
export const SIDE = 0.05;

export interface SegmentKernels {
  /**
   * Of `count` places (a multiple of 4; six planes of `stride` numbers) the least distance to those of `listed` segments whose
   * normals they do not turn away from; `reach` where it is more.
   */
  segments(
    places: Float32Array,
    stride: number,
    count: number,
    list: Float32Array,
    listed: number,
    reach: number,
    out: Float32Array,
  ): void;
}
