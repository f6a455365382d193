/**
 * The surface map of a sheet: for every texel its place, normal and triangle on the model. Made once for each mesh and size (build.ts).
 * Texels in the gutter have the place where the plane of the nearest triangle goes on, so a dab runs over the edge of an island without
 * knowing that there is one.
 */
import { TILE, type TileIndex } from '../../tile/tiles';
import type { Model } from '../model';
import type { Islands } from '../topology';

/**
 * Blocks of 8 × 8 texels carry 3D bounds so that a dab visits little more than what it touches. Tried on the
 * lantern at 2048² with dabs 64 texels across (3,150 texels inside): blocks of 16 visit 18,800 texels.
 */
export const BLOCK = 8;
export const BLOCKS_PER_SIDE = TILE / BLOCK;
export const BLOCKS_PER_TILE = BLOCKS_PER_SIDE * BLOCKS_PER_SIDE;

export interface SurfaceTile {
  x: number;
  y: number;
  /** 3 × float32 a texel. NaN where `face` is −1: then no distance is small, and a dab need not ask. */
  position: Float32Array;
  /** 3 × int8 a texel, unit × 127. */
  normal: Int8Array;
  /** Triangle, or −1 where the texel belongs to no island. */
  face: Int32Array;
  /** Per block: min x, y, z, max x, y, z. Empty blocks have min > max. */
  blockBounds: Float32Array;
  /** Per block: the mean of its normals, unit, and the least cosine of one of them with it. */
  blockNormals: Float32Array;
  bounds: Float32Array;
}

export interface SurfaceMap {
  width: number;
  height: number;
  gutterTexels: number;
  tiles: Map<TileIndex, SurfaceTile>;
  /** The same tiles in a row: block numbers are place in this list × BLOCKS_PER_TILE + block in the tile. */
  tileList: SurfaceTile[];
  /** Blocks in which face f has texels: faceBlocks[faceBlockStart[f] … faceBlockStart[f + 1]). */
  faceBlockStart: Uint32Array;
  faceBlocks: Uint32Array;
  /** Those of all tiles, by block number. */
  blockBounds: Float32Array;
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
