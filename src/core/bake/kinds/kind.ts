/** How a kind of bake (core/kinds/bakes) is worked out. Each is a file beside this one with a line in `index.ts`. */
import type { Ground } from '../ground';
import type { Points } from '../points';

export interface Asked {
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

export interface BakeKind<P> {
  /** Its points begin where the shading says that the surface is (`liftPoints`). */
  lifted?: true;
  prepare: (p: P, asked: Asked) => Work;
}
