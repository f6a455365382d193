/** Point filters beside those of tone.ts: steps, thresholds, bands, plausible albedo, one number of a colour. */
import { z } from 'zod';
import { unit } from '../fields';
import { lum } from '../../colour/blend';
import { GREY_LABELS, greyOf, GREYS, greySchema } from '../grey';
import { step } from '../sources/source';
import { number, percent } from '../control';
import { eachValue, type FilterDef } from './filter';

const posteriseSchema = z.object({ type: z.literal('posterise'), steps: z.number().int().min(2).max(64) });
export const posterise: FilterDef<z.infer<typeof posteriseSchema>> = {
  type: 'posterise',
  label: 'Posterise',
  hint: 'Leaves only so many steps of each value.',
  schema: posteriseSchema,
  start: { type: 'posterise', steps: 4 },
  controls: [number('steps', 'Steps', 2, 64)],
  fits: (kind) => kind !== 'normal',
  apply: (data, texels, kind, p) =>
    eachValue(data, texels, kind, (v) => Math.min(p.steps - 1, Math.floor(v * p.steps)) / (p.steps - 1)),
};

const thresholdSchema = z.object({ type: z.literal('threshold'), at: unit, soften: unit });
export const threshold: FilterDef<z.infer<typeof thresholdSchema>> = {
  type: 'threshold',
  label: 'Threshold',
  hint: 'White above a value, black below it.',
  schema: thresholdSchema,
  start: { type: 'threshold', at: 0.5, soften: 0 },
  controls: [percent('at', 'At'), percent('soften', 'Soften')],
  fits: (kind) => kind !== 'normal',
  apply: (data, texels, kind, p) => {
    const half = p.soften / 2;
    const cut = (v: number) => step(p.at - half, p.at + half, v);
    if (kind === 'value') return eachValue(data, texels, kind, cut);
    // A colour is above or below as a whole, by its luminosity.
    const c = [0, 0, 0];
    for (let i = 0; i < texels; i++) {
      for (let k = 0; k < 3; k++) c[k] = data[k * texels + i];
      const v = cut(lum(c));
      for (let k = 0; k < 3; k++) data[k * texels + i] = v;
    }
  },
};

const bandSchema = z.object({ type: z.literal('band'), centre: unit, width: unit, soften: unit });
export const band: FilterDef<z.infer<typeof bandSchema>> = {
  type: 'band',
  label: 'Band',
  hint: 'White around one value, black away from it.',
  schema: bandSchema,
  start: { type: 'band', centre: 0.5, width: 0.2, soften: 0.1 },
  controls: [percent('centre', 'Around'), percent('width', 'Width'), percent('soften', 'Soften')],
  fits: (kind) => kind === 'value',
  apply: (data, texels, kind, p) => {
    if (kind !== 'value') return;
    const soft = Math.max(1e-5, p.soften / 2);
    eachValue(data, texels, kind, (v) => step(p.width / 2 + soft, p.width / 2 - soft, Math.abs(v - p.centre)));
  },
};

/**
 * Measured reflectances of real non-metals lie between about 0.03 (charcoal, fresh asphalt) and 0.85 (fresh snow), as
 * linear luminance: about 0.19 and 0.93 in the sRGB curve.
 */
export const PLAUSIBLE_ALBEDO = { low: 0.19, high: 0.93 } as const;

const albedoSchema = z.object({ type: z.literal('albedo'), low: unit, high: unit });
export const albedo: FilterDef<z.infer<typeof albedoSchema>> = {
  type: 'albedo',
  label: 'Plausible albedo',
  hint: 'Lifts colours darker, and lowers those lighter, than any real surface that is no metal.',
  schema: albedoSchema,
  start: { type: 'albedo', ...PLAUSIBLE_ALBEDO },
  controls: [percent('low', 'Darkest'), percent('high', 'Lightest')],
  fits: (kind) => kind === 'colour',
  apply: (data, texels, kind, p) => {
    if (kind !== 'colour') return;
    const high = Math.max(p.low, p.high);
    const c = [0, 0, 0];
    for (let i = 0; i < texels; i++) {
      for (let k = 0; k < 3; k++) c[k] = data[k * texels + i];
      const l = lum(c);
      if (l >= p.low && l <= high) continue;
      // Moved along the greys: the hue stays, black gets none.
      const shift = l < p.low ? p.low - l : high - l;
      for (let k = 0; k < 3; k++) data[k * texels + i] = Math.min(1, Math.max(0, c[k] + shift));
    }
  },
};

const greyFilterSchema = z.object({ type: z.literal('grey'), by: greySchema.exclude(['alpha']) });
export const grey: FilterDef<z.infer<typeof greyFilterSchema>> = {
  type: 'grey',
  label: 'Grey by',
  hint: 'Takes one number of a colour: luminance, the largest, the mean, or a channel.',
  schema: greyFilterSchema,
  start: { type: 'grey', by: 'luminance' },
  controls: [
    {
      kind: 'choice',
      key: 'by',
      label: 'By',
      options: GREYS.filter((g) => g !== 'alpha').map((value) => ({ value, label: GREY_LABELS[value] })),
    },
  ],
  fits: (kind) => kind === 'colour',
  apply: (data, texels, kind, p) => {
    if (kind !== 'colour') return;
    const c = [0, 0, 0];
    for (let i = 0; i < texels; i++) {
      for (let k = 0; k < 3; k++) c[k] = data[k * texels + i];
      const v = greyOf(p.by, c);
      for (let k = 0; k < 3; k++) data[k * texels + i] = v;
    }
  },
};
