/** How the surface bends at each point (kinds/bakes/shape.ts). */
import { POINT_NUMBERS } from '../../../kernels/rays';
import { PLACE_PLANES } from '../../../kernels/segments';
import { kernels } from '../../kernels';
import type { Cavity, Curvature, Edges } from '../../kinds/bakes/shape';
import { convexEdges, EdgeGrid } from '../../mesh/sharpEdges';
import type { Ground } from '../ground';
import type { AskedPoints, BakeKind, Work } from './kind';

/** So many points share a list of what lies near: they lie together. */
const TOGETHER = 64;
const box = new Float64Array(6);
const places = new Float32Array(TOGETHER * PLACE_PLANES);
const found = new Float32Array(TOGETHER);

function boxOf({ data }: AskedPoints, from: number, to: number): void {
  box.fill(Infinity, 0, 3).fill(-Infinity, 3, 6);
  for (let n = from; n < to; n++)
    for (let k = 0; k < 3; k++) {
      const v = data[n * POINT_NUMBERS + k];
      if (v < box[k]) box[k] = v;
      if (v > box[k + 3]) box[k + 3] = v;
    }
}

/** Curvature times the radius: 0.5 on a ball twice as large as the radius, about 1.2 along an edge of a box. */
function bends(on: Ground, radius: number, value: (v: number) => number): Work {
  const curvature = on.curvature(radius);
  const scale = radius * on.size;
  return (points, from, count, out) => {
    const { data } = points;
    for (let a = from; a < from + count; a += TOGETHER) {
      const b = Math.min(from + count, a + TOGETHER);
      boxOf(points, a, b);
      for (let n = a, t = 0; n < b; n++, t += 6)
        for (let k = 0; k < 3; k++) {
          places[t + k] = data[n * POINT_NUMBERS + k];
          places[t + 3 + k] = data[n * POINT_NUMBERS + 6 + k];
        }
      curvature.of(places, b - a, box, found);
      for (let n = a; n < b; n++) out[n - from] = value(found[n - a] * scale);
    }
  };
}

export const curvature: BakeKind<Curvature> = {
  prepare: ({ radius, strength }, { on }) => bends(on, radius, (v) => Math.min(1, Math.max(0, 0.5 + 0.5 * v * strength))),
};

export const cavity: BakeKind<Cavity> = {
  prepare: ({ radius, strength }, { on }) => bends(on, radius, (v) => Math.min(1, Math.max(0, -v * strength))),
};

export const edges: BakeKind<Edges> = {
  prepare: ({ angle, width }, { on }) => {
    const reach = width * on.size;
    const grid = new EdgeGrid(convexEdges(on.model, on.corner, (angle * Math.PI) / 180), Math.max(reach, on.size / 128));
    const list: number[] = [];
    return (points, from, count, out) => {
      const { data } = points;
      for (let a = from; a < from + count; a += TOGETHER) {
        const b = Math.min(from + count, a + TOGETHER);
        boxOf(points, a, b);
        const listed = grid.near(box, reach, list);
        // Up to a multiple of four the last one stands again.
        const lanes = (b - a + 3) & ~3;
        for (let i = 0; i < lanes; i++) {
          const o = Math.min(a + i, b - 1) * POINT_NUMBERS;
          for (let k = 0; k < 3; k++) {
            places[TOGETHER * k + i] = data[o + k];
            places[TOGETHER * (k + 3) + i] = data[o + 6 + k];
          }
        }
        kernels().segments(places, TOGETHER, lanes, grid.listed(list), listed, reach, found);
        for (let n = a; n < b; n++) out[n - from] = 1 - found[n - a] / reach;
      }
    };
  },
};
