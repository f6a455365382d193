/** Colour ramp: how light a texel is chooses its colour. */
import { z } from 'zod';
import { unit } from '../fields';
import { lum } from '../../colour/blend';
import type { FilterDef } from './filter';

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

/** The same for `n` places at once, into three planes of `n`. */
export function rampOver(
  stops: readonly { at: number; colour: readonly number[] }[],
  t: Float32Array,
  n: number,
  out: Float32Array,
): void {
  const count = stops.length;
  const at = Float64Array.from(stops, (s) => s.at);
  const colours = Float64Array.from(stops.flatMap((s) => [...s.colour]));
  for (let p = 0; p < n; p++) {
    const v = t[p];
    let i = 0;
    while (i < count && at[i] < v) i++;
    const b = i < count ? i : count - 1;
    const a = i > 0 ? i - 1 : 0;
    const span = at[b] - at[a];
    const part = (v - at[a]) / span;
    const k = span > 0 ? (part < 0 ? 0 : part > 1 ? 1 : part) : 1;
    for (let c = 0, o = p; c < 3; c++, o += n) {
      const from = colours[a * 3 + c];
      out[o] = from + (colours[b * 3 + c] - from) * k;
    }
  }
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
  controls: [],
  fits: (kind) => kind !== 'normal',
  apply: (data, texels, kind, p) => {
    if (kind === 'normal') return;
    const stops = p.stops.toSorted((a, b) => a.at - b.at);
    const colour = kind === 'value' ? new Float32Array(texels * 3) : data;
    const light = kind === 'value' ? data.subarray(0, texels) : new Float32Array(texels);
    if (kind !== 'value')
      for (let i = 0; i < texels; i++) light[i] = 0.3 * data[i] + 0.59 * data[texels + i] + 0.11 * data[2 * texels + i];
    rampOver(stops, light, texels, colour);
    if (kind === 'value') for (let i = 0; i < texels; i++) data[i] = lum([colour[i], colour[texels + i], colour[2 * texels + i]]);
  },
};
