/**
 * The tip of a brush: its outline, how round it is, how it is turned. A dab sees each place in the tip's own frame, in
 * radii: u across the tip, v along its short side, w out of its plane (0 in the flat sheet).
 */
import { z } from 'zod';

export const TIP_SHAPES = ['round', 'square'] as const;
export type TipShape = (typeof TIP_SHAPES)[number];

export const LEAST_ROUNDNESS = 0.02;

export const tipSchema = z.object({
  shape: z.enum(TIP_SHAPES).default('round'),
  /** Short side over long side. */
  roundness: z.number().min(LEAST_ROUNDNESS).max(1).default(1),
  /** Degrees, clockwise, of the long side from the screen's (the sheet's) horizontal. */
  angle: z.number().min(-360).max(360).default(0),
  /** Whole texels of the sheet, without soft edges: for small sheets. */
  grid: z.boolean().default(false),
});
export type Tip = z.infer<typeof tipSchema>;

/** A tip as one dab has it. */
export interface DabTip {
  shape: TipShape;
  roundness: number;
  /** Radians. */
  angle: number;
}

/** Nothing to be turned: what a plain distance does. */
export const isPlain = ({ shape, roundness }: Pick<DabTip, 'shape' | 'roundness'>): boolean =>
  shape === 'round' && roundness >= 1;

/** How far from its centre, in radii, a tip reaches in its plane, and in space. */
export const reachInPlane = ({ shape, roundness }: DabTip): number =>
  shape === 'round' ? 1 : Math.sqrt(1 + roundness * roundness);
export const reachInSpace = ({ shape, roundness }: DabTip): number =>
  shape === 'round' ? 1 : Math.sqrt(2 + roundness * roundness);

/** Squared distance of a place from the centre, where 1 is the rim. */
export function tipDistance2(shape: TipShape, u: number, v: number, w: number): number {
  const a = u * u;
  const b = v * v;
  const c = w * w;
  if (shape === 'round') return a + b + c;
  return a > b ? (a > c ? a : c) : b > c ? b : c;
}

/** What a tip lies in on the model: to the right and down as the eye sees them, and out of the surface. Unit, world space. */
export interface TipFrame {
  right: readonly number[];
  down: readonly number[];
  out: readonly number[];
}
