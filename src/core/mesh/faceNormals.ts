/** The normals of a mesh's faces, by their planes. */
import { lasting } from '../tile/tiles';
import type { Model } from './model';

/** 3 × float32 a face, unit, out of the side from which its corners run against the clock; 0 where it has no area. */
export function faceNormals({ positions: p, indices }: Pick<Model, 'positions' | 'indices'>): Float32Array {
  const out = lasting(Float32Array, indices.length).fill(0);
  for (let o = 0; o < indices.length; o += 3) {
    const [a, b, c] = [indices[o] * 3, indices[o + 1] * 3, indices[o + 2] * 3];
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    const x = uy * vz - uz * vy;
    const y = uz * vx - ux * vz;
    const z = ux * vy - uy * vx;
    const length = Math.sqrt(x * x + y * y + z * z);
    if (length > 0) out.set([x / length, y / length, z / length], o);
  }
  return out;
}
