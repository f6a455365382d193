/** How the surface bends: curvature, its hollows, its edges. */
import { z } from 'zod';
import { POINT_NUMBERS } from '../../../kernels/rays';
import { PLACE_PLANES } from '../../../kernels/segments';
import { kernels } from '../../kernels';
import { convexEdges, EdgeGrid } from '../../mesh/sharpEdges';
import type { Ground } from '../../rays/ground';
import { degrees, number, percent } from '../control';
import type { AskedPoints, BakeDef, Work } from './bake';

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
  prepare: ({ radius, strength }, { on }) => bends(on, radius, (v) => Math.min(1, Math.max(0, 0.5 + 0.5 * v * strength))),
};

const cavitySchema = z.object({ type: z.literal('cavity'), radius: radius.default(0.015), strength: strength.default(3) });
export type Cavity = z.infer<typeof cavitySchema>;
export const cavity: BakeDef<Cavity> = {
  type: 'cavity',
  label: 'Cavities',
  plural: true,
  hint: 'White where the surface is hollow within the radius: grooves and inner corners.',
  values: 'value',
  from: { model: true, twin: true },
  schema: cavitySchema,
  start: { type: 'cavity', radius: 0.015, strength: 3 },
  controls: [RADIUS, STRENGTH],
  fileWords: /^(cavity|cavities|crevice)$/,
  prepare: ({ radius, strength }, { on }) => bends(on, radius, (v) => Math.min(1, Math.max(0, -v * strength))),
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
  plural: true,
  hint: 'White along edges that stand out by at least the angle, fading over the width.',
  values: 'value',
  from: { model: true, twin: false },
  schema: edgesSchema,
  start: { type: 'edges', angle: 30, width: 0.01 },
  controls: [degrees('angle', 'From', 1, 179), { ...percent('width', 'Width', 0.0005, 0.2), digits: 2, fine: true }],
  fileWords: /^(edges?|edge ?mask)$/,
  prepare: ({ angle, width }, { on }) => {
    const reach = width * on.size;
    const grid = new EdgeGrid(convexEdges(on.model, on.corner, (angle * Math.PI) / 180), Math.max(reach, on.size / 128));
    const list: number[] = [];
    return (points, from, count, out) => {
      const { data } = points;
      for (let a = from; a < from + count; a += TOGETHER) {
        const b = Math.min(from + count, a + TOGETHER);
        boxOf(points, a, b);
        const listed = grid.near(box, reach, list);
        // Up to a multiple of four the last one stands again.
        const lanes = (b - a + 3) & ~3;
        for (let i = 0; i < lanes; i++) {
          const o = Math.min(a + i, b - 1) * POINT_NUMBERS;
          for (let k = 0; k < 3; k++) {
            places[TOGETHER * k + i] = data[o + k];
            places[TOGETHER * (k + 3) + i] = data[o + 6 + k];
          }
        }
        kernels().segments(places, TOGETHER, lanes, grid.listed(list), listed, reach, found);
        for (let n = a; n < b; n++) out[n - from] = 1 - found[n - a] / reach;
      }
    };
  },
};

/** So many points share a list of what lies near: they lie together. */
const TOGETHER = 64;
const box = new Float64Array(6);
const places = new Float32Array(TOGETHER * PLACE_PLANES);
const found = new Float32Array(TOGETHER);

function boxOf({ data }: AskedPoints, from: number, to: number): void {
  box.fill(Infinity, 0, 3).fill(-Infinity, 3, 6);
  for (let n = from; n < to; n++)
    for (let k = 0; k < 3; k++) {
      const v = data[n * POINT_NUMBERS + k];
      if (v < box[k]) box[k] = v;
      if (v > box[k + 3]) box[k + 3] = v;
    }
}

/** Curvature times the radius: 0.5 on a ball twice as large as the radius, about 1.2 along an edge of a box. */
function bends(on: Ground, radius: number, value: (v: number) => number): Work {
  const curvature = on.curvature(radius);
  const scale = radius * on.size;
  return (points, from, count, out) => {
    const { data } = points;
    for (let a = from; a < from + count; a += TOGETHER) {
      const b = Math.min(from + count, a + TOGETHER);
      boxOf(points, a, b);
      for (let n = a, t = 0; n < b; n++, t += 6)
        for (let k = 0; k < 3; k++) {
          places[t + k] = data[n * POINT_NUMBERS + k];
          places[t + 3 + k] = data[n * POINT_NUMBERS + 6 + k];
        }
      curvature.of(places, b - a, box, found);
      for (let n = a; n < b; n++) out[n - from] = value(found[n - a] * scale);
    }
  };
}
