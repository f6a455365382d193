/**
 * The surface map of a sheet: for every texel its place, normal and triangle on the model, made once per
 * mesh and size. Texels in the gutter get the place that lies where the nearest triangle's plane goes on, so
 * a dab runs over the edge of an island without knowing that there is one.
 */
import { TILE, tileIndex, TILE_TEXELS, type TileIndex } from '../raster/tiles';
import type { Model } from './model';
import type { Islands } from './topology';

/** Blocks of 16 × 16 texels carry 3D bounds so that a dab visits little more than what it touches. */
export const BLOCK = 16;
export const BLOCKS_PER_SIDE = TILE / BLOCK;

/** Gutter in texels per 1024 of width, at least 4: wide enough that three mip levels do not bleed. */
const GUTTER_PER_1024 = 8;

export interface SurfaceTile {
  x: number;
  y: number;
  /** 3 × float32 a texel. Undefined where `face` is −1. */
  position: Float32Array;
  /** 3 × int8 a texel, unit × 127. */
  normal: Int8Array;
  /** Triangle, or −1 where the texel belongs to no island. */
  face: Int32Array;
  /** Per block: min x, y, z, max x, y, z. Empty blocks have min > max. */
  blockBounds: Float32Array;
  bounds: Float32Array;
}

export interface SurfaceMap {
  width: number;
  height: number;
  gutterTexels: number;
  tiles: Map<TileIndex, SurfaceTile>;
  /** 1 for triangles some of whose texels belong to another triangle (overlapping UVs). */
  shadowed: Uint8Array;
  /** Texel coordinates of each corner, 6 a face: u0 v0 u1 v1 u2 v2 (after moving whole triangles into the square). */
  cornersTexels: Float32Array;
  /** Texels per metre: square root of the sheet's total texel area over its area in space. */
  texelsPerMetre: number;
}

export interface SurfaceMapInput {
  model: Model;
  islands: Islands;
  uv: Float32Array;
  materialIndex: number;
  width: number;
  height: number;
}

export function buildSurfaceMap(input: SurfaceMapInput): SurfaceMap {
  const { model, width, height, materialIndex } = input;
  const faceCount = model.indices.length / 3;
  const map: SurfaceMap = {
    width,
    height,
    gutterTexels: Math.max(4, Math.round((GUTTER_PER_1024 * Math.max(width, height)) / 1024)),
    tiles: new Map(),
    shadowed: new Uint8Array(faceCount),
    cornersTexels: new Float32Array(faceCount * 6).fill(NaN),
    texelsPerMetre: 1,
  };
  const faces: number[] = [];
  for (let f = 0; f < faceCount; f++) if (model.faceMaterial[f] === materialIndex) faces.push(f);
  placeCorners(input, map, faces);
  for (const f of faces) fillTriangle(input, map, f);
  fillGutter(input, map, faces);
  for (const tile of map.tiles.values()) computeBounds(tile);
  return map;
}

function placeCorners({ model, uv }: SurfaceMapInput, map: SurfaceMap, faces: number[]): void {
  let texelArea = 0;
  let area = 0;
  for (const f of faces) {
    const o = f * 6;
    let su = 0;
    let sv = 0;
    for (let k = 0; k < 3; k++) {
      su += uv[model.indices[f * 3 + k] * 2] / 3;
      sv += uv[model.indices[f * 3 + k] * 2 + 1] / 3;
    }
    for (let k = 0; k < 3; k++) {
      const v = model.indices[f * 3 + k];
      map.cornersTexels[o + k * 2] = (uv[v * 2] - Math.floor(su)) * map.width;
      map.cornersTexels[o + k * 2 + 1] = (uv[v * 2 + 1] - Math.floor(sv)) * map.height;
    }
    const d = doubleArea(map.cornersTexels, o);
    if (Number.isFinite(d)) {
      texelArea += Math.abs(d) / 2;
      area += faceArea(model, f);
    }
  }
  if (area > 0 && texelArea > 0) map.texelsPerMetre = Math.sqrt(texelArea / area);
}

function doubleArea(c: Float32Array, o: number): number {
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

function tileFor(map: SurfaceMap, tx: number, ty: number): SurfaceTile {
  const index = tileIndex(tx, ty);
  let tile = map.tiles.get(index);
  if (!tile) {
    tile = {
      x: tx,
      y: ty,
      position: new Float32Array(TILE_TEXELS * 3),
      normal: new Int8Array(TILE_TEXELS * 3),
      face: new Int32Array(TILE_TEXELS).fill(-1),
      blockBounds: new Float32Array(BLOCKS_PER_SIDE * BLOCKS_PER_SIDE * 6),
      bounds: new Float32Array(6),
    };
    map.tiles.set(index, tile);
  }
  return tile;
}

/**
 * Writes texel (x, y) as the point of face f with barycentric weights (w0, w1, w2). Weights outside 0..1
 * extrapolate the plane; the normal's weights are clamped, because normals do not extrapolate well.
 */
export function surfacePoint(model: Model, f: number, w0: number, w1: number, w2: number, out: Float32Array): void {
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

const point = new Float32Array(6);

function writeTexel(model: Model, tile: SurfaceTile, i: number, f: number, w0: number, w1: number, w2: number): void {
  surfacePoint(model, f, w0, w1, w2, point);
  tile.face[i] = f;
  tile.position[i * 3] = point[0];
  tile.position[i * 3 + 1] = point[1];
  tile.position[i * 3 + 2] = point[2];
  tile.normal[i * 3] = Math.round(point[3] * 127);
  tile.normal[i * 3 + 1] = Math.round(point[4] * 127);
  tile.normal[i * 3 + 2] = Math.round(point[5] * 127);
}

/** Calls visit(x, y, w0, w1, w2) for every texel whose centre lies in face f. */
export function visitTriangle(
  map: SurfaceMap,
  f: number,
  visit: (x: number, y: number, w0: number, w1: number, w2: number) => void,
): void {
  const c = map.cornersTexels;
  const o = f * 6;
  const area2 = doubleArea(c, o);
  // Below a thousandth of a texel (or NaN) there is no centre to hit that a neighbour would not own.
  if (!(Math.abs(area2) > 1e-3)) return;
  const [x0, y0, x1, y1, x2, y2] = [c[o], c[o + 1], c[o + 2], c[o + 3], c[o + 4], c[o + 5]];
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

function fillTriangle({ model }: SurfaceMapInput, map: SurfaceMap, f: number): void {
  visitTriangle(map, f, (x, y, w0, w1, w2) => {
    const tile = tileFor(map, x >> 7, y >> 7);
    const i = (y & (TILE - 1)) * TILE + (x & (TILE - 1));
    const owner = tile.face[i];
    if (owner < 0) writeTexel(model, tile, i, f, w0, w1, w2);
    // On a shared edge the second triangle is no overlap: only well inside does it count.
    else if (owner !== f && w0 > 1e-3 && w1 > 1e-3 && w2 > 1e-3) map.shadowed[f] = 1;
  });
}

/** Nearest border edge wins; distances in texels, kept only while the gutter is made. */
function fillGutter({ model, islands }: SurfaceMapInput, map: SurfaceMap, faces: number[]): void {
  const { cornersTexels: c, gutterTexels: reach, width, height } = map;
  const nearest = new Map<TileIndex, Float32Array>();
  const reach2 = reach * reach;
  for (const f of faces) {
    const area2 = doubleArea(c, f * 6);
    if (!(Math.abs(area2) > 1e-3)) continue;
    for (let k = 0; k < 3; k++) {
      if (!islands.border[f * 3 + k]) continue;
      const k2 = (k + 1) % 3;
      const [ax, ay] = [c[f * 6 + k * 2], c[f * 6 + k * 2 + 1]];
      const [bx, by] = [c[f * 6 + k2 * 2], c[f * 6 + k2 * 2 + 1]];
      const length2 = (bx - ax) ** 2 + (by - ay) ** 2 || 1e-12;
      const top = Math.max(0, Math.floor(Math.min(ay, by) - reach));
      const bottom = Math.min(height - 1, Math.ceil(Math.max(ay, by) + reach));
      for (let y = top; y <= bottom; y++) {
        const py = y + 0.5;
        // Only the part of the row that can be within reach of the segment.
        const [left, right] = rowSpan(ax, ay, bx, by, py, reach);
        for (let x = Math.max(0, left); x <= Math.min(width - 1, right); x++) {
          const px = x + 0.5;
          const t = Math.min(1, Math.max(0, ((px - ax) * (bx - ax) + (py - ay) * (by - ay)) / length2));
          const dx = px - (ax + (bx - ax) * t);
          const dy = py - (ay + (by - ay) * t);
          const d2 = dx * dx + dy * dy;
          if (d2 > reach2) continue;
          const index = tileIndex(x >> 7, y >> 7);
          const i = (y & (TILE - 1)) * TILE + (x & (TILE - 1));
          const distances = nearest.get(index);
          const existing = map.tiles.get(index);
          if (distances ? d2 >= distances[i] : existing && existing.face[i] >= 0) continue;
          const tile = existing ?? tileFor(map, x >> 7, y >> 7);
          let row = distances;
          if (!row) {
            row = new Float32Array(TILE_TEXELS);
            for (let j = 0; j < TILE_TEXELS; j++) row[j] = tile.face[j] >= 0 ? -1 : Infinity;
            nearest.set(index, row);
          }
          if (d2 >= row[i]) continue;
          row[i] = d2;
          const o = f * 6;
          const w1 = ((px - c[o]) * (c[o + 5] - c[o + 1]) - (c[o + 4] - c[o]) * (py - c[o + 1])) / area2;
          const w2 = ((c[o + 2] - c[o]) * (py - c[o + 1]) - (px - c[o]) * (c[o + 3] - c[o + 1])) / area2;
          writeTexel(model, tile, i, f, 1 - w1 - w2, w1, w2);
        }
      }
    }
  }
}

/** Columns of a row that can be within `reach` of a segment: the segment's extent near that row, widened. */
function rowSpan(ax: number, ay: number, bx: number, by: number, py: number, reach: number): [number, number] {
  let t0 = 0;
  let t1 = 1;
  const dy = by - ay;
  if (Math.abs(dy) > 1e-9) {
    const ta = (py - reach - ay) / dy;
    const tb = (py + reach - ay) / dy;
    t0 = Math.max(0, Math.min(ta, tb));
    t1 = Math.min(1, Math.max(ta, tb));
    if (t0 > t1) return [1, 0];
  }
  const xa = ax + (bx - ax) * t0;
  const xb = ax + (bx - ax) * t1;
  return [Math.floor(Math.min(xa, xb) - reach), Math.ceil(Math.max(xa, xb) + reach)];
}

function computeBounds(tile: SurfaceTile): void {
  const { blockBounds: bb, bounds } = tile;
  for (let k = 0; k < 3; k++) {
    bounds[k] = Infinity;
    bounds[k + 3] = -Infinity;
  }
  for (let b = 0; b < BLOCKS_PER_SIDE * BLOCKS_PER_SIDE; b++) {
    const o = b * 6;
    for (let k = 0; k < 3; k++) {
      bb[o + k] = Infinity;
      bb[o + k + 3] = -Infinity;
    }
    const x0 = (b % BLOCKS_PER_SIDE) * BLOCK;
    const y0 = Math.floor(b / BLOCKS_PER_SIDE) * BLOCK;
    for (let y = y0; y < y0 + BLOCK; y++) {
      for (let i = y * TILE + x0; i < y * TILE + x0 + BLOCK; i++) {
        if (tile.face[i] < 0) continue;
        for (let k = 0; k < 3; k++) {
          const v = tile.position[i * 3 + k];
          if (v < bb[o + k]) bb[o + k] = v;
          if (v > bb[o + k + 3]) bb[o + k + 3] = v;
        }
      }
    }
    for (let k = 0; k < 3; k++) {
      bounds[k] = Math.min(bounds[k], bb[o + k]);
      bounds[k + 3] = Math.max(bounds[k + 3], bb[o + k + 3]);
    }
  }
}

/** 1 where the sheet has an island or its gutter: width × height. */
export function coveredTexels(map: SurfaceMap): Uint8Array {
  const out = new Uint8Array(map.width * map.height);
  for (const tile of map.tiles.values()) {
    const columns = Math.min(TILE, map.width - tile.x * TILE);
    for (let y = 0; y < Math.min(TILE, map.height - tile.y * TILE); y++)
      for (let x = 0; x < columns; x++)
        if (tile.face[y * TILE + x] >= 0) out[(tile.y * TILE + y) * map.width + tile.x * TILE + x] = 1;
  }
  return out;
}
