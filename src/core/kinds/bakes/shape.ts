/** How the surface bends: curvature, its hollows, its edges. */
import { z } from 'zod';
import { degrees, number, percent } from '../control';
import type { BakeDef } from './bake';

const radius = z.number().min(0.002, 'a radius is above zero: 0.2 % of the model at least').max(0.5);
const strength = z.number().min(0.1).max(20);
const RADIUS = { ...percent('radius', 'Radius', 0.002, 0.2), digits: 1, fine: true };
const STRENGTH = number('strength', 'Strength', 0.1, 20, { digits: 1, fine: true });

const curvatureSchema = z.object({ type: z.literal('curvature'), radius: radius.default(0.02), strength: strength.default(1) });
export type Curvature = z.infer<typeof curvatureSchema>;
export const curvature: BakeDef<Curvature> = {
  type: 'curvature',
  label: 'Curvature',
  hint: 'How the surface bends within the radius: middle grey is level, lighter bulges, darker is hollow.',
  values: 'value',
  from: { model: true, twin: true },
  schema: curvatureSchema,
  start: { type: 'curvature', radius: 0.02, strength: 1 },
  controls: [RADIUS, STRENGTH],
  fileWords: /^(curvature|curv|curve)$/,
};

const cavitySchema = z.object({ type: z.literal('cavity'), radius: radius.default(0.015), strength: strength.default(3) });
export type Cavity = z.infer<typeof cavitySchema>;
export const cavity: BakeDef<Cavity> = {
  type: 'cavity',
  label: 'Cavities',
  hint: 'White where the surface is hollow within the radius: grooves and inner corners.',
  values: 'value',
  from: { model: true, twin: true },
  schema: cavitySchema,
  start: { type: 'cavity', radius: 0.015, strength: 3 },
  controls: [RADIUS, STRENGTH],
  fileWords: /^(cavity|cavities|crevice)$/,
};

const edgesSchema = z.object({
  type: z.literal('edges'),
  angle: z.number().min(1).max(179).default(30),
  width: z.number().min(0.0005, 'an edge has a width above zero').max(0.5).default(0.01),
});
export type Edges = z.infer<typeof edgesSchema>;
export const edges: BakeDef<Edges> = {
  type: 'edges',
  label: 'Edges',
  hint: 'White along edges that stand out by at least the angle, fading over the width.',
  values: 'value',
  from: { model: true, twin: false },
  schema: edgesSchema,
  start: { type: 'edges', angle: 30, width: 0.01 },
  controls: [degrees('angle', 'From', 1, 179), { ...percent('width', 'Width', 0.0005, 0.2), digits: 2, fine: true }],
  fileWords: /^(edges?|edge ?mask)$/,
};
