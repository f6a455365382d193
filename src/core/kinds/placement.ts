/**
 * Placement: how a source or a picture lies on a sheet. Coordinates are counted in repeats; one repeat is one turn of
 * a pattern or one copy of a picture.
 *
 *   uv         over the sheet. On a wrapping axis the matrix from UV to repeats is rounded to whole numbers, so that
 *              everything comes round (a turn becomes the nearest one that does).
 *   solid      no projection: the place in space itself, for noise. Patterns and pictures take `box` instead.
 *   plane      seen along a direction
 *   box        from three sides, blended by where the surface faces (`soft`: how wide the blend is)
 *   cylinder   around an axis; a whole number of repeats fits around
 *   sphere     longitude and latitude around an axis
 *   decal      seen along a direction, once: nothing beside it, nothing further than `depth` off its plane, nor on what turns away
 *
 * Model units are those of the model (metres in glTF). Everything but `uv` needs a surface; without one it lies as `uv`.
 */
import { z } from 'zod';
import { sizeOf } from '../mesh/model';

const finite = z.number().min(-1e6).max(1e6);
const vector = z.tuple([finite, finite, finite]);

export const PLACEMENTS = ['uv', 'solid', 'plane', 'box', 'cylinder', 'sphere', 'decal'] as const;
export type PlacementKind = (typeof PLACEMENTS)[number];

export const placementSchema = z.object({
  by: z.enum(PLACEMENTS),
  /** Repeats across the sheet's width; for `uv`. */
  repeats: z.number().min(0.01, 'a placement repeats at least 0.01 times').max(256).default(1),
  /** Size of one repeat in model units; for the others. */
  size: z.number().min(1e-6, 'a placement has a size above zero').max(1e6).default(1),
  /** Degrees. */
  turn: z.number().min(-360).max(360).default(0),
  /** In repeats. */
  offset: z.tuple([finite, finite]).default([0, 0]),
  mirrorX: z.boolean().default(false),
  mirrorY: z.boolean().default(false),
  /** Middle, and the direction of the view or of the axis, in model units. */
  centre: vector.default([0, 0, 0]),
  axis: vector.default([0, 0, 1]),
  /** Width of the blend between the sides of a box: 0 hard, 1 wide. */
  soft: z.number().min(0).max(1).default(0.3),
  /** Of a decal: how far from its plane, to both sides, it reaches, in model units; and its width by its height. */
  depth: z.number().min(1e-6).max(1e6).default(0.05),
  aspect: z.number().min(0.01).max(100).default(1),
  /** Of a decal: it goes around bends with the surface, instead of being seen along its direction; then it has no depth. */
  follow: z.boolean().default(false),
  /** Pictures: how far their repeats are hidden (strata/hidden.ts). */
  hide: z.number().min(0).max(1).default(0),
});
export type Placement = z.infer<typeof placementSchema>;

export const PLAIN: Placement = placementSchema.parse({ by: 'uv' });

/** It hangs on places in space, not on the sheet alone. */
export const inSpace = (placement: Placement | null): boolean => placement !== null && placement.by !== 'uv';

/** What a new placement on a model begins with: around its middle, as large as it is. */
export function placementFor(
  by: PlacementKind,
  surface: { min: readonly number[]; max: readonly number[] } | null,
  over: Partial<Placement> = {},
): Placement {
  const centre = surface ? surface.min.map((v, k) => (v + surface.max[k]) / 2) : [0, 0, 0];
  const size = surface ? sizeOf(surface) : 1;
  const axis = by === 'cylinder' || by === 'sphere' ? [0, 1, 0] : [0, 0, 1];
  return placementSchema.parse({ by, size, centre, axis, ...over });
}

/** Unit vectors across and along a plane that is seen along `axis`; along points up where it can. */
export function planeFrame(axis: readonly number[]): { right: number[]; up: number[]; out: number[] } {
  const length = Math.hypot(axis[0], axis[1], axis[2]);
  const out = length > 1e-9 ? axis.map((v) => v / length) : [0, 0, 1];
  const helper = Math.abs(out[1]) > 0.99 ? [0, 0, -1] : [0, 1, 0];
  const right = cross(helper, out);
  const l = Math.hypot(...right);
  const r = right.map((v) => v / l);
  return { right: r, up: cross(out, r), out };
}

function cross(a: readonly number[], b: readonly number[]): number[] {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}
