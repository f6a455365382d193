/** Turning and tinting colours in OKLCH, where equal steps look equal: hue/saturation/lightness and colourise. */
import { z } from 'zod';
import { linearToOklab, oklabToLinear, type Lab } from '../../colour/oklab';
import { fastLinear, fastSrgb } from '../../colour/transfer';
import { degrees, percent } from '../control';
import { type FilterDef } from './filter';

const lab: Lab = { l: 0, a: 0, b: 0 };
const rgb = [0, 0, 0];

/** Changes each texel's OKLab in place; colours that leave sRGB are clipped a channel. */
function inOklab(data: Float32Array, texels: number, change: (lab: Lab) => void): void {
  for (let i = 0; i < texels; i++) {
    linearToOklab(fastLinear(data[i]), fastLinear(data[texels + i]), fastLinear(data[2 * texels + i]), lab);
    change(lab);
    oklabToLinear(lab, rgb);
    for (let k = 0; k < 3; k++) data[k * texels + i] = fastSrgb(rgb[k]);
  }
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
    inOklab(data, texels, (v) => {
      const { a, b } = v;
      v.a = a * c - b * s;
      v.b = a * s + b * c;
      v.l = Math.min(1, Math.max(0, v.l + p.lightness));
    });
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
    const ta = Math.cos((p.hue * Math.PI) / 180) * p.chroma;
    const tb = Math.sin((p.hue * Math.PI) / 180) * p.chroma;
    inOklab(data, texels, (v) => {
      // Black and white have no room for chroma: the tint fades towards both.
      const room = Math.min(1, 4 * v.l * (1 - v.l) + 0.15);
      v.a += p.amount * (ta * room - v.a);
      v.b += p.amount * (tb * room - v.b);
    });
  },
};
