/**
 * Dabs, texel by texel, within a tile of 128 × 128. Everything is worked out in float32 and in one order, so that both
 * implementations give the same bits: the same stroke gives the same texels on every machine.
 */
export const TILE_SIDE = 128;

/** Texels within a tile, x1 and y1 exclusive. x0 ≥ x1: none. */
export interface TexelRect {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** A square picture, row by row; side a power of two. */
export interface PictureLevel {
  side: number;
  values: Float32Array;
}

export type TextureJoin = 'times' | 'lighten' | 'height';

/** A texture in the frame of a tip. */
export interface TextureShape {
  /** Goes on without end. */
  picture: PictureLevel;
  /** Repeats to a radius, and where it begins, in repeats. */
  scale: number;
  x: number;
  y: number;
  /** Of its contrast, around the middle; 1: as it is. */
  slope: number;
  invert: boolean;
  /** 0 … 1. */
  depth: number;
  join: TextureJoin;
}

/** Entries of a falloff table from the middle to the rim; one more, 0, stands for what lies beyond. */
export const FALLOFF_STEPS = 4096;

/** A tip ready to be asked, in its own frame: u across, v along its short side, w out of its plane, in radii. */
export interface TipShape {
  outline: 'round' | 'square' | 'picture';
  /** Entry i is what it gives at a squared distance of i / FALLOFF_STEPS. */
  falloff: Float32Array;
  /** Of a picture tip, as fine as the texels are. */
  picture: PictureLevel | null;
  /** A squashed picture is read so many times along its short side, so far apart. */
  reads: number;
  apart: number;
  texture: TextureShape | null;
}

/** u = a·x + b·y, v = c·x + d·y, in radii to a texel. */
export interface SheetFrame {
  a: number;
  b: number;
  c: number;
  d: number;
}

/** u, v and w of an offset in metres, three numbers each. */
export type SpaceFrame = readonly number[];

/**
 * Texels of a tile on the model: 3 × position (NaN: none), 3 × unit normal × 127, face (−1: none). Of its blocks
 * the mean normal, and the least cosine of one with it.
 */
export interface SurfaceTexels {
  position: Float32Array;
  normal: Int8Array;
  face: Int32Array;
  blockNormals: Float32Array;
}

/** What is known of faces: unit normals of their planes, 1 for those shaded as if bent too far, 1 for hidden ones. */
export interface FaceShapes {
  faceNormal: Float32Array;
  bent: Uint8Array;
  hidden: Uint8Array;
  /** Faces that may be painted have `included` here. */
  stamp: Uint32Array;
}

export interface SurfaceDabShape {
  x: number;
  y: number;
  z: number;
  /** How far it reaches at all, and the radius, metres. */
  reach: number;
  radius: number;
  tip: TipShape;
  /** null: a ball, which needs none. */
  frame: SpaceFrame | null;
  faces: FaceShapes;
  /** 0: all faces that are not hidden. */
  included: number;
  /** Normal of its own face's plane, and the normal as shaded there. */
  plane: readonly number[];
  normal: readonly number[];
}

/** Facing by normals as shaded: a right-angled edge (cosine 0) still gets all; down to this it fades, so that rods have no hard line. */
export const FACING_FULL = -0.1;
export const FACING_NONE = -0.5;
/** By planes, however shaded: the back of a sheet (cosine −1) gets nothing, nor does that of a wedge up to 30°. */
export const PLANES_FULL = -0.6;
export const PLANES_NONE = -0.85;

/** What paint writes: codes of 16 bits, alpha last. */
export interface PaintedTexels {
  channels: 2 | 4;
  coverage: Float32Array;
  amount: number;
  before: Uint16Array | null;
  after: Uint16Array;
  value: readonly number[];
  /** Colours of their own, three planes of a tile; null: `value`. */
  colours: Float32Array | null;
}

export interface DabKernels {
  /**
   * Raises `out`, a tile, to what a tip gives; (dx, dy): from its middle to that of the tile's first texel. false: it gives
   * nothing there.
   */
  dabInSheet(out: Float32Array, rect: TexelRect, tip: TipShape, dx: number, dy: number, frame: SheetFrame): boolean;
  /**
   * The same on the model, in blocks of 8 × 8 texels; `touched` grows by the blocks where it gives
   * something.
   */
  dabOnSurface(
    out: Float32Array,
    texels: SurfaceTexels,
    blocks: readonly number[],
    dab: SurfaceDabShape,
    touched: TexelRect,
  ): void;
  /**
   * Raises values towards `cap` by `flow` · gains of the way that is left. Gains are 0 outside of the rectangle. `firm`, 0 … 1,
   * lowers the cap of each texel to 1 − firm · (1 − gain) of it, so that repeated dabs of a hard tip do not fill its rim. Left out: 0.
   */
  layDab(values: Float32Array, gains: Float32Array, rect: TexelRect, flow: number, cap: number, firm?: number): void;
  /**
   * Lays numbers of a dab's own over those before, a plane each, as it is raised or would be (W3C Compositing, 5.1, within
   * the stroke): to be called before `layDab`. Gains are 0 outside of the rectangle.
   */
  layOwn(
    planes: Float32Array,
    own: readonly number[],
    values: Float32Array,
    gains: Float32Array,
    rect: TexelRect,
    flow: number,
    cap: number,
    firm?: number,
  ): void;
  /** Source-over with straight alpha on 16-bit codes. */
  paintOver(texels: PaintedTexels, rect: TexelRect): void;
  /** Zeros where a plane is zero outside of the rectangle. */
  clearRect(plane: Float32Array, rect: TexelRect): void;
  /**
   * Values of a texture that lies fixed, where `out` is below 0 and there is coverage: over the sheet, in which the tile's
   * first texel has its middle at (x, y), or on the model, from the sides of a box: each weighs the fourth power of how much
   * the surface faces it. `scale`: repeats to a texel, or to a metre.
   */
  textureValues(
    out: Float32Array,
    coverage: Float32Array,
    rect: TexelRect,
    texture: TextureShape,
    at: { x: number; y: number } | SurfaceTexels,
  ): void;
  /** What a texture leaves of coverage. `depths`: each texel's share of its depth, 0 … 1; null: all of it. */
  breakUp(
    out: Float32Array,
    coverage: Float32Array,
    values: Float32Array,
    depths: Float32Array | null,
    rect: TexelRect,
    texture: Pick<TextureShape, 'depth' | 'join'>,
  ): void;
}
