/**
 * What a model knows about itself, as a picture: what there is to bake, how it is set, what its values mean and how they are
 * worked out. Each kind is a file beside its like with a line in `index.ts`. Lengths are shares of the model's size, its
 * longest side.
 */
import type { z } from 'zod';
import type { Ground } from '../../rays/ground';
import type { Points } from '../../rays/points';
import type { Control } from '../control';
import type { MapId } from '../maps';

export interface BakeGrounds {
  /** The model that is baked onto. */
  low: Ground;
  /** What is asked: the same, or its dense twin. */
  on: Ground;
}

/** Points of the model that is asked. Where that is the twin: those of the model that they belong to, and how far they lie off it. */
export interface AskedPoints extends Points {
  /** null: they are the model's own. */
  under: { points: Points; offset: Float32Array } | null;
}

/** Puts 1 (grey) or 3 numbers a point, 0 … 1, at most `MOST_POINTS` (kernels/rays.ts) at a time. */
export type Work = (points: AskedPoints, from: number, count: number, out: Float32Array) => void;

export interface BakeDef<P extends { type: string } = { type: string }> {
  type: P['type'];
  label: string;
  /** Its label is a plural. */
  plural?: true;
  hint: string;
  /** `value`: grey. `direction`: each axis −1 … 1 as 0 … 1, unit. `id`: colours that stand for something, never mixed. `colour`: sRGB. */
  values: 'value' | 'direction' | 'id' | 'colour';
  /** What it can be baked from: the model itself, a dense twin of it. */
  from: { model: boolean; twin: boolean };
  /** It begins with the model itself even where the sheet's other bakes have a dense twin. */
  byItself?: true;
  schema: z.ZodType<P>;
  start: P;
  controls: readonly Control[];
  /** Words of a file's name that mean it, apart by spaces. */
  fileWords: RegExp;
  /** The map that it lies on by itself; left out: a grey one is multiplied over the first colour map. */
  laidOn?: MapId;
  /** In tangent space: in pictures from elsewhere Y may point the other way. */
  tangentSpace?: true;
  /** Its points begin where the shading says that the surface is (`liftPoints`). */
  lifted?: true;
  prepare: (p: P, asked: BakeGrounds) => Work;
}
