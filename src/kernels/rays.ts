/**
 * Rays among triangles: what a bake asks of a model (core/bake). A scene is a tree of boxes, four a node, over packets of up to
 * four triangles; core/bake/tree.ts makes it.
 *
 * A node (64 bytes): float32 origin x y z, float32 step x y z; per axis x, y, z four low sides, then four high sides, uint8, in
 * steps from the origin; four children, uint32: a node's number, or LEAF | a packet's. An empty place has low sides of 255 and
 * high ones of 0, which no ray meets. A packet (160 bytes): four lanes each of a corner x y z, an edge to the second corner and
 * one to the third, float32; then four faces, uint32. An empty lane has edges of zero.
 */
export const NODE_BYTES = 64;
export const PACKET_BYTES = 160;
export const LEAF = 0x80000000;
export const NO_FACE = 0xffffffff;

export interface Tree {
  nodes: Uint8Array;
  packets: Uint8Array;
}

/** Numbers a point: place, normal, normal of the face's plane (float32 × 3 each), seed (uint32, its lower 16 bits count), two unused. */
export const POINT_NUMBERS = 12;
/** Numbers a ray: from, direction (float32 × 3 each), near and far, in lengths of the direction. */
export const RAY_NUMBERS = 8;
/** So many points or rays at a time. */
export const MOST_POINTS = 4096;

/** Directions to look into: `sets` × `samples` × 3 float32, unit, around Z; each point takes one of the sets, turned by its seed. */
export interface Directions {
  sets: number;
  samples: number;
  data: Float32Array;
}
export const MOST_DIRECTIONS = 256 * 256;
export const TURN_COUNT = 256;
/** Cosine and sine of the turns around the normal that seeds choose from. */
export const RAY_TURNS = Float32Array.from({ length: TURN_COUNT * 2 }, (_, i) =>
  (i % 2 ? Math.sin : Math.cos)(((i >> 1) * 2 * Math.PI) / TURN_COUNT),
);

/** A tree that can be asked. */
export interface Rays {
  /**
   * Of `count` points the share of the directions that is open up to `reach`, and the mean of the open ones: 4 × float32 each.
   * `cull`: only fronts of faces stand in the way. `bias`: how far off the face rays begin.
   */
  occlusion(
    points: Float32Array,
    count: number,
    to: Directions,
    how: { reach: number; bias: number; cull: boolean },
    out: Float32Array,
  ): void;
  /** Of each the mean way inwards, around the normal turned round, until something is hit; at most `reach`. */
  depth(points: Float32Array, count: number, to: Directions, how: { reach: number; bias: number }, out: Float32Array): void;
  /** Of each ray its nearest hit: distance (−1: none), weights of the second and third corner, face (uint32). Equal distances: the lower face. */
  hits(rays: Float32Array, count: number, cull: boolean, out: Float32Array): void;
}
