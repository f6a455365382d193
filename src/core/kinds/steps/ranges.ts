/** Steps that choose by what is seen: a range of a map's values, or colours that are like one. In a mask: by what lies below. */
import { z } from 'zod';
import { srgbToHex } from '../../colour/transfer';
import { percent } from '../control';
import { mapId, unit } from '../fields';
import { greyControl, greySchema } from '../grey';
import { COLOUR_MAP, mapInfo } from '../maps';
import type { StepDef } from './step';

const RANGE = { type: 'range' as const, map: COLOUR_MAP, by: 'luminance' as const, from: 0.5, to: 1, soft: 0.02 };
const rangeSchema = z.object({
  type: z.literal('range'),
  map: mapId,
  by: greySchema.default(RANGE.by),
  from: unit,
  to: unit,
  /** Over so much beyond its ends it fades out. */
  soft: unit.default(RANGE.soft),
});
export const range: StepDef<z.infer<typeof rangeSchema>> = {
  type: 'range',
  schema: rangeSchema,
  start: RANGE,
  controls: [greyControl('by', 'Takes'), percent('from', 'From'), percent('to', 'To'), percent('soft', 'Fades')],
  word: (p, names) =>
    `${mapInfo(p.map, names.ownMaps).label.toLowerCase()} ${Math.round(Math.min(p.from, p.to) * 100)} to ${Math.round(Math.max(p.from, p.to) * 100)} %`,
  asks: () => ({ below: true }),
  anywhere: true,
  compile: (p, build) => {
    const seen = build.seen(p.map);
    const values = seen && build.asValue(seen, p.by);
    if (!values) return null;
    const [from, to] = [Math.min(p.from, p.to), Math.max(p.from, p.to)];
    // The band's slope lies half within its width.
    const width = Math.min(1, to - from + p.soft);
    return build.adjusted(values, [{ type: 'band', centre: (from + to) / 2, width, soften: p.soft }]);
  },
};

const LIKE = {
  type: 'colour' as const,
  map: COLOUR_MAP,
  colour: [0.5, 0.5, 0.5] as [number, number, number],
  tolerance: 0.08,
  soft: 0.02,
};
const likeSchema = z.object({
  type: z.literal('colour'),
  map: mapId,
  /** RGB in the sRGB curve. */
  colour: z.tuple([unit, unit, unit]),
  /** Distance in OKLab, in which black to white is 1. */
  tolerance: unit.default(LIKE.tolerance),
  soft: unit.default(LIKE.soft),
});
export const like: StepDef<z.infer<typeof likeSchema>> = {
  type: 'colour',
  schema: likeSchema,
  start: LIKE,
  controls: [percent('tolerance', 'Tolerance'), percent('soft', 'Fades')],
  word: (p, names) => `${mapInfo(p.map, names.ownMaps).label.toLowerCase()} like ${srgbToHex(p.colour)}`,
  asks: () => ({ below: true }),
  anywhere: true,
  compile: (p, build) => {
    const seen = build.seen(p.map);
    return seen && build.likeColours(seen, [p.colour], p.tolerance, p.soft);
  },
};
