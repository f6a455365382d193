/** Colour ramp: how light a texel is chooses its colour. */
import { z } from 'zod';
import { lum } from '../../colour/blend';
import type { FilterDef } from './filter';

const unit = z.number().min(0).max(1);
const schema = z.object({
  type: z.literal('ramp'),
  /** By rising place; colours in the sRGB curve. */
  stops: z
    .array(z.object({ at: unit, colour: z.tuple([unit, unit, unit]) }))
    .min(1)
    .max(16),
});
type Ramp = z.infer<typeof schema>;

/** Colour at a place: straight between stops, even beyond the first and the last. */
export function rampAt(
  stops: readonly { at: number; colour: readonly number[] }[],
  t: number,
  out: { [index: number]: number },
): void {
  let i = 0;
  while (i < stops.length && stops[i].at < t) i++;
  const b = stops[Math.min(i, stops.length - 1)];
  const a = stops[Math.max(0, i - 1)];
  const span = b.at - a.at;
  const k = span > 0 ? Math.min(1, Math.max(0, (t - a.at) / span)) : 1;
  for (let c = 0; c < 3; c++) out[c] = a.colour[c] + (b.colour[c] - a.colour[c]) * k;
}

export const ramp: FilterDef<Ramp> = {
  type: 'ramp',
  label: 'Colour ramp',
  hint: 'Dark, middle and light each get a colour; on a value map, a value.',
  schema,
  start: {
    type: 'ramp',
    stops: [
      { at: 0, colour: [0.1, 0.12, 0.2] },
      { at: 1, colour: [0.95, 0.88, 0.7] },
    ],
  },
  fits: (kind) => kind !== 'normal',
  apply: (data, texels, kind, p) => {
    if (kind === 'normal') return;
    const out = [0, 0, 0];
    const stops = p.stops.toSorted((a, b) => a.at - b.at);
    if (kind === 'value')
      for (let i = 0; i < texels; i++) {
        rampAt(stops, data[i], out);
        data[i] = lum(out);
      }
    else
      for (let i = 0; i < texels; i++) {
        rampAt(stops, 0.3 * data[i] + 0.59 * data[texels + i] + 0.11 * data[2 * texels + i], out);
        for (let k = 0; k < 3; k++) data[k * texels + i] = out[k];
      }
  },
};
