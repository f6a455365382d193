/** Stencils: a picture, or a rule, that lies over the view or over the sheet while one paints. Kept with the piece. */
import { z } from 'zod';
import { id, unit } from '../kinds/fields';
import { madeSchema } from '../kinds/sources';
import { nameSchema } from './layer';

const finite = z.number().refine(Number.isFinite, 'a finite number');

export const STENCIL_USES = ['colour', 'alpha', 'luminance'] as const;
export type StencilUse = (typeof STENCIL_USES)[number];

export const stencilSchema = z.object({
  /** A picture of one of the piece's sheets, or a rule as coats have it. */
  of: z.union([id, madeSchema]),
  /** Over the model pane, or over the flat sheet. */
  over: z.enum(['view', 'sheet']).default('view'),
  /** Its middle. View: heights of the pane, from the pane's middle. Sheet: widths of the sheet, from its upper left corner. */
  x: finite.default(0),
  y: finite.default(0),
  /** How high it is, in the same unit. */
  size: z.number().min(0.001).max(100).default(0.5),
  /** Degrees, clockwise on the screen. */
  angle: finite.default(0),
  /** Left and right change places. */
  flip: z.boolean().default(false),
  /** It goes on without end. */
  tiled: z.boolean().default(false),
  /** `colour`: paints its colours, as much as its alpha says. `alpha`, `luminance`: lets that much of the paint through. */
  use: z.enum(STENCIL_USES).default('alpha'),
  invert: z.boolean().default(false),
  /** What lets more than this through lets all through, what is less nothing; null: soft. */
  cut: unit.nullable().default(null),
});
export type Stencil = z.infer<typeof stencilSchema>;

/** One that is at hand: its name, and how strongly its ghost is drawn. */
export const keptStencilSchema = z.object({ id, name: nameSchema, ghost: unit.default(0.5), stencil: stencilSchema });
export type KeptStencil = z.infer<typeof keptStencilSchema>;

/** From the unit in which a stencil lies to its picture: 0 … 1 from the left and from the top. `aspect`: width by height. */
export function intoStencil(
  { x, y, size, angle, flip }: Stencil,
  aspect: number,
): (px: number, py: number) => readonly [number, number] {
  const a = (angle * Math.PI) / 180;
  const [c, s] = [Math.cos(a) / size, Math.sin(a) / size];
  const side = (flip ? -1 : 1) / aspect;
  return (px, py) => {
    const [dx, dy] = [px - x, py - y];
    return [(dx * c + dy * s) * side + 0.5, dy * c - dx * s + 0.5];
  };
}
