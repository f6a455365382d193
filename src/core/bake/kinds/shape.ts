/** How the surface bends at each point (kinds/bakes/shape.ts). */
import { POINT_NUMBERS } from '../../../kernels/rays';
import type { Cavity, Curvature, Edges } from '../../kinds/bakes/shape';
import { convexEdges, EdgeGrid } from '../../mesh/sharpEdges';
import type { Ground } from '../ground';
import type { AskedPoints, BakeKind, Work } from './kind';

/** So many points share a list of what lies near: they lie together. */
const TOGETHER = 64;
const box = new Float64Array(6);

function boxOf({ data }: AskedPoints, from: number, to: number): void {
  box.fill(Infinity, 0, 3).fill(-Infinity, 3, 6);
  for (let n = from; n < to; n++)
    for (let k = 0; k < 3; k++) {
      const v = data[n * POINT_NUMBERS + k];
      if (v < box[k]) box[k] = v;
      if (v > box[k + 3]) box[k + 3] = v;
    }
}

/** Curvature times the radius: about 1 along an edge of a box, 0.5 at that of … a ball twice as large as the radius. */
function bends(on: Ground, radius: number, value: (v: number) => number): Work {
  const curvature = on.curvature(radius);
  const scale = radius * on.size;
  return (points, from, count, out) => {
    const { data } = points;
    for (let a = from; a < from + count; a += TOGETHER) {
      const b = Math.min(from + count, a + TOGETHER);
      boxOf(points, a, b);
      curvature.around(box);
      for (let n = a; n < b; n++) {
        const o = n * POINT_NUMBERS;
        const v = curvature.at(data[o], data[o + 1], data[o + 2], data[o + 6], data[o + 7], data[o + 8]);
        out[n - from] = value(v * scale);
      }
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
        grid.near(box, reach, list);
        for (let n = a; n < b; n++) {
          const o = n * POINT_NUMBERS;
          const [x, y, z, , , , gx, gy, gz] = data.subarray(o, o + 9);
          out[n - from] = 1 - grid.distance(list, x, y, z, gx, gy, gz, reach) / reach;
        }
      }
    };
  },
};
