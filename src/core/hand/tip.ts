/**
 * The tip of a brush: its outline, how round it is, how it is turned. A dab sees each place in the tip's own frame, in
 * radii: u across the tip, v along its short side, w out of its plane (0 in the flat sheet).
 */
import { z } from 'zod';
import type { TipShape as PreparedTip } from '../../kernels/dabs';
import { DITHER_TYPES } from './dither';
import { curvePointsSchema } from '../kinds/filters/curves';
import { pictureIdSchema } from './pictures/id';
import { shapeOfTexture, type TipTexture } from './texture';
import { levelFor, levelOf, type TipPicture } from './tipPicture';

export const TIP_SHAPES = ['round', 'square', 'picture'] as const;
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
  /** On the grid: in which pattern the flow becomes whole texels. Left out: texels take as much of the paint as it says. */
  dither: z.enum(DITHER_TYPES).optional(),
  /**
   * What it gives from its middle (0) to its rim (1), along a curve, instead of by hardness: [way, given], by rising way. It
   * still has a texel of softness at the rim.
   */
  edge: curvePointsSchema.optional(),
  /** Of a picture tip: which (pictures/). */
  picture: pictureIdSchema.optional(),
});
export type Tip = z.infer<typeof tipSchema>;

/** A tip as one dab has it. */
export interface DabTip {
  shape: TipShape;
  roundness: number;
  /** Radians. */
  angle: number;
  /** Seen in a mirror: upside down before it is turned. */
  flip?: boolean;
  /** Of a picture tip. */
  picture?: TipPicture;
  /** A texture that goes with the tip. */
  texture?: TipTexture;
}

/** Nothing to be turned: what a plain distance does. */
export const isPlain = ({ shape, roundness, texture }: Pick<DabTip, 'shape' | 'roundness' | 'texture'>): boolean =>
  shape === 'round' && roundness >= 1 && !texture;

/** How far from its centre, in radii, a tip reaches in its plane, and in space. */
export const reachInPlane = ({ shape, roundness }: DabTip): number =>
  shape === 'round' ? 1 : Math.sqrt(1 + roundness * roundness);
export const reachInSpace = ({ shape, roundness }: DabTip): number =>
  shape === 'round' ? 1 : Math.sqrt(2 + roundness * roundness);

/** A squashed picture is read so many times along its short side at most. */
const MOST_READS = 8;

/** A tip ready to be asked. */
export function prepareTip(tip: DabTip, radiusTexels: number, falloff: Float32Array): PreparedTip {
  const picture = tip.shape === 'picture' ? (tip.picture ?? null) : null;
  // Fine enough along the long side; across it, one read for each texel of the picture that a sheet's texel covers.
  const reads = picture ? Math.min(MOST_READS, Math.ceil(1 / tip.roundness - 1e-6)) : 1;
  const footprint = 1 / (radiusTexels * tip.roundness);
  return {
    outline: picture ? 'picture' : tip.shape === 'round' ? 'round' : 'square',
    falloff,
    picture: picture && levelOf(picture, levelFor(picture, 2 * radiusTexels)),
    reads,
    apart: footprint / reads,
    texture: tip.texture ? shapeOfTexture(tip.texture) : null,
  };
}

/** What a tip lies in on the model: to the right and down as the eye sees them, and out of the surface. Unit, world space. */
export interface TipFrame {
  right: readonly number[];
  down: readonly number[];
  out: readonly number[];
}
