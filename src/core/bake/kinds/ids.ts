/** Flat colours that stand for parts, materials and islands (kinds/bakes/ids.ts). */
import { oklabToLinear } from '../../colour/oklab';
import { linearToSrgb } from '../../colour/transfer';
import type { Ids } from '../../kinds/bakes/ids';
import type { BakeKind } from './kind';

/** sRGB 0 … 1, whole steps of 1/255: hues a golden angle apart, in three lightnesses, so that neighbours in number look apart. */
export function idColour(n: number): [number, number, number] {
  const hue = n * 137.50776405 * (Math.PI / 180);
  const linear = [0, 0, 0];
  const lightness = 0.55 + 0.15 * (Math.floor(n / 7) % 3);
  for (let chroma = 0.16; ; chroma -= 0.01) {
    oklabToLinear({ l: lightness, a: chroma * Math.cos(hue), b: chroma * Math.sin(hue) }, linear);
    if (chroma > 0 && linear.some((v) => v < 0 || v > 1)) continue;
    return linear.map((v) => Math.round(linearToSrgb(Math.min(1, Math.max(0, v))) * 255) / 255) as [number, number, number];
  }
}

export const ids: BakeKind<Ids> = {
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
