/** Where on the model, and which way it faces. */
import { z } from 'zod';
import { POINT_NUMBERS } from '../../../kernels/rays';
import { distanceToFaces } from '../../rays/distance';
import { axis, percent } from '../control';
import type { BakeDef } from './bake';

const positionSchema = z.object({ type: z.literal('position'), axis: z.enum(['x', 'y', 'z']).default('y') });
export type Position = z.infer<typeof positionSchema>;
export const position: BakeDef<Position> = {
  type: 'position',
  label: 'Position',
  hint: 'Where along an axis each place lies: black at one end of the model, white at the other.',
  values: 'value',
  from: { model: true, twin: false },
  schema: positionSchema,
  start: { type: 'position', axis: 'y' },
  controls: [axis('axis', 'Along')],
  fileWords: /^(position|pos)$/,
  prepare: ({ axis }, { on }) => {
    const k = ['x', 'y', 'z'].indexOf(axis);
    const [from, span] = [on.min[k], on.max[k] - on.min[k]];
    return ({ data }, first, count, out) => {
      for (let i = 0; i < count; i++)
        out[i] = span > 0 ? Math.min(1, Math.max(0, (data[(first + i) * POINT_NUMBERS + k] - from) / span)) : 0.5;
    };
  },
};

const worldSchema = z.object({ type: z.literal('world-normal') });
export type WorldNormal = z.infer<typeof worldSchema>;
export const worldNormal: BakeDef<WorldNormal> = {
  type: 'world-normal',
  label: 'World normal',
  hint: 'Which way each place faces, in the space of the model.',
  values: 'direction',
  from: { model: true, twin: true },
  schema: worldSchema,
  start: { type: 'world-normal' },
  controls: [],
  fileWords: /^((world|object) ?(space ?)?normals?|wsn|wn)$/,
  prepare:
    () =>
    ({ data }, from, count, out) => {
      for (let i = 0; i < count; i++)
        for (let k = 0; k < 3; k++) out[i * 3 + k] = data[(from + i) * POINT_NUMBERS + 3 + k] * 0.5 + 0.5;
    },
};

const facingSchema = z.object({
  type: z.literal('facing'),
  towards: z.enum(['up', 'down', 'front', 'back', 'left', 'right']).default('up'),
});
export type Facing = z.infer<typeof facingSchema>;
export const TOWARDS: Record<Facing['towards'], readonly [number, number, number]> = {
  up: [0, 1, 0],
  down: [0, -1, 0],
  front: [0, 0, 1],
  back: [0, 0, -1],
  left: [-1, 0, 0],
  right: [1, 0, 0],
};
export const facing: BakeDef<Facing> = {
  type: 'facing',
  label: 'Facing',
  byItself: true,
  hint: 'How far each place faces a direction: white all the way, middle grey square to it, black away.',
  values: 'value',
  from: { model: true, twin: true },
  schema: facingSchema,
  start: { type: 'facing', towards: 'up' },
  controls: [
    {
      kind: 'choice',
      key: 'towards',
      label: 'Towards',
      options: (Object.keys(TOWARDS) as Facing['towards'][]).map((value) => ({
        value,
        label: value[0].toUpperCase() + value.slice(1),
      })),
    },
  ],
  fileWords: /^(facing|up|top ?down)$/,
  prepare: ({ towards }) => {
    const [x, y, z] = TOWARDS[towards];
    return ({ data }, from, count, out) => {
      for (let i = 0; i < count; i++) {
        const o = (from + i) * POINT_NUMBERS + 3;
        out[i] = (data[o] * x + data[o + 1] * y + data[o + 2] * z) * 0.5 + 0.5;
      }
    };
  },
};

const distanceSchema = z.object({
  type: z.literal('distance'),
  /** Name of the part; empty: the first. */
  part: z.string().max(200).default(''),
  reach: z.number().min(0.001, 'a reach is above zero: 0.1 % of the model at least').max(4).default(0.2),
});
export type Distance = z.infer<typeof distanceSchema>;
export const distance: BakeDef<Distance> = {
  type: 'distance',
  label: 'Distance to a part',
  hint: 'How far each place lies from a part: black at the part, white at the reach and beyond.',
  values: 'value',
  from: { model: true, twin: false },
  schema: distanceSchema,
  start: { type: 'distance', part: '', reach: 0.2 },
  controls: [
    { kind: 'part', key: 'part', label: 'From' },
    { ...percent('reach', 'Reach', 0.001, 1), digits: 1, fine: true },
  ],
  fileWords: /^distance$/,
  prepare: ({ part, reach }, { on }) => {
    const far = reach * on.size;
    const named = on.model.parts.indexOf(part);
    const to = distanceToFaces(on.model, on.facesOfPart(named < 0 ? 0 : named), far);
    return ({ data }, from, count, out) => {
      for (let i = 0; i < count; i++) {
        const o = (from + i) * POINT_NUMBERS;
        out[i] = to(data[o], data[o + 1], data[o + 2]) / far;
      }
    };
  },
};
