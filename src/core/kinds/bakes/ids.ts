/** A colour for each part, material or island, to pick by. */
import { z } from 'zod';
import { oklabToLinear } from '../../colour/oklab';
import { codeOfRgb, linearToSrgb } from '../../colour/transfer';
import type { BakeDef } from './bake';

const idSchema = z.object({
  type: z.literal('ids'),
  of: z.enum(['part', 'material', 'island']).default('part'),
  /** Version of how ids get colours. 2: no two are alike. Older bakes lack the field and are therefore out of date. */
  colours: z.literal(2).default(2),
});
export type Ids = z.infer<typeof idSchema>;
export const ids: BakeDef<Ids> = {
  type: 'ids',
  label: 'Ids',
  plural: true,
  hint: 'A flat colour for each part, material or UV island.',
  values: 'id',
  from: { model: true, twin: true },
  byItself: true,
  schema: idSchema,
  start: { type: 'ids', of: 'part', colours: 2 },
  controls: [
    {
      kind: 'choice',
      key: 'of',
      label: 'Of',
      options: [
        { value: 'part', label: 'Parts' },
        { value: 'material', label: 'Materials' },
        { value: 'island', label: 'UV islands' },
      ],
    },
  ],
  fileWords: /^(ids?|id ?map|colou?r ?id|mat ?id|part ?id)$/,
  prepare: ({ of }, { on }) => {
    const { model, options } = on;
    const by = { part: model.facePart, material: model.faceMaterial, island: options.islands ?? model.facePart }[of];
    const colours = new Map<number, [number, number, number]>();
    return ({ face }, from, count, out) => {
      for (let i = 0; i < count; i++) {
        const n = by[face[from + i]];
        let colour = colours.get(n);
        if (!colour) colours.set(n, (colour = idColour(n)));
        out.set(colour, i * 3);
      }
    };
  },
};

/** Colours of the first so many ids are chosen to look different; later ones only have to be different. */
const MOST_LOOKED_AT = 4096;
/** Odd, so that its multiples run through all 2^24 colours before one comes again; 2^24 divided by the golden ratio. */
const STRIDE = 10_368_889;

/** The colour of each id so far, 0xRRGGBB. They are computed in order, since each has to differ from all before it. */
const codes: number[] = [];
const taken = new Uint8Array(2 ** 21);

/**
 * sRGB 0 … 1, whole steps of 1/255, no two alike for up to 2^24: what has one is found by its exact code (kinds/steps/ids.ts). The first
 * few hundred look apart as well.
 */
export function idColour(n: number): [number, number, number] {
  while (codes.length <= n) {
    let code = codes.length < MOST_LOOKED_AT ? codeOfRgb(...lookedAt(codes.length)) : (codes.length * STRIDE) % 2 ** 24;
    while (taken[code >> 3] & (1 << (code & 7))) code = (code + STRIDE) % 2 ** 24;
    taken[code >> 3] |= 1 << (code & 7);
    codes.push(code);
  }
  const code = codes[n];
  return [(code >> 16) / 255, ((code >> 8) & 255) / 255, (code & 255) / 255];
}

/** Hues a golden angle apart, in three lightnesses, so that neighbours in number look apart. */
function lookedAt(n: number): [number, number, number] {
  const hue = n * 137.50776405 * (Math.PI / 180);
  const linear = [0, 0, 0];
  const lightness = 0.55 + 0.15 * (Math.floor(n / 7) % 3);
  for (let chroma = 0.16; ; chroma -= 0.01) {
    oklabToLinear({ l: lightness, a: chroma * Math.cos(hue), b: chroma * Math.sin(hue) }, linear);
    if (chroma > 0 && linear.some((v) => v < 0 || v > 1)) continue;
    return linear.map((v) => Math.round(linearToSrgb(Math.min(1, Math.max(0, v))) * 255) / 255) as [number, number, number];
  }
}
