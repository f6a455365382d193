/** What only a dense twin knows: the relief that the model itself does not have. */
import { z } from 'zod';
import { POINT_NUMBERS } from '../../../kernels/rays';
import { percent } from '../control';
import type { BakeDef } from './bake';

const normalSchema = z.object({ type: z.literal('normal') });
export type Normal = z.infer<typeof normalSchema>;
export const normal: BakeDef<Normal> = {
  type: 'normal',
  label: 'Normal',
  hint: 'The dense model’s normals in the tangent space of the model, as glTF has it (Y up).',
  values: 'direction',
  from: { model: false, twin: true },
  schema: normalSchema,
  start: { type: 'normal' },
  controls: [],
  laidOn: 'normal',
  tangentSpace: true,
  fileWords: /^(normals?|nor|nrm|norm|tangent ?(space ?)?normals?)$/,
  prepare: (_, { low }) => {
    const tangents = low.cornerTangents;
    const { normals, indices } = low.model;
    const t = [0, 0, 0, 0];
    const n = [0, 0, 0];
    return (points, from, count, out) => {
      const own = points.under?.points ?? points;
      for (let i = from; i < from + count; i++) {
        const corner = own.face[i] * 3;
        t.fill(0);
        n.fill(0);
        for (let k = 0; k < 3; k++) {
          const w = own.weights[i * 3 + k];
          for (let c = 0; c < 4; c++) t[c] += tangents[(corner + k) * 4 + c] * w;
          for (let c = 0; c < 3; c++) n[c] += normals[indices[corner + k] * 3 + c] * w;
        }
        const side = t[3] < 0 ? -1 : 1;
        const b = [n[1] * t[2] - n[2] * t[1], n[2] * t[0] - n[0] * t[2], n[0] * t[1] - n[1] * t[0]].map((v) => v * side);
        const o = i * POINT_NUMBERS + 3;
        const there = [points.data[o], points.data[o + 1], points.data[o + 2]];
        solve(t, b, n, there, out, (i - from) * 3);
      }
    };
  },
};

const heightSchema = z.object({
  type: z.literal('height'),
  span: z.number().min(0.0001, 'a height has a span above zero').max(1).default(0.02),
});
export type Height = z.infer<typeof heightSchema>;
export const height: BakeDef<Height> = {
  type: 'height',
  label: 'Height',
  hint: 'How far the dense model lies above the model (lighter) or under it (darker): middle grey is level, white is the span.',
  values: 'value',
  from: { model: false, twin: true },
  schema: heightSchema,
  start: { type: 'height', span: 0.02 },
  controls: [{ ...percent('span', 'Span', 0.0001, 0.2), digits: 2, fine: true }],
  laidOn: 'height',
  fileWords: /^(height|displacement|disp|bump)$/,
  prepare: ({ span }, { low }) => {
    const full = span * low.size;
    return ({ under }, from, count, out) => {
      for (let i = 0; i < count; i++)
        out[i] = under ? Math.min(1, Math.max(0, 0.5 + (under.offset[from + i] / full) * 0.5)) : 0.5;
    };
  },
};

const colourSchema = z.object({ type: z.literal('vertex-colour') });
export type VertexColour = z.infer<typeof colourSchema>;
export const vertexColour: BakeDef<VertexColour> = {
  type: 'vertex-colour',
  label: 'Vertex colour',
  hint: 'The colours of the dense model’s vertices.',
  values: 'colour',
  from: { model: false, twin: true },
  schema: colourSchema,
  start: { type: 'vertex-colour' },
  controls: [],
  laidOn: 'base-colour',
  fileWords: /^(vertex ?colou?rs?|vc)$/,
  prepare: (_, { on }) => {
    const { colours } = on.options;
    const { indices } = on.model;
    return ({ face, weights }, from, count, out) => {
      for (let i = 0; i < count; i++)
        for (let c = 0; c < 3; c++) {
          let sum = 0;
          for (let k = 0; k < 3; k++)
            sum += weights[(from + i) * 3 + k] * (colours ? colours[indices[face[from + i] * 3 + k] * 3 + c] : 1);
          out[i * 3 + c] = Math.min(1, Math.max(0, sum));
        }
    };
  },
};

/** The frame at a point of a mesh: its tangents are mixed as a renderer mixes them, not made unit nor square again (glTF 2.0, 3.9.3). */

/** x, y, z so that x t + y b + z n points along d: what a renderer makes of them is d again. */
function solve(t: number[], b: number[], n: number[], d: number[], out: Float32Array, o: number): void {
  const cross = (u: number[], v: number[]) => [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
  const dot = (u: number[], v: number[]) => u[0] * v[0] + u[1] * v[1] + u[2] * v[2];
  const bn = cross(b, n);
  const det = dot(t, bn);
  let [x, y, z] = [0, 0, 1];
  if (Math.abs(det) > 1e-12) {
    x = dot(d, bn) / det;
    y = dot(d, cross(n, t)) / det;
    z = dot(d, cross(t, b)) / det;
  }
  const l = Math.hypot(x, y, z) || 1;
  out[o] = (x / l) * 0.5 + 0.5;
  out[o + 1] = (y / l) * 0.5 + 0.5;
  out[o + 2] = (z / l) * 0.5 + 0.5;
}
