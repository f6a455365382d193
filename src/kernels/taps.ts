/**
 * Reading placed pictures, behind one interface with two implementations: WebAssembly SIMD with a memory of its own
 * that grows with the pictures in it (`tapsWasm.ts`), and the twin (`tapsTwin.ts`).
 */

/** Reads a tap: 1, the picture as it is; 3 patches; or 3 patches and the picture as it is. */
export type Reads = 1 | 3 | 4;

/** What texels of a tile read: tap by tap. Only `count` of each is valid. */
export interface TapViews {
  texel: Int32Array;
  /** How much of the texel: one seen from two sides has two taps, which sum to 1. */
  share: Float32Array;
  /** What sums around the mean are multiplied by, so that variance stays (Heitz and Neyret 2018, equation 2). */
  scale: Float32Array;
  /** For each read, with room for four a tap: the upper left of four pixels, their four weights, the turn of its patch (of TURNS). */
  at: Int32Array;
  weights: Float32Array;
  turn: Int32Array;
  /** How much of each texel of the tile is read at all: the shares of its taps. */
  seen: Float32Array;
}

export interface TapSet {
  count: number;
  reads: Reads;
  /** Ask anew after anything else was called: the memory may have moved. */
  views(): TapViews;
}

/** Pixels of a level: int16, `size` a pixel, rows of width + 1, height + 1 of them. `fill` makes the same each time. */
export interface Pixels {
  size: 1 | 4;
  length: number;
  fill(into: Int16Array): void;
}

/** Where texels lie: float32, in repeats; `weight` null: all of each. */
export interface Places {
  x: Float32Array;
  y: Float32Array;
  weight: Float32Array | null;
}

/** The triangle grid of patches: cells after which it comes round (0: never) and cells a repeat. */
export interface PatchGrid {
  cells: readonly [number, number];
  per: readonly [number, number];
  /** 0..1, above 0. */
  strength: number;
}

/** What becomes of a sum: through a table of `bins` + 1 numbers whose middle is 0, at `steps` a unit; then · by + lift. */
export interface Finish {
  table: Float32Array | null;
  steps: number;
  by: number;
  lift: number;
}

/** The same for colours: three tables in a row, then lift + matrix · sums; three columns and the lift, four numbers each. */
export interface ColourFinish {
  table: Float32Array | null;
  steps: number;
  matrix: Float32Array;
}

export interface TapKernels {
  /** Room for a tile seen from three sides, four reads each. */
  tapSet(): TapSet;
  clearTaps(set: TapSet, reads: Reads): void;
  addPlain(set: TapSet, places: Places, width: number, height: number): void;
  addPatches(set: TapSet, places: Places, width: number, height: number, grid: PatchGrid): void;
  /** What the taps read, 0..1 and by their shares, into a plane of a tile, 0 where none is. `down`: pixels from row to row. */
  readValues(set: TapSet, pixels: Pixels, down: number, finish: Finish, out: Float32Array): void;
  /** To three planes in a row. */
  readColours(set: TapSet, pixels: Pixels, down: number, finish: ColourFinish, out: Float32Array): void;
  /** Pixels to read by other means; valid until anything else is called. */
  pixelsOf(pixels: Pixels): Int16Array;
}

export const TILE_TEXELS = 128 * 128;
export const MOST_TAPS = TILE_TEXELS * 3;
export const MOST_READS = 4;
export const TABLE_BINS = 2048;

/** Cosine and sine of 256 turns: what a patch is turned by. */
export const TURNS = Float32Array.from({ length: 512 }, (_, i) =>
  (i % 2 === 0 ? Math.cos : Math.sin)(((i >> 1) / 256) * 2 * Math.PI),
);
