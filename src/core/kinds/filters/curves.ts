/** A curve through points, without overshoot between them. */
import { z } from 'zod';
import { unit } from '../fields';
import { tableOf, throughTable, type FilterDef } from './filter';

/** [in, out], by rising `in`. */
export const curvePointsSchema = z
  .array(z.tuple([unit, unit]))
  .min(2)
  .max(16)
  .refine((p) => p.every(([x], i) => i === 0 || x > p[i - 1][0]), 'the points of a curve go from left to right');

const schema = z.object({
  type: z.literal('curve'),
  points: curvePointsSchema,
});
type Curve = z.infer<typeof schema>;

/** Monotone cubic interpolation (Fritsch and Carlson, SIAM J. Numer. Anal. 17, 1980); flat beyond the ends. */
export function monotoneCurve(points: readonly (readonly [number, number])[]): (x: number) => number {
  const n = points.length;
  const slope = points.slice(1).map(([x, y], i) => (y - points[i][1]) / (x - points[i][0]));
  const m = points.map((_, i) => (i === 0 ? slope[0] : i === n - 1 ? slope[n - 2] : (slope[i - 1] + slope[i]) / 2));
  for (let i = 0; i < n - 1; i++) {
    if (slope[i] === 0) {
      m[i] = m[i + 1] = 0;
      continue;
    }
    const a = m[i] / slope[i];
    const b = m[i + 1] / slope[i];
    if (a < 0) m[i] = 0;
    if (b < 0) m[i + 1] = 0;
    const s = a * a + b * b;
    if (s > 9) {
      m[i] = (3 * a * slope[i]) / Math.sqrt(s);
      m[i + 1] = (3 * b * slope[i]) / Math.sqrt(s);
    }
  }
  return (x) => {
    if (x <= points[0][0]) return points[0][1];
    if (x >= points[n - 1][0]) return points[n - 1][1];
    let i = 0;
    while (x > points[i + 1][0]) i++;
    const h = points[i + 1][0] - points[i][0];
    const t = (x - points[i][0]) / h;
    return (
      (1 + 2 * t) * (1 - t) * (1 - t) * points[i][1] +
      t * (1 - t) * (1 - t) * h * m[i] +
      t * t * (3 - 2 * t) * points[i + 1][1] +
      t * t * (t - 1) * h * m[i + 1]
    );
  };
}

export const curves: FilterDef<Curve> = {
  type: 'curve',
  label: 'Curve',
  hint: 'Bends values along a curve that you draw.',
  schema,
  start: {
    type: 'curve',
    points: [
      [0, 0],
      [1, 1],
    ],
  },
  controls: [],
  fits: (kind) => kind !== 'normal',
  apply: (data, texels, kind, p) =>
    throughTable(
      data,
      texels,
      kind,
      tableOf(p, () => monotoneCurve(p.points)),
    ),
};
