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
  // The segment of the last place, as straight lines: from `low` on up to `high`.
  let [low, high, r, g, b, dr, dg, db] = [NaN, NaN, 0, 0, 0, 0, 0, 0];
  for (let p = 0; p < n; p++) {
    const v = t[p];
    if (!(v > low && v <= high)) {
      let i = 0;
      while (i < count && at[i] < v) i++;
      const [from, to] = [i > 0 ? i - 1 : 0, i < count ? i : count - 1];
      low = i > 0 ? at[i - 1] : -Infinity;
      high = i < count ? at[i] : Infinity;
      const span = i > 0 && i < count ? at[to] - at[from] : Infinity;
      // Beyond the ends it is even; where two stops lie on each other the upper one holds.
      const [a, c] = [i < count ? from * 3 : to * 3, to * 3];
      dr = (colours[c] - colours[a]) / span;
      dg = (colours[c + 1] - colours[a + 1]) / span;
      db = (colours[c + 2] - colours[a + 2]) / span;
      const zero = span === Infinity ? 0 : low;
      r = colours[a] - dr * zero;
      g = colours[a + 1] - dg * zero;
      b = colours[a + 2] - db * zero;
    }
    out[p] = r + dr * v;
    out[n + p] = g + dg * v;
    out[2 * n + p] = b + db * v;
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
