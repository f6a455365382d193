/** What comes of sending rays: how open a place is, where to, how thick the model is under it. */
import { z } from 'zod';
import { number, percent } from '../control';
import type { BakeDef } from './bake';

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
  fileWords: /^(ao|occlusion|ambient ?occlusion|ambocc)$/,
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
};
