/**
 * What a source is: a rule that gives every texel a value 0 … 1 from where it lies. Each lives in a file beside this
 * one and has a line in `index.ts`; its editor is described by its `controls`.
 *
 * Values are data, not colours: what 0 and 1 become is the business of the cell or the mask that uses the source.
 */
import type { z } from 'zod';
import type { Control } from '../control';
import type { PlacementKind } from '../placement';
import { hash24 } from '../../../kernels/hash';

/**
 * Where texels lie, for a rule: float32, `n` numbers each, a multiple of 4, in the kernels' arena. Flat fields hold
 * repeats (one repeat is one turn of a pattern) and z = 0; solid ones hold sizes of the placement (model units
 * divided by its size).
 */
export interface Field {
  n: number;
  x: Float32Array;
  y: Float32Array;
  z: Float32Array;
  flat: boolean;
  /** After how many repeats everything comes round, in x and y; 0: never. */
  period: readonly [number, number];
  /** Distance in x and y (or in space) that a texel spans: for soft edges one texel wide. */
  texel: number;
  /** How far the nearest edge above lies along gravity, in sizes of the placement; large where there is none. Solid fields. */
  below: (() => Float32Array) | null;
}

/** Groups of the picker, and how a new source of each is placed on a model (null: it has places of its own). */
export const SOURCE_GROUPS = {
  noise: { label: 'Noise', onModel: 'solid' },
  pattern: { label: 'Patterns', onModel: 'box' },
  gradient: { label: 'Gradient', onModel: null },
} as const satisfies Record<string, { label: string; onModel: PlacementKind | null }>;
export type SourceGroup = keyof typeof SOURCE_GROUPS;

type Vector = [number, number, number];

/** A point of a source that is dragged in the view. */
export interface SourceHandle {
  id: string;
  label: string;
  pane: 'model' | 'flat';
  /** Model units; in the flat pane texels (z 0). */
  at: Vector;
}

export interface SourceDef<P extends { type: string } = { type: string }> {
  type: P['type'];
  label: string;
  hint: string;
  group: SourceGroup;
  schema: z.ZodType<P>;
  start: P;
  controls: readonly Control[];
  /** `placed`: through the placement. `sheet`: x and y run 0 … 1 over the sheet. `model`: model units. */
  where: (p: P) => 'placed' | 'sheet' | 'model';
  fill: (p: P, field: Field, out: Float32Array) => void;
  /** What a new one begins with on a model of this size; left out: `start`. */
  startOn?: (box: { min: readonly number[]; max: readonly number[] }) => P;
  /** How it is shown on a flat square; left out: as it is. */
  onSquare?: (p: P) => P;
  /** Its own handles, and what it is once one lies elsewhere; left out: those of its placement. */
  handles?: {
    of: (p: P, sheet: { width: number; height: number }) => SourceHandle[];
    moved: (p: P, id: string, to: Vector, sheet: { width: number; height: number }) => P;
  };
}

export const clamp01 = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v);

/** Hermite step from 0 at `a` to 1 at `b`; with a > b the other way round. */
export function step(a: number, b: number, v: number): number {
  if (a === b) return v < a ? 0 : 1;
  const t = clamp01((v - a) / (b - a));
  return t * t * (3 - 2 * t);
}

/** A hash of whole numbers as 0 ≤ … < 1, the same on every machine. */
export const hash01 = (a: number, b: number, seed: number): number => hash24(a, b, seed) / 16777216;
