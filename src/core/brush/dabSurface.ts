/**
 * A round dab on the surface: a ball in space, evaluated at every texel's own place. UV seams do not exist
 * here. Far sides of thin parts are left out by their normal, neighbouring parts by connection.
 */
import { visitTriangle, BLOCK, BLOCKS_PER_SIDE, type SurfaceMap, type SurfaceTile, surfacePoint } from '../mesh/surfaceMap';
import { distanceToFace2, type SurfaceHit, type SurfaceQuery } from '../mesh/surfaceQuery';
import { TILE, tileIndex } from '../raster/tiles';
import { FALLOFF_STEPS, type Coverage } from './coverage';

export interface SurfaceDab {
  hit: SurfaceHit;
  /** Metres. */
  radius: number;
  flow: number;
  cap: number;
  reach: 'connected' | 'all';
}

/**
 * Facing: texels whose normal turns away from the dab's are left out. A right-angled edge (cosine 0) still
 * gets all, the back of a sheet (cosine −1) nothing; between −0.1 and −0.5 it fades, so that round rods
 * have no hard line.
 */
const FACING_FULL = -0.1;
const FACING_NONE = -0.5;

export function dabSurface(
  coverage: Coverage,
  map: SurfaceMap,
  query: SurfaceQuery,
  dab: SurfaceDab,
  falloff: Float32Array,
): void {
  const [x, y, z] = dab.hit.point;
  const included = dab.reach === 'connected' ? query.floodBall(dab.hit.face, x, y, z, dab.radius) : 0;
  const radius2 = dab.radius * dab.radius;
  for (const tile of map.tiles.values())
    if (boxDistance2(tile.bounds, 0, x, y, z) < radius2) dabInTile(coverage, tile, query, dab, falloff, included);
  for (const f of shadowedFaces(map))
    if (included ? query.stamp[f] === included : !query.isHidden(f) && distanceToFace2(query.model, f, x, y, z) < radius2)
      dabOnShadowedFace(coverage, map, query, dab, falloff, f);
}

const shadowedLists = new WeakMap<SurfaceMap, number[]>();
function shadowedFaces(map: SurfaceMap): number[] {
  let list = shadowedLists.get(map);
  if (!list) {
    list = [];
    for (let f = 0; f < map.shadowed.length; f++) if (map.shadowed[f]) list.push(f);
    shadowedLists.set(map, list);
  }
  return list;
}

function boxDistance2(b: Float32Array, o: number, x: number, y: number, z: number): number {
  // An empty box (min > max) is infinitely far: Infinity − x stays Infinity.
  const dx = x < b[o] ? b[o] - x : x > b[o + 3] ? x - b[o + 3] : 0;
  const dy = y < b[o + 1] ? b[o + 1] - y : y > b[o + 4] ? y - b[o + 4] : 0;
  const dz = z < b[o + 2] ? b[o + 2] - z : z > b[o + 5] ? z - b[o + 5] : 0;
  return dx * dx + dy * dy + dz * dz;
}

function facing(cosine: number): number {
  if (cosine >= FACING_FULL) return 1;
  if (cosine <= FACING_NONE) return 0;
  const t = (cosine - FACING_NONE) / (FACING_FULL - FACING_NONE);
  return t * t * (3 - 2 * t);
}

function dabInTile(
  coverage: Coverage,
  tile: SurfaceTile,
  query: SurfaceQuery,
  dab: SurfaceDab,
  falloff: Float32Array,
  included: number,
): void {
  const [x, y, z] = dab.hit.point;
  const nx = dab.hit.normal[0] / 127;
  const ny = dab.hit.normal[1] / 127;
  const nz = dab.hit.normal[2] / 127;
  const { flow, cap, radius } = dab;
  const radius2 = radius * radius;
  const scale = FALLOFF_STEPS / radius2;
  const { position, normal, face, blockBounds } = tile;
  const { stamp } = query;
  let target: ReturnType<Coverage['tile']> | null = null;
  for (let b = 0; b < BLOCKS_PER_SIDE * BLOCKS_PER_SIDE; b++) {
    if (boxDistance2(blockBounds, b * 6, x, y, z) >= radius2) continue;
    const bx = (b % BLOCKS_PER_SIDE) * BLOCK;
    const by = ((b / BLOCKS_PER_SIDE) | 0) * BLOCK;
    let changed = false;
    for (let row = by; row < by + BLOCK; row++) {
      const end = row * TILE + bx + BLOCK;
      for (let i = row * TILE + bx; i < end; i++) {
        const f = face[i];
        if (f < 0) continue;
        const o = i * 3;
        const dx = position[o] - x;
        const dy = position[o + 1] - y;
        const dz = position[o + 2] - z;
        const d2 = dx * dx + dy * dy + dz * dz;
        if (d2 >= radius2) continue;
        if (included !== 0 ? stamp[f] !== included : query.isHidden(f)) continue;
        const cosine = normal[o] * nx + normal[o + 1] * ny + normal[o + 2] * nz;
        if (cosine <= FACING_NONE) continue;
        target ??= coverage.tile(tile.x, tile.y);
        const old = target.values[i];
        let gain = flow * falloff[(d2 * scale) | 0];
        if (cosine < FACING_FULL) gain *= facing(cosine);
        if (old < cap) target.values[i] = old + (cap - old) * gain;
        changed = true;
      }
    }
    if (changed) coverage.touch(target!, bx, by, bx + BLOCK, by + BLOCK);
  }
}

/** Faces that share their texels with others (overlapping UVs) have no entry of their own in the map. */
function dabOnShadowedFace(
  coverage: Coverage,
  map: SurfaceMap,
  query: SurfaceQuery,
  dab: SurfaceDab,
  falloff: Float32Array,
  f: number,
): void {
  const point = new Float32Array(6);
  const [x, y, z] = dab.hit.point;
  const [nx, ny, nz] = dab.hit.normal;
  const scale = FALLOFF_STEPS / (dab.radius * dab.radius);
  visitTriangle(map, f, (tx, ty, w0, w1, w2) => {
    surfacePoint(query.model, f, w0, w1, w2, point);
    const d2 = (point[0] - x) ** 2 + (point[1] - y) ** 2 + (point[2] - z) ** 2;
    if (d2 >= dab.radius * dab.radius) return;
    const i = (ty % TILE) * TILE + (tx % TILE);
    const owner = map.tiles.get(tileIndex((tx / TILE) | 0, (ty / TILE) | 0));
    if (owner?.face[i] === f) return;
    const tile = coverage.tile((tx / TILE) | 0, (ty / TILE) | 0);
    const gain = dab.flow * falloff[(d2 * scale) | 0] * facing(point[3] * nx + point[4] * ny + point[5] * nz);
    const old = tile.values[i];
    if (old < dab.cap) tile.values[i] = old + (dab.cap - old) * gain;
    coverage.touch(tile, tx % TILE, ty % TILE, (tx % TILE) + 1, (ty % TILE) + 1);
  });
}
