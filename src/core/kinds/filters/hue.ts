/** Turning and tinting colours in OKLCH, where equal steps look equal: hue/saturation/lightness and colourise. */
import { z } from 'zod';
import { TRANSFER } from '../../colour/transfer';
import type { OklabChange } from '../../../kernels/kernels';
import { kernels } from '../../kernels';
import { degrees, percent } from '../control';
import { type FilterDef } from './filter';

/** Three planes, of any number of texels. */
function inOklab(data: Float32Array, texels: number, change: OklabChange): void {
  if (texels % 4 === 0) return kernels().turnInOklab(data, texels, change, TRANSFER);
  const whole = (texels + 3) & ~3;
  const padded = new Float32Array(whole * 3);
  for (let c = 0; c < 3; c++) padded.set(data.subarray(c * texels, (c + 1) * texels), c * whole);
  kernels().turnInOklab(padded, whole, change, TRANSFER);
  for (let c = 0; c < 3; c++) data.set(padded.subarray(c * whole, c * whole + texels), c * texels);
}

const hslSchema = z.object({
  type: z.literal('hue'),
  /** Degrees. */
  hue: z.number().min(-180).max(180),
  /** −1 grey, 0 as is, 1 twice the chroma. */
  saturation: z.number().min(-1).max(1),
  /** Added to OKLab lightness. */
  lightness: z.number().min(-1).max(1),
});
export const hue: FilterDef<z.infer<typeof hslSchema>> = {
  type: 'hue',
  label: 'Hue, saturation, lightness',
  hint: 'Turns hues, strengthens or weakens colour, lifts or lowers it: evenly to the eye.',
  schema: hslSchema,
  start: { type: 'hue', hue: 0, saturation: 0, lightness: 0 },
  controls: [degrees('hue', 'Hue'), percent('saturation', 'Saturation', -1), percent('lightness', 'Lightness', -1)],
  fits: (kind) => kind === 'colour',
  apply: (data, texels, kind, p) => {
    if (kind !== 'colour' || (p.hue === 0 && p.saturation === 0 && p.lightness === 0)) return;
    const turn = (p.hue * Math.PI) / 180;
    const c = Math.cos(turn) * (1 + p.saturation);
    const s = Math.sin(turn) * (1 + p.saturation);
    const turned = { lift: p.lightness, turn: [[c, -s], [s, c]], tint: [0, 0], roomy: false } as const; // prettier-ignore
    inOklab(data, texels, turned);
  },
};

const colouriseSchema = z.object({
  type: z.literal('colourise'),
  /** Degrees of OKLCH hue: 30 red, 90 yellow, 145 green, 265 blue. */
  hue: z.number().min(0).max(360),
  /** OKLCH chroma; sRGB reaches about 0.32. */
  chroma: z.number().min(0).max(0.37),
  amount: z.number().min(0).max(1),
});
export const colourise: FilterDef<z.infer<typeof colouriseSchema>> = {
  type: 'colourise',
  label: 'Colourise',
  hint: 'Gives everything one hue and keeps how light it is.',
  schema: colouriseSchema,
  start: { type: 'colourise', hue: 70, chroma: 0.08, amount: 1 },
  controls: [degrees('hue', 'Hue', 0, 360), percent('chroma', 'Chroma', 0, 0.37), percent('amount', 'Amount')],
  fits: (kind) => kind === 'colour',
  apply: (data, texels, kind, p) => {
    if (kind !== 'colour' || p.amount === 0) return;
    const towards = p.amount * p.chroma;
    const turn = (p.hue * Math.PI) / 180;
    const left = 1 - p.amount;
    const tint = [Math.cos(turn) * towards, Math.sin(turn) * towards] as const;
    // Black and white have no room for chroma: the tint fades towards both.
    inOklab(data, texels, { lift: 0, turn: [[left, 0], [0, left]], tint, roomy: true }); // prettier-ignore
  },
};
