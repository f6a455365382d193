/**
 * How the shape of a model shades it where no light does: hollows dark, what stands out a little light. For views without light,
 * where colour alone does not tell what is near and what is far.
 */
import type { RayModel, RayQuery } from './surfaceQuery';
import { faceNormals } from './faceNormals';
import { boundsOf } from './model';
import { weldCorners } from './topology';

type Shape = Pick<RayModel, 'positions' | 'indices'>;

/** Rays a vertex; of large models fewer, so that all of them together are not too many. */
const RAYS = 48;
const LEAST_RAYS = 12;
const ALL_RAYS = 800_000;
/** What lies further than this share of the model's diagonal does not darken. */
const REACH = 0.25;
const DARKEST = 0.75;
const LIGHTEST = 0.16;
/** Vertices between two breaths. */
const AT_ONCE = 8;

/**
 * Per vertex how much is taken off: 0 nothing, above it darker (0.75 at most), below it lighter. Of rays sent out with the cosine
 * around the vertex (Malley's method: Pharr, Jakob, Humphreys, Physically Based Rendering, 13.6.3), so many meet the model, near
 * ones more. What stands out: the mean of the angles of its edges. Yields now and then what is done, 0 … 1; returns all.
 */
export function* formOf(model: Shape, query: RayQuery): Generator<number, Float32Array> {
  const { positions, indices } = model;
  const corner = weldCorners(model);
  const count = corner.reduce((most, v) => Math.max(most, v + 1), 0);
  const faces = indices.length / 3;
  const planes = faceNormals(model);
  const places = new Float64Array(count * 3);
  const normals = new Float64Array(count * 3);
  const around: number[][] = Array.from({ length: count }, () => []);
  for (let f = 0; f < faces; f++)
    for (let k = 0; k < 3; k++) {
      const w = corner[f * 3 + k];
      const v = indices[f * 3 + k] * 3;
      around[w].push(f);
      const angle = angleAt(positions, indices, f, k);
      for (let c = 0; c < 3; c++) {
        places[w * 3 + c] = positions[v + c];
        normals[w * 3 + c] += planes[f * 3 + c] * angle;
      }
    }
  const size = boundsOf(positions).diagonal || 1;
  const rays = Math.round(Math.min(RAYS, Math.max(LEAST_RAYS, ALL_RAYS / count)));
  const values = new Float32Array(count);
  for (let w = 0; w < count; w++) {
    if (w % AT_ONCE === 0) yield w / count;
    const n = unit(normals, w * 3);
    if (!n) continue;
    const at = [0, 1, 2].map((c) => places[w * 3 + c] + n[c] * size * 1e-4);
    const out = standsOut(around[w], planes, places, w, model);
    values[w] = DARKEST * occlusion(query, at, n, size * REACH, rays) - LIGHTEST * out;
  }
  const all = new Float32Array(positions.length / 3);
  for (let i = 0; i < corner.length; i++) all[indices[i]] = values[corner[i]];
  return all;
}

/** How much of the half space over a place is closed, near things in full and those at `reach` not at all: 0 … 1. */
export function occlusion(query: RayQuery, at: readonly number[], n: readonly number[], reach: number, rays = RAYS): number {
  const [tx, ty] = tangents(n);
  let sum = 0;
  for (let k = 0; k < rays; k++) {
    // A spiral on the disc, evenly by area, lifted onto the half sphere.
    const r = Math.sqrt((k + 0.5) / rays);
    const a = k * 2.399963229728653;
    const [x, y, z] = [r * Math.cos(a), r * Math.sin(a), Math.sqrt(1 - r * r)];
    const hit = query.raycast(
      at,
      n.map((v, c) => tx[c] * x + ty[c] * y + v * z),
    );
    if (hit && hit.distance < reach) sum += 1 - hit.distance / reach;
  }
  return sum / rays;
}

/** 1: the faces around stand back by a right angle, as at the corner of a box; 0: they are level, or rise. */
function standsOut(faces: readonly number[], planes: Float32Array, places: Float64Array, w: number, model: Shape): number {
  const { positions, indices } = model;
  let [sum, count] = [0, 0];
  for (const f of faces)
    for (const g of faces) {
      if (f === g) continue;
      // The middle of the other face lies below this one's plane where the edge between them stands out.
      let [below, length] = [0, 0];
      for (let c = 0; c < 3; c++) {
        let middle = -places[w * 3 + c];
        for (let k = 0; k < 3; k++) middle += positions[indices[g * 3 + k] * 3 + c] / 3;
        below -= middle * planes[f * 3 + c];
        length += middle * middle;
      }
      sum += length > 0 ? below / Math.sqrt(length) : 0;
      count++;
    }
  return count > 0 ? Math.min(1, Math.max(0, sum / count)) : 0;
}

function angleAt(p: Float32Array, indices: Uint32Array, f: number, k: number): number {
  const [a, b, c] = [0, 1, 2].map((n) => indices[f * 3 + ((k + n) % 3)] * 3);
  let [dot, uu, vv] = [0, 0, 0];
  for (let i = 0; i < 3; i++) {
    const [u, v] = [p[b + i] - p[a + i], p[c + i] - p[a + i]];
    dot += u * v;
    uu += u * u;
    vv += v * v;
  }
  return uu > 0 && vv > 0 ? Math.acos(Math.min(1, Math.max(-1, dot / Math.sqrt(uu * vv)))) : 0;
}

function unit(of: ArrayLike<number>, o: number): number[] | null {
  const length = Math.hypot(of[o], of[o + 1], of[o + 2]);
  return length > 1e-20 ? [of[o] / length, of[o + 1] / length, of[o + 2] / length] : null;
}

/** Two directions square to a unit one and to each other. */
function tangents([x, y, z]: readonly number[]): [number[], number[]] {
  // Duff et al., Building an orthonormal basis, revisited, 2017.
  const sign = z < 0 ? -1 : 1;
  const a = -1 / (sign + z);
  const b = x * y * a;
  return [
    [1 + sign * x * x * a, sign * b, -sign * x],
    [b, sign + y * y * a, -y],
  ];
}
