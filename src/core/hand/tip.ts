/**
 * The tip of a brush: its outline, how round it is, how it is turned. A dab sees each place in the tip's own frame, in
 * radii: u across the tip, v along its short side, w out of its plane (0 in the flat sheet).
 */
import { z } from 'zod';
import { FALLOFF_STEPS } from './coverage';
import { pictureIdSchema } from './pictures/id';
import { levelFor, pictureAt, type TipPicture } from './tipPicture';
import { joined, textureInTip, type TipTexture } from './texture';

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

/** Squared distance of a place from the centre of an outline, where 1 is the rim. */
function outlineDistance2(round: boolean, u: number, v: number, w: number): number {
  const a = u * u;
  const b = v * v;
  const c = w * w;
  if (round) return a + b + c;
  return a > b ? (a > c ? a : c) : b > c ? b : c;
}

/** Pictures on the model fade from this height above their plane, in radii, to nothing at the rim of the ball. */
const FADES_FROM = 0.7;
/** A squashed picture is read so many times along its short side at most. */
const MOST_READS = 8;

/** A tip ready to be asked. */
export interface PreparedTip {
  round: boolean;
  falloff: Float32Array;
  picture: TipPicture | null;
  level: number;
  reads: number;
  /** From one read to the next, in radii of the short side. */
  apart: number;
  texture: TipTexture | null;
}

export function prepareTip(tip: DabTip, radiusTexels: number, falloff: Float32Array): PreparedTip {
  const picture = tip.shape === 'picture' ? (tip.picture ?? null) : null;
  const level = picture ? levelFor(picture, 2 * radiusTexels) : 0;
  // Fine enough along the long side; across it, one read for each texel of the picture that a sheet's texel covers.
  const reads = picture ? Math.min(MOST_READS, Math.ceil(1 / tip.roundness - 1e-6)) : 1;
  const footprint = 1 / (radiusTexels * tip.roundness);
  return {
    round: tip.shape === 'round',
    falloff,
    picture,
    level,
    reads,
    apart: footprint / reads,
    texture: tip.texture ?? null,
  };
}

/** What a tip gives at a place in its frame, 0 … 1. */
export function tipShare(tip: PreparedTip, u: number, v: number, w: number): number {
  const { picture, texture } = tip;
  let share = 0;
  if (picture === null) {
    const d2 = outlineDistance2(tip.round, u, v, w);
    if (d2 >= 1) return 0;
    share = tip.falloff[(d2 * FALLOFF_STEPS) | 0];
  } else {
    const above = w < 0 ? -w : w;
    if (above >= 1) return 0;
    if (tip.reads === 1) share = pictureAt(picture, tip.level, u, v);
    else {
      for (let n = 0, at = v - ((tip.reads - 1) * tip.apart) / 2; n < tip.reads; n++, at += tip.apart)
        share += pictureAt(picture, tip.level, u, at);
      share /= tip.reads;
    }
    if (above > FADES_FROM) share *= (1 - above) / (1 - FADES_FROM);
  }
  return texture === null || share === 0 ? share : joined(texture, share, textureInTip(texture, u, v));
}

/** What a tip lies in on the model: to the right and down as the eye sees them, and out of the surface. Unit, world space. */
export interface TipFrame {
  right: readonly number[];
  down: readonly number[];
  out: readonly number[];
}
