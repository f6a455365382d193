/** Rays out of each point, and into it (kinds/bakes/light.ts). */
import { MOST_POINTS, POINT_NUMBERS, type Rays } from '../../../kernels/rays';
import type { BentNormal, Occlusion, Thickness } from '../../kinds/bakes/light';
import { directionsOf } from '../directions';
import type { Ground } from '../ground';
import type { BakeKind, AskedPoints } from './kind';

const open = new Float32Array(MOST_POINTS * 4);
const few = new Float32Array(MOST_POINTS * POINT_NUMBERS);

/** Calls for runs of points of one part, with the rays among that part alone; or once, among all. */
function eachRun(
  points: AskedPoints,
  from: number,
  count: number,
  { on, own }: { on: Ground; own: boolean },
  run: (rays: Rays, data: Float32Array, first: number, n: number) => void,
): void {
  const data = points.data.subarray(from * POINT_NUMBERS, (from + count) * POINT_NUMBERS);
  if (!own) return run(on.rays, data, 0, count);
  const { facePart } = on.model;
  for (let a = 0; a < count;) {
    const part = facePart[points.face[from + a]];
    let b = a + 1;
    while (b < count && facePart[points.face[from + b]] === part) b++;
    few.set(data.subarray(a * POINT_NUMBERS, b * POINT_NUMBERS));
    run(on.raysOfPart(part), few, a, b - a);
    a = b;
  }
}

export const occlusion: BakeKind<Occlusion> = {
  lifted: true,
  prepare: ({ reach, among, sides, samples }, { on }) => {
    const to = directionsOf(samples);
    const how = { reach: reach * on.size, bias: on.bias, cull: sides === 'front' };
    return (points, from, count, out) =>
      eachRun(points, from, count, { on, own: among === 'own' }, (rays, data, first, n) => {
        rays.occlusion(data, n, to, how, open);
        for (let i = 0; i < n; i++) out[first + i] = open[i * 4];
      });
  },
};

export const bentNormal: BakeKind<BentNormal> = {
  lifted: true,
  prepare: ({ reach, among, samples }, { on }) => {
    const to = directionsOf(samples);
    const how = { reach: reach * on.size, bias: on.bias, cull: false };
    return (points, from, count, out) =>
      eachRun(points, from, count, { on, own: among === 'own' }, (rays, data, first, n) => {
        rays.occlusion(data, n, to, how, open);
        for (let i = 0; i < n; i++) {
          // Where nothing is open the surface's own direction stands.
          const l = Math.hypot(open[i * 4 + 1], open[i * 4 + 2], open[i * 4 + 3]);
          for (let k = 0; k < 3; k++) {
            const v = l > 1e-6 ? open[i * 4 + 1 + k] / l : data[i * POINT_NUMBERS + 3 + k];
            out[(first + i) * 3 + k] = v * 0.5 + 0.5;
          }
        }
      });
  },
};

export const thickness: BakeKind<Thickness> = {
  prepare: ({ reach, samples }, { on }) => {
    const to = directionsOf(samples);
    const far = reach * on.size;
    return (points, from, count, out) => {
      const data = points.data.subarray(from * POINT_NUMBERS, (from + count) * POINT_NUMBERS);
      on.rays.depth(data, count, to, { reach: far, bias: on.bias }, open);
      for (let i = 0; i < count; i++) out[i] = open[i] / far;
    };
  },
};
