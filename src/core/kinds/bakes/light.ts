/** What comes of sending rays: how open a place is, where to, how thick the model is under it. */
import { z } from 'zod';
import { MOST_POINTS, POINT_NUMBERS, type Rays } from '../../../kernels/rays';
import { directionsOf } from '../../rays/directions';
import type { Ground } from '../../rays/ground';
import { number, percent } from '../control';
import type { AskedPoints, BakeDef } from './bake';

const samples = z.number().int().min(4).max(1024).default(64);
const reach = z.number().min(0.001, 'a reach is above zero: 0.1 % of the model at least').max(4);
/** What stands in the way: the whole model, or a part only for itself. */
const among = z.enum(['all', 'own']).default('all');

const SAMPLES = number('samples', 'Samples', 4, 1024, { digits: 0, fine: true });
const REACH = { ...percent('reach', 'Reach', 0.001, 2), digits: 1, fine: true };
const AMONG = {
  kind: 'choice',
  key: 'among',
  label: 'In the way',
  options: [
    { value: 'all', label: 'All parts' },
    { value: 'own', label: 'Own part only' },
  ],
} as const;
const SIDES = {
  kind: 'choice',
  key: 'sides',
  label: 'Faces',
  options: [
    { value: 'both', label: 'Two-sided' },
    { value: 'front', label: 'Front only' },
  ],
} as const;

const occlusionSchema = z.object({
  type: z.literal('occlusion'),
  reach: reach.default(0.5),
  among,
  sides: z.enum(['both', 'front']).default('both'),
  samples,
});
export type Occlusion = z.infer<typeof occlusionSchema>;
export const occlusion: BakeDef<Occlusion> = {
  type: 'occlusion',
  label: 'Ambient occlusion',
  hint: 'How open each place is to what is around it: white is open, black is a deep corner.',
  values: 'value',
  from: { model: true, twin: true },
  schema: occlusionSchema,
  start: { type: 'occlusion', reach: 0.5, among: 'all', sides: 'both', samples: 64 },
  controls: [REACH, AMONG, SIDES, SAMPLES],
  laidOn: 'occlusion',
  fileWords: /^(ao|occlusion|ambient ?occlusion|ambocc)$/,
  lifted: true,
  prepare: ({ reach, among, sides, samples }, { on }) => {
    const to = directionsOf(samples);
    const how = { reach: reach * on.size, bias: on.bias, cull: sides === 'front' };
    return (points, from, count, out) =>
      eachRun(points, from, count, { on, own: among === 'own' }, (rays, data, first, n) => {
        rays.occlusion(data, n, to, how, open);
        for (let i = 0; i < n; i++) out[first + i] = open[i * 4];
      });
  },
};

const bentSchema = z.object({ type: z.literal('bent-normal'), reach: reach.default(0.5), among, samples });
export type BentNormal = z.infer<typeof bentSchema>;
export const bentNormal: BakeDef<BentNormal> = {
  type: 'bent-normal',
  label: 'Bent normal',
  hint: 'The mean direction in which each place is open, in the space of the model.',
  values: 'direction',
  from: { model: true, twin: true },
  schema: bentSchema,
  start: { type: 'bent-normal', reach: 0.5, among: 'all', samples: 64 },
  controls: [REACH, AMONG, SAMPLES],
  fileWords: /^(bent ?normals?|bn)$/,
  lifted: true,
  prepare: ({ reach, among, samples }, { on }) => {
    const to = directionsOf(samples);
    const how = { reach: reach * on.size, bias: on.bias, cull: false };
    return (points, from, count, out) =>
      eachRun(points, from, count, { on, own: among === 'own' }, (rays, data, first, n) => {
        rays.occlusion(data, n, to, how, open);
        for (let i = 0; i < n; i++) {
          // Where nothing is open the surface's own direction stands.
          const l = Math.hypot(open[i * 4 + 1], open[i * 4 + 2], open[i * 4 + 3]);
          for (let k = 0; k < 3; k++) {
            const v = l > 1e-6 ? open[i * 4 + 1 + k] / l : data[i * POINT_NUMBERS + 3 + k];
            out[(first + i) * 3 + k] = v * 0.5 + 0.5;
          }
        }
      });
  },
};

/** Means of ways differ less from place to place than what is seen or not: fewer samples do. */
const thicknessSchema = z.object({ type: z.literal('thickness'), reach: reach.default(0.25), samples: samples.default(16) });
export type Thickness = z.infer<typeof thicknessSchema>;
export const thickness: BakeDef<Thickness> = {
  type: 'thickness',
  label: 'Thickness',
  hint: 'How far it goes on under each place: black is thin, white is as thick as the reach or thicker.',
  values: 'value',
  from: { model: true, twin: false },
  schema: thicknessSchema,
  start: { type: 'thickness', reach: 0.25, samples: 16 },
  controls: [REACH, SAMPLES],
  fileWords: /^(thickness|thick)$/,
  prepare: ({ reach, samples }, { on }) => {
    const to = directionsOf(samples);
    const far = reach * on.size;
    return (points, from, count, out) => {
      const data = points.data.subarray(from * POINT_NUMBERS, (from + count) * POINT_NUMBERS);
      on.rays.depth(data, count, to, { reach: far, bias: on.bias }, open);
      for (let i = 0; i < count; i++) out[i] = open[i] / far;
    };
  },
};

const open = new Float32Array(MOST_POINTS * 4);
const few = new Float32Array(MOST_POINTS * POINT_NUMBERS);

/** Calls for runs of points of one part, with the rays among that part alone; or once, among all. */
function eachRun(
  points: AskedPoints,
  from: number,
  count: number,
  { on, own }: { on: Ground; own: boolean },
  run: (rays: Rays, data: Float32Array, first: number, n: number) => void,
): void {
  const data = points.data.subarray(from * POINT_NUMBERS, (from + count) * POINT_NUMBERS);
  if (!own) return run(on.rays, data, 0, count);
  const { facePart } = on.model;
  for (let a = 0; a < count;) {
    const part = facePart[points.face[from + a]];
    let b = a + 1;
    while (b < count && facePart[points.face[from + b]] === part) b++;
    few.set(data.subarray(a * POINT_NUMBERS, b * POINT_NUMBERS));
    run(on.raysOfPart(part), few, a, b - a);
    a = b;
  }
}
