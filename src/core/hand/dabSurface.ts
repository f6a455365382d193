/**
 * A round dab on the surface: a ball in space, evaluated at every texel's own place. UV seams do not exist
 * here. Far sides of thin parts are left out by their normal, neighbouring parts by connection.
 */
import {
  visitTriangle,
  BLOCK,
  BLOCKS_PER_SIDE,
  BLOCKS_PER_TILE,
  type SurfaceMap,
  type SurfaceTile,
  surfacePoint,
} from '../mesh/surfaceMap';
import { distanceToFace2, type SurfaceHit, type SurfaceQuery } from '../mesh/surfaceQuery';
import { TILE, tileIndex } from '../tile/tiles';
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
  const radius2 = dab.radius * dab.radius;
  if (dab.reach === 'connected') {
    const included = query.floodBall(dab.hit.face, x, y, z, dab.radius);
    const { faceBlockStart, faceBlocks, tileList } = map;
    const seen = seenBlocks(map);
    const turn = ++seen.turn;
    for (const f of query.included)
      for (let n = faceBlockStart[f]; n < faceBlockStart[f + 1]; n++) {
        const id = faceBlocks[n];
        if (seen.stamp[id] === turn) continue;
        seen.stamp[id] = turn;
        const tile = tileList[(id / BLOCKS_PER_TILE) | 0];
        const b = id % BLOCKS_PER_TILE;
        if (boxDistance2(tile.blockBounds, b * 6, x, y, z) < radius2)
          dabInBlock(coverage, tile, b, query, dab, falloff, included);
      }
  } else
    for (const tile of map.tileList) {
      if (boxDistance2(tile.bounds, 0, x, y, z) >= radius2) continue;
      for (let b = 0; b < BLOCKS_PER_TILE; b++)
        if (boxDistance2(tile.blockBounds, b * 6, x, y, z) < radius2) dabInBlock(coverage, tile, b, query, dab, falloff, 0);
    }
  for (const f of shadowedFaces(map))
    if (
      dab.reach === 'connected'
        ? query.included.includes(f)
        : !query.isHidden(f) && distanceToFace2(query.model, f, x, y, z) < radius2
    )
      dabOnShadowedFace(coverage, map, query, dab, falloff, f);
}

/** Blocks that the current dab has visited already: two faces often share one. */
const seenLists = new WeakMap<SurfaceMap, { turn: number; stamp: Uint32Array }>();
function seenBlocks(map: SurfaceMap) {
  let seen = seenLists.get(map);
  if (!seen) seenLists.set(map, (seen = { turn: 0, stamp: new Uint32Array(map.tileList.length * BLOCKS_PER_TILE) }));
  return seen;
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

/** `included`: the stamp of faces that may be touched, or 0 for all that are not hidden. */
function dabInBlock(
  coverage: Coverage,
  tile: SurfaceTile,
  b: number,
  query: SurfaceQuery,
  dab: SurfaceDab,
  falloff: Float32Array,
  included: number,
): void {
  const { point, normal: n } = dab.hit;
  const x = point[0];
  const y = point[1];
  const z = point[2];
  const nx = n[0] / 127;
  const ny = n[1] / 127;
  const nz = n[2] / 127;
  const { flow, cap } = dab;
  const radius2 = dab.radius * dab.radius;
  const scale = FALLOFF_STEPS / radius2;
  const { position, normal, face } = tile;
  const { stamp } = query;
  const column = (b % BLOCKS_PER_SIDE) * BLOCK;
  const top = ((b / BLOCKS_PER_SIDE) | 0) * BLOCK;
  let target: ReturnType<Coverage['tile']> | null = null;
  for (let row = top; row < top + BLOCK; row++) {
    const end = row * TILE + column + BLOCK;
    for (let i = row * TILE + column; i < end; i++) {
      const o = i * 3;
      const dx = position[o] - x;
      const dy = position[o + 1] - y;
      const dz = position[o + 2] - z;
      const d2 = dx * dx + dy * dy + dz * dz;
      // Also false for NaN, which is where no face is.
      if (!(d2 < radius2)) continue;
      const f = face[i];
      if (included !== 0 ? stamp[f] !== included : query.isHidden(f)) continue;
      const cosine = normal[o] * nx + normal[o + 1] * ny + normal[o + 2] * nz;
      if (cosine <= FACING_NONE) continue;
      if (target === null) target = coverage.tile(tile.x, tile.y);
      const { values } = target;
      const old = values[i];
      let gain = flow * falloff[(d2 * scale) | 0];
      if (cosine < FACING_FULL) gain *= facing(cosine);
      if (old < cap) values[i] = old + (cap - old) * gain;
    }
  }
  if (target !== null) coverage.touch(target, column, top, column + BLOCK, top + BLOCK);
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
