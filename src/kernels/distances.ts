/** Distances from a place to boxes and faces. */
import type { Triangles } from './flood';

/** Squared distance of a point from a box: min x, y, z, max x, y, z. From an empty one (min > max) it is infinite. */
export function boxDistance2(b: Float32Array, o: number, x: number, y: number, z: number): number {
  const dx = x < b[o] ? b[o] - x : x > b[o + 3] ? x - b[o + 3] : 0;
  const dy = y < b[o + 1] ? b[o + 1] - y : y > b[o + 4] ? y - b[o + 4] : 0;
  const dz = z < b[o + 2] ? b[o + 2] - z : z > b[o + 5] ? z - b[o + 5] : 0;
  return dx * dx + dy * dy + dz * dz;
}

/**
 * Squared distance from a point to a triangle. C. Ericson, "Real-Time Collision Detection", 2005, 5.1.5,
 * by the regions of the closest feature.
 */
export function distanceToFace2({ positions: p, indices }: Triangles, face: number, x: number, y: number, z: number): number {
  const a = indices[face * 3] * 3;
  const b = indices[face * 3 + 1] * 3;
  const c = indices[face * 3 + 2] * 3;
  const ax = p[a];
  const ay = p[a + 1];
  const az = p[a + 2];
  const abx = p[b] - ax;
  const aby = p[b + 1] - ay;
  const abz = p[b + 2] - az;
  const acx = p[c] - ax;
  const acy = p[c + 1] - ay;
  const acz = p[c + 2] - az;
  const apx = x - ax;
  const apy = y - ay;
  const apz = z - az;
  const d1 = abx * apx + aby * apy + abz * apz;
  const d2 = acx * apx + acy * apy + acz * apz;
  if (d1 <= 0 && d2 <= 0) return apx * apx + apy * apy + apz * apz;
  const bpx = x - p[b];
  const bpy = y - p[b + 1];
  const bpz = z - p[b + 2];
  const d3 = abx * bpx + aby * bpy + abz * bpz;
  const d4 = acx * bpx + acy * bpy + acz * bpz;
  if (d3 >= 0 && d4 <= d3) return bpx * bpx + bpy * bpy + bpz * bpz;
  const vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) {
    const v = d1 / (d1 - d3);
    return square(apx - abx * v, apy - aby * v, apz - abz * v);
  }
  const cpx = x - p[c];
  const cpy = y - p[c + 1];
  const cpz = z - p[c + 2];
  const d5 = abx * cpx + aby * cpy + abz * cpz;
  const d6 = acx * cpx + acy * cpy + acz * cpz;
  if (d6 >= 0 && d5 <= d6) return cpx * cpx + cpy * cpy + cpz * cpz;
  const vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) {
    const w = d2 / (d2 - d6);
    return square(apx - acx * w, apy - acy * w, apz - acz * w);
  }
  const va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const w = (d4 - d3) / (d4 - d3 + (d5 - d6));
    const v = 1 - w;
    return square(apx - abx * v - acx * w, apy - aby * v - acy * w, apz - abz * v - acz * w);
  }
  const denominator = va + vb + vc;
  if (denominator === 0) return apx * apx + apy * apy + apz * apz;
  const v = vb / denominator;
  const w = vc / denominator;
  return square(apx - abx * v - acx * w, apy - aby * v - acy * w, apz - abz * v - acz * w);
}

const square = (x: number, y: number, z: number) => x * x + y * y + z * z;
