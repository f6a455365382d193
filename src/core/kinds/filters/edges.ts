/** Shading inside edges, by exact distance from an outline (tile/distance.ts). */
import { z } from 'zod';
import { unit } from '../fields';
import { signedDistances } from '../../tile/distance';
import { step } from '../sources/source';
import { percent, texels } from '../control';
import type { FilterDef, Pass } from './filter';

/** A pass over the distance from the outline at 0.5, exact up to `reach` texels. */
function byDistance(reach: number, value: (d: number) => number, evenValue: (v: number) => number): Pass {
  const r = Math.ceil(reach) + 1;
  return {
    rx: r,
    ry: r,
    run: (window, width, height, _kind, out, opaque) => {
      const across = width + 2 * r;
      const count = across * (height + 2 * r);
      const inside = new Uint8Array(count);
      // What is not covered is outside.
      for (let i = 0; i < count; i++) inside[i] = (opaque ? window[i] : window[i] * window[count + i]) >= 0.5 ? 1 : 0;
      const d = signedDistances(inside, across, height + 2 * r);
      for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) out[y * width + x] = value(d[(y + r) * across + x + r]);
      out.fill(1, width * height, 2 * width * height);
    },
    even: ([v, a]) => [evenValue(v * a), 1],
  };
}

const rimSchema = z.object({
  type: z.literal('rim'),
  shape: z.enum(['shadow', 'outline', 'bevel']),
  /** Texels. */
  width: z.number().min(0.5).max(160),
  /** Of the outline's two borders, as a share of the width. */
  soften: unit,
});
export const rim: FilterDef<z.infer<typeof rimSchema>> = {
  type: 'rim',
  label: 'Inside the edge',
  hint: 'What lies inside an outline by its distance from it: a shadow that fades inwards, a line along it, or a bevel that rises from it.',
  schema: rimSchema,
  start: { type: 'rim', shape: 'shadow', width: 12, soften: 0.3 },
  controls: [
    {
      kind: 'choice',
      key: 'shape',
      label: 'Shape',
      options: [
        { value: 'shadow', label: 'A shadow that fades inwards' },
        { value: 'outline', label: 'A line along the edge' },
        { value: 'bevel', label: 'A bevel that rises' },
      ],
    },
    texels('width', 'Width', 0.5, 160),
    percent('soften', 'Soften'),
  ],
  fits: (kind) => kind === 'value',
  passes: (p) => {
    const soft = Math.max(0.5, (p.soften * p.width) / 2);
    const value = {
      shadow: (d: number) => (d < 0 ? 0 : step(p.width, 0, d)),
      outline: (d: number) => (d < -0.5 ? 0 : step(p.width + soft, p.width - soft, d)),
      // A quarter round.
      bevel: (d: number) => {
        const t = Math.min(1, Math.max(0, d / p.width));
        return Math.sqrt(t * (2 - t));
      },
    }[p.shape];
    return [byDistance(p.width + soft, value, (v) => (p.shape === 'bevel' && v >= 0.5 ? 1 : 0))];
  },
};
