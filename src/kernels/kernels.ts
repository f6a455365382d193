/**
 * The hot loops, behind one interface with two implementations: WebAssembly SIMD (`wasm.ts`) and its TypeScript
 * twin (`twin.ts`), which is the oracle in tests and the fallback where SIMD is missing.
 *
 * Accumulators and masks are float32 planes of `width × rows` texels, a multiple of 4 texels a row. They live in
 * the implementation's arena: take them with `floats` between `mark` and `release`. Passing other arrays works
 * and costs a copy.
 */
import type { BendKernels } from './bends';
import type { SegmentKernels } from './segments';
import type { DabKernels } from './dabs';
import type { FloodKernels } from './flood';
import type { Rays, Tree } from './rays';
import type { RuleKernels } from './rules';
import type { SeenKernels } from './seen';
import type { StepKernels } from './steps';
import type { SumKernels } from './sums';
import type { TapKernels } from './taps';

export interface StoredSource {
  /** RGBA or V C, uint16, interleaved. */
  data: Uint16Array;
  /** First texel, and texels from row to row. */
  offset: number;
  stride: number;
  width: number;
  rows: number;
}

/** Numbers in rows: where the first one is, and how many there are from row to row. */
export interface Rows {
  data: Float32Array;
  at: number;
  stride: number;
}

/** Stored texels as a layer. `mode`: index in SEPARABLE_BLENDS. */
export interface LaidLayer {
  source: StoredSource;
  mode: number;
  opacity: number;
  mask: Float32Array | null;
}

/** Places between two neighbours. */
export interface Between {
  left: Int32Array;
  share: Int32Array;
}

/** What becomes of a colour in OKLab (assembly/oklab.ts). */
export interface OklabChange {
  /** Added to the lightness, which stays within 0..1. */
  lift: number;
  /** Rows of a matrix for a and b. */
  turn: readonly [readonly [number, number], readonly [number, number]];
  /** Added to a and b. */
  tint: readonly [number, number];
  /** The tint fades towards black and white, which have no room for chroma: min(1, 4 l (1 − l) + 0.15). */
  roomy: boolean;
}

/** The transfer curve both ways, as tables over 0..1 with straight lines between their points: so many steps, and one number more. */
export interface TransferTables {
  toLinear: Float32Array;
  toSrgb: Float32Array;
}

/** One octave of noise: how often the lattice comes in each coordinate, after how many cells it repeats (0: never). */
export interface Octave {
  fx: number;
  fy: number;
  fz: number;
  px: number;
  py: number;
  pz: number;
  amplitude: number;
  /** Any 32-bit integer. */
  seed: number;
}

export const MOST_OCTAVES = 12;

/** `ridges`: (1 − |noise|)². `billows`: |noise|. */
export type FractalMode = 'plain' | 'ridges' | 'billows';

/** Formulas and sources: assembly/noise.ts. All arrays have the same length, a multiple of 4. */
export interface NoiseKernels {
  /** Sum of amplitude · noise over the octaves, up to MOST_OCTAVES. Without `z`: noise in a plane, a third of the work. */
  noiseFractal(
    out: Float32Array,
    x: Float32Array,
    y: Float32Array,
    z: Float32Array | null,
    octaves: readonly Octave[],
    mode: FractalMode,
  ): void;
  /** A number 0 … 1 for each cell of the lattice. */
  noiseHash(out: Float32Array, x: Float32Array, y: Float32Array, z: Float32Array, octave: Octave): void;
  /**
   * Distance to the nearest point, to the nearest place halfway to another one (both in cells; left out where `edge` is null),
   * and a number of its own for each cell.
   */
  noiseCells(
    near: Float32Array,
    edge: Float32Array | null,
    id: Float32Array,
    x: Float32Array,
    y: Float32Array,
    z: Float32Array,
    octave: Octave,
    jitter: number,
    flat: boolean,
  ): void;
}

/** Texels of a tile on a model: face (below 0: none), 3 × position, 3 × unit normal × 127. */
export interface ModelTexels {
  face: Int32Array;
  position: Float32Array;
  normal: Int8Array;
}

/** A smooth filter carried out on every `factor`-th sample (assembly/wide.ts; core/kinds/filters/gaussian.ts). */
export interface WidePlan {
  /** 2, 4, 8, 16 or 32. */
  factor: number;
  /** 4 · factor weights of a sample. */
  decimate: Float32Array;
  /** Of the filter on the samples: the centre and one side. */
  side: Float32Array;
  /** Back to texels: `taps` vectors of four weights for each of `period` groups of four texels, then `step` samples on. */
  period: number;
  step: number;
  taps: number;
  table: Float32Array;
  /** Texels that it looks at on each side. */
  radius: number;
}

export interface Kernels
  extends NoiseKernels, BendKernels, DabKernels, FloodKernels, RuleKernels, SeenKernels, SegmentKernels, StepKernels, SumKernels {
  readonly name: 'wasm' | 'twin';
  readonly pictures: TapKernels;
  /** A tree to be asked, in a memory of its own. Throws where there is no room for it. */
  raysOf(tree: Tree): Rays;
  mark(): number;
  release(mark: number): void;
  /** `count` float32 from the arena; contents are not cleared. */
  floats(count: number): Float32Array;
  /** A copy that outlives `release`, where the kernels read it in place if there is room. */
  keep(values: Float32Array): Float32Array;
  /** Rows of `columns` numbers from one array to another; strides in numbers from row to row. */
  copyRows(from: Rows, to: Rows, columns: number, rows: number): void;
  /**
   * Layers of one size over each other, from the bottom up. `channels`: 3 or 1. `opaque`: the backdrop's alpha is 1 all over.
   */
  blendStored(acc: Float32Array, channels: 1 | 3, laid: readonly LaidLayer[], opaque: boolean): void;
  blendFloat(
    acc: Float32Array,
    channels: 1 | 3,
    source: Float32Array,
    texels: number,
    mode: number,
    opacity: number,
    mask: Float32Array | null,
    opaque: boolean,
  ): void;
  /** A painted mask over its ground, 0..1. */
  maskValues(out: Float32Array, source: StoredSource, ground: number, invert: boolean): void;
  /** acc += amount·mask·(other − acc). */
  lerp(acc: Float32Array, other: Float32Array, texels: number, planes: number, amount: number, mask: Float32Array | null): void;
  /** out = base + span · source, held within 0..1 if asked; as many as a multiple of 4. */
  affine(out: Float32Array, source: Float32Array, base: number, span: number, held?: boolean): void;
  /** Three planes of encoded colour, a multiple of 4 texels, changed in OKLab, in place. Colours that leave sRGB are clipped a channel. */
  turnInOklab(data: Float32Array, texels: number, how: OklabChange, transfer: TransferTables): void;
  /** One plane; `side`: weights of the centre and one side. The source has `side.length − 1` more texels on each side of the axis. */
  blur(source: Float32Array, width: number, height: number, side: Float32Array, axis: 'x' | 'y', out: Float32Array): void;
  /** The same by samples: the source has `plan.radius` more texels on each side. Width (or height) is a multiple of 4 · factor, width of 8. */
  blurWide(source: Float32Array, width: number, height: number, plan: WidePlan, axis: 'x' | 'y', out: Float32Array): void;
  /**
   * Unit normals (planes x, y up, z) of width × height texels from heights in texels, which have `radius` more on each
   * side. `smooth` and `slope`: 2·radius + 1 weights across and along. Width is a multiple of 4.
   */
  normals(field: Float32Array, width: number, height: number, smooth: Float32Array, slope: Float32Array, out: Float32Array): void;
  /**
   * Planes 0..1 to bytes, rounded and clamped: the first one to channel `first` of each texel of RGBA, the others behind it. `texels`
   * a multiple of 4; `out` holds four bytes each, and its other channels stay as they are.
   */
  interleave8(planes: Float32Array, texels: number, count: number, first: number, out: Uint8Array): void;
  /** `count` bytes from the arena; contents are not cleared. */
  bytes(count: number): Uint8Array;
  /** Three planes to interleaved texels, 0..1 to 0..65535, rounded and clamped, valid until `release`; `texels` a multiple of 4. */
  interleave16(planes: Float32Array, texels: number): Uint16Array;
  /**
   * The rest of an exact distance transform, in place: distances to the nearest texel above in the column (from `far` on:
   * none) become squared distances in the plane, `none` where there is nothing at all.
   */
  distanceRows(rows: Float32Array, width: number, far: number, none: number): void;
  /**
   * Places of texels as three sides of a box show them (assembly/box.ts), into three planes each. `shares`: 128 for each
   * largest part of a normal; `how`: centre, 1 / size, a matrix of two rows. Gives how many texels each side shows, and
   * how many one side shows alone.
   */
  boxPlaces(
    texels: ModelTexels,
    shares: Float32Array,
    how: readonly number[],
    x: Float32Array,
    y: Float32Array,
    weight: Float32Array,
  ): [number, number, number, number];
  /**
   * A rectangle of a picture of RGBA, 8 bit, row by row, from a smaller picture of the whole, interpolated to 1/256: column
   * `x` lies `columns.share[x]` / 256 of the way from `columns.left[x]` to the next pixel, and so do rows. The last pixel
   * has itself for its neighbour. A multiple of 4 columns; `left` never falls.
   */
  enlarge(from: Uint8Array, width: number, columns: Between, rows: Between, out: Uint8Array): void;
  /** 0..1 to 0..65535, rounded and clamped, valid until `release`. */
  toUint16(source: Float32Array): Uint16Array;
}
