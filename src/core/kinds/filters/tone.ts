/** The small ones for single values: brightness and contrast, invert, desaturate. */
import { z } from 'zod';
import { lum } from '../../colour/blend';
import { percent } from '../control';
import { eachValue, type FilterDef } from './filter';

const clamp01 = (v: number) => (v < 0 ? 0 : v > 1 ? 1 : v);
const signed = z.number().min(-1).max(1);

const contrastSchema = z.object({ type: z.literal('contrast'), brightness: signed, contrast: signed });
export const contrast: FilterDef<z.infer<typeof contrastSchema>> = {
  type: 'contrast',
  label: 'Brightness, contrast',
  hint: 'Moves all values, and spreads or narrows them around the middle.',
  schema: contrastSchema,
  start: { type: 'contrast', brightness: 0, contrast: 0 },
  controls: [percent('brightness', 'Brightness', -1), percent('contrast', 'Contrast', -1)],
  fits: (kind) => kind !== 'normal',
  apply: (data, texels, kind, p) => {
    // −1: all grey. 0: as is. Towards 1 the slope goes to 16, nearly black and white.
    const slope = p.contrast <= 0 ? 1 + p.contrast : 1 / Math.max(1 / 16, 1 - p.contrast);
    const shift = 0.5 + p.brightness * 0.5;
    eachValue(data, texels, kind, (v) => clamp01((v - 0.5) * slope + shift));
  },
};

const invertSchema = z.object({ type: z.literal('invert') });
export const invert: FilterDef<z.infer<typeof invertSchema>> = {
  type: 'invert',
  label: 'Invert',
  hint: 'Turns light into dark, high into low.',
  schema: invertSchema,
  start: { type: 'invert' },
  controls: [],
  fits: () => true,
  apply: (data, texels, kind) => {
    if (kind !== 'normal') return eachValue(data, texels, kind, (v) => 1 - v);
    // Relief the other way round: the slope turns, the direction outward stays.
    for (let i = 0; i < texels * 2; i++) data[i] = 1 - data[i];
  },
};

const desaturateSchema = z.object({ type: z.literal('desaturate'), amount: z.number().min(0).max(1) });
export const desaturate: FilterDef<z.infer<typeof desaturateSchema>> = {
  type: 'desaturate',
  label: 'Desaturate',
  hint: 'Takes colour out and keeps how light it is.',
  schema: desaturateSchema,
  start: { type: 'desaturate', amount: 1 },
  controls: [percent('amount', 'Amount')],
  fits: (kind) => kind === 'colour',
  apply: (data, texels, kind, p) => {
    if (kind !== 'colour') return;
    const c = [0, 0, 0];
    for (let i = 0; i < texels; i++) {
      for (let k = 0; k < 3; k++) c[k] = data[k * texels + i];
      const grey = lum(c);
      for (let k = 0; k < 3; k++) data[k * texels + i] = c[k] + p.amount * (grey - c[k]);
    }
  },
};
