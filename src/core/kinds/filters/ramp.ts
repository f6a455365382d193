/** Colour ramp: how light a texel is chooses its colour. */
import { z } from 'zod';
import { unit } from '../fields';
import { lum } from '../../colour/blend';
import type { RampPiece } from '../../../kernels/rules';
import { kernels } from '../../kernels';
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

/** Straight pieces from stop to stop, and what is even beyond the ends. Where two stops lie on each other the upper one holds. */
function piecesOf(stops: readonly { at: number; colour: readonly number[] }[]): RampPiece[] {
  const three = (of: (c: number) => number): [number, number, number] => [of(0), of(1), of(2)];
  return Array.from({ length: stops.length + 1 }, (_, i) => {
    const from = stops[i - 1] ?? { ...stops[0], at: -Infinity };
    const to = stops[i] ?? { ...from, at: Infinity };
    const span = to.at - from.at;
    const gain = three((c) => (span > 0 && span < Infinity ? (to.colour[c] - from.colour[c]) / span : 0));
    const colour = three((c) => (span < Infinity ? from.colour[c] - gain[c] * from.at : from.colour[c]));
    return { high: to.at, colour, gain };
  });
}

/** The same for `n` places at once, into three planes of `n`. */
export function rampOver(
  stops: readonly { at: number; colour: readonly number[] }[],
  t: Float32Array,
  n: number,
  out: Float32Array,
): void {
  if (n % 4 === 0) return kernels().alongRamp(out.subarray(0, 3 * n), t.subarray(0, n), piecesOf(stops));
  const colour = [0, 0, 0];
  for (let p = 0; p < n; p++) {
    rampAt(stops, t[p], colour);
    for (let c = 0; c < 3; c++) out[c * n + p] = colour[c];
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
