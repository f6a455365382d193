/** Where the faces of a model lie on its sheet, and what lies at a place within one. */
import { lasting } from '../../tile/tiles';
import type { Model } from '../model';
import type { SurfaceMap, SurfaceMapInput } from './surfaceMap';

/** Where the corners of a sheet's faces lie on it. */
export function placeCorners({
  model,
  uv,
  materialIndex,
  width,
  height,
}: Omit<SurfaceMapInput, 'islands'>): Pick<SurfaceMap, 'cornersTexels' | 'texelsPerMetre'> {
  const faceCount = model.indices.length / 3;
  const cornersTexels = lasting(Float32Array, faceCount * 6).fill(NaN);
  let texelArea = 0;
  let area = 0;
  for (let f = 0; f < faceCount; f++) {
    if (model.faceMaterial[f] !== materialIndex) continue;
    const o = f * 6;
    let su = 0;
    let sv = 0;
    for (let k = 0; k < 3; k++) {
      su += uv[model.indices[f * 3 + k] * 2] / 3;
      sv += uv[model.indices[f * 3 + k] * 2 + 1] / 3;
    }
    for (let k = 0; k < 3; k++) {
      const v = model.indices[f * 3 + k];
      cornersTexels[o + k * 2] = (uv[v * 2] - Math.floor(su)) * width;
      cornersTexels[o + k * 2 + 1] = (uv[v * 2 + 1] - Math.floor(sv)) * height;
    }
    const d = doubleArea(cornersTexels, o);
    if (Number.isFinite(d)) {
      texelArea += Math.abs(d) / 2;
      area += faceArea(model, f);
    }
  }
  return { cornersTexels, texelsPerMetre: area > 0 && texelArea > 0 ? Math.sqrt(texelArea / area) : 1 };
}

/** Twice the area in texels of the face whose corners begin at c[o]; negative where it is mirrored. */
export function doubleArea(c: Float32Array, o: number): number {
  return (c[o + 2] - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (c[o + 3] - c[o + 1]);
}

function faceArea(model: Model, f: number): number {
  const p = model.positions;
  const a = model.indices[f * 3] * 3;
  const b = model.indices[f * 3 + 1] * 3;
  const c = model.indices[f * 3 + 2] * 3;
  const ux = p[b] - p[a];
  const uy = p[b + 1] - p[a + 1];
  const uz = p[b + 2] - p[a + 2];
  const vx = p[c] - p[a];
  const vy = p[c + 1] - p[a + 1];
  const vz = p[c + 2] - p[a + 2];
  return Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2;
}

/**
 * Writes texel (x, y) as the point of face f with barycentric weights (w0, w1, w2). Weights outside 0..1
 * extrapolate the plane; the normal's weights are clamped, because normals do not extrapolate well.
 */
export function surfacePoint(
  model: Pick<Model, 'positions' | 'normals' | 'indices'>,
  f: number,
  w0: number,
  w1: number,
  w2: number,
  out: Float32Array,
): void {
  const { positions: p, normals: n, indices } = model;
  const a = indices[f * 3] * 3;
  const b = indices[f * 3 + 1] * 3;
  const c = indices[f * 3 + 2] * 3;
  for (let k = 0; k < 3; k++) out[k] = p[a + k] * w0 + p[b + k] * w1 + p[c + k] * w2;
  const c0 = Math.max(0, w0);
  const c1 = Math.max(0, w1);
  const c2 = Math.max(0, w2);
  const nx = n[a] * c0 + n[b] * c1 + n[c] * c2;
  const ny = n[a + 1] * c0 + n[b + 1] * c1 + n[c + 1] * c2;
  const nz = n[a + 2] * c0 + n[b + 2] * c1 + n[c + 2] * c2;
  const length = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1;
  out[3] = nx / length;
  out[4] = ny / length;
  out[5] = nz / length;
}

/** Calls visit(x, y, w0, w1, w2) for every texel whose centre lies in face f. */
export function visitTriangle(
  map: Pick<SurfaceMap, 'cornersTexels' | 'width' | 'height'>,
  f: number,
  visit: (x: number, y: number, w0: number, w1: number, w2: number) => void,
): void {
  const c = map.cornersTexels;
  const o = f * 6;
  const area2 = doubleArea(c, o);
  // Below a thousandth of a texel (or NaN) there is no centre to hit that a neighbour would not own.
  if (!(Math.abs(area2) > 1e-3)) return;
  const x0 = c[o];
  const y0 = c[o + 1];
  const x1 = c[o + 2];
  const y1 = c[o + 3];
  const x2 = c[o + 4];
  const y2 = c[o + 5];
  const top = Math.max(0, Math.ceil(Math.min(y0, y1, y2) - 0.5));
  const bottom = Math.min(map.height - 1, Math.floor(Math.max(y0, y1, y2) - 0.5));
  const left = Math.max(0, Math.ceil(Math.min(x0, x1, x2) - 0.5));
  const right = Math.min(map.width - 1, Math.floor(Math.max(x0, x1, x2) - 0.5));
  // Shared edges: a hair inside both triangles, first writer keeps the texel.
  const eps = -1e-6;
  for (let y = top; y <= bottom; y++) {
    const dy = y + 0.5 - y0;
    for (let x = left; x <= right; x++) {
      const dx = x + 0.5 - x0;
      const w1 = (dx * (y2 - y0) - (x2 - x0) * dy) / area2;
      const w2 = ((x1 - x0) * dy - dx * (y1 - y0)) / area2;
      const w0 = 1 - w1 - w2;
      if (w0 >= eps && w1 >= eps && w2 >= eps) visit(x, y, w0, w1, w2);
    }
  }
}
