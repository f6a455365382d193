/** What an eye sees of texels, block by block, by a buffer of the faces that are drawn before it (core/hand/sight.ts). */

/** Texels a side of a block of a tile. */
export const BLOCK_SIDE = 8;

/** Where numbers stand in `settings`: the matrix (12), the box (4), the buffer's scale, columns and rows. */
export const SETTINGS = { matrix: 0, box: 12, scale: 16, columns: 17, rows: 18 } as const;
export const SETTINGS_COUNT = 19;

/** Faces of a block of which a texel is asked whether it is seen; more, and all texels are. */
export const MOST_ASKED = 24;
/** Of a block that is taken as a whole: more pixels than this and it is quicker to go through its texels. */
export const MOST_PIXELS = 256;
/** What lies nearer than this share of the distance is the same surface: places are float32, faces meet at their edges. */
export const NEARER = 2e-5;
/**
 * A face too small to be drawn may stand out of what is drawn there by so many of its own depths. Tried on twenty views of the
 * demo's models: 1.5 leaves out texels that are seen, 2 lets some through that are not.
 */
export const OWN_DEPTHS = 1.7;

export interface EyeBuffer {
  settings: Float64Array;
  /** By face: 1 turned to the eye, −1 away, 0 not there. */
  facing: Int8Array;
  /** Per face three edge functions a · x + b · y + c in pane pixels, each a corner's weight over w. */
  edges: Float64Array;
  /** The face that is drawn in each pixel, −1: none. A rim of one pixel lies around. Empty: nothing is asked of it. */
  buffer: Int32Array;
  /** By pixel, 0: not asked yet; 1: the surface goes on there; 2: it does not. */
  smooth: Uint8Array;
  /** Welded vertex of each corner; the mesh. */
  corner: Uint32Array;
  positions: Float32Array;
  indices: Uint32Array;
  /** Of the texels that were projected last: where they lie in the tile, and in the pane, one over their distance, and 1: seen. */
  texel: Int32Array;
  x: Float64Array;
  y: Float64Array;
  near: Float64Array;
  seen: Uint8Array;
}

export interface TilePlaces {
  face: Int32Array;
  position: Float32Array;
}

export interface SeenKernels {
  /** Texels of a block that lie in the box, on faces turned to the eye (`backs`: or away), and whether they are seen; how many. */
  projectBlock(eye: EyeBuffer, tile: TilePlaces, first: number, backs: boolean): number;
  /**
   * Of a block whose texels lie within a box of the pane: 1: all that are turned to the eye are seen; 0: none; 2: it is to be gone
   * through texel by texel.
   */
  wholeBlock(eye: EyeBuffer, tile: TilePlaces, first: number, x0: number, y0: number, x1: number, y1: number): number;
}
