/** Texels read a few steps away along the surface: what smear and blur do for each texel that they come to. */
import type { TexelRect } from './dabs';

/** What is read: premultiplied texels by tile, in a grid of tiles over the sheet. */
export interface ReadTiles {
  readonly channels: 2 | 4;
  readonly width: number;
  readonly height: number;
  readonly wrapU: boolean;
  readonly wrapV: boolean;
  /** Where tiles lie in the kernels' memory, row by row; −1: not asked for yet, 0: there is none. */
  readonly addresses: Int32Array;
  /** The n-th of them; null: there is nothing. */
  tileAt(n: number): Float32Array | null;
}

/** What leads over a mesh's edges (core/mesh/ways.ts). */
export interface WayTables {
  /** Six numbers a face: a matrix from places to weights, and the place of corner 0. */
  into: Float64Array;
  beyond: Int32Array;
  /** Six numbers an edge. */
  foldings: Float64Array;
  /** By edge: 0 not worked out yet, 1 worked out, 2 the way ends there. */
  folded: Uint8Array;
  hidden: Uint8Array;
  corners: Float32Array;
  /** Works an edge out. */
  foldEdge(edge: number): void;
}

/** Steps from a texel: by faces, four numbers each in a slot of a table; off the model by offsets in the sheet. */
export interface StepTables {
  count: number;
  weights: Float32Array;
  inSheet: Float64Array;
  slots: Int32Array;
  table: Float64Array;
}

export interface StepKernels {
  /**
   * For each texel of a tile's rectangle where `want` is above 0 and `done` is 0: own + Σ weight · (what is read at a step −
   * own); of one step of weight 1 what is read. `faces`: of the tile; null: none. (left, top): the middle of its first texel.
   * false: something lies outside the kernels' memory, and nothing counts as done.
   */
  readSteps(
    tiles: ReadTiles,
    ways: WayTables | null,
    steps: StepTables,
    of: { faces: Int32Array | null; left: number; top: number; own: Float32Array | null },
    out: Float32Array,
    want: Float32Array,
    done: Uint8Array | null,
    rect: TexelRect,
  ): boolean;
  /** own += (taken − own) · share · strength where a dab gives something: `channels` × float32 a texel, in one float32 order. */
  mixIn(own: Float32Array, taken: Float32Array, share: Float32Array, strength: number, channels: 2 | 4, rect: TexelRect): void;
}
