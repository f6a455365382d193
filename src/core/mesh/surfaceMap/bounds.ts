/** Bounds of the blocks of a surface map, in space and of their normals, and the blocks of each face. */
import { lasting, TILE } from '../../tile/tiles';
import { BLOCK, BLOCKS_PER_SIDE, BLOCKS_PER_TILE, type SurfaceMap, type SurfaceTile } from './surfaceMap';

export function computeBounds(tile: SurfaceTile): void {
  const { blockBounds: bb, bounds, position, face } = tile;
  bounds.fill(Infinity, 0, 3).fill(-Infinity, 3, 6);
  for (let b = 0; b < BLOCKS_PER_TILE; b++) {
    const o = b * 6;
    let x0 = Infinity;
    let y0 = Infinity;
    let z0 = Infinity;
    let x1 = -Infinity;
    let y1 = -Infinity;
    let z1 = -Infinity;
    const column = (b % BLOCKS_PER_SIDE) * BLOCK;
    const top = Math.floor(b / BLOCKS_PER_SIDE) * BLOCK;
    for (let row = top; row < top + BLOCK; row++) {
      for (let i = row * TILE + column, end = i + BLOCK; i < end; i++) {
        if (face[i] < 0) continue;
        const x = position[i * 3];
        const y = position[i * 3 + 1];
        const z = position[i * 3 + 2];
        if (x < x0) x0 = x;
        if (x > x1) x1 = x;
        if (y < y0) y0 = y;
        if (y > y1) y1 = y;
        if (z < z0) z0 = z;
        if (z > z1) z1 = z;
      }
    }
    bb[o] = x0;
    bb[o + 1] = y0;
    bb[o + 2] = z0;
    bb[o + 3] = x1;
    bb[o + 4] = y1;
    bb[o + 5] = z1;
    for (let k = 0; k < 3; k++) {
      bounds[k] = Math.min(bounds[k], bb[o + k]);
      bounds[k + 3] = Math.max(bounds[k + 3], bb[o + k + 3]);
    }
  }
}

/** Rounded to eight bits a normal may be this much longer, as a share of itself. */
const LONGER = 0.008;

export function normalsOfBlock({ face, normal, blockNormals }: SurfaceTile, b: number): void {
  const corner = Math.floor(b / BLOCKS_PER_SIDE) * BLOCK * TILE + (b % BLOCKS_PER_SIDE) * BLOCK;
  let mx = 0;
  let my = 0;
  let mz = 0;
  for (let i = corner; i < corner + BLOCK * TILE; i += TILE)
    for (let o = i * 3, end = o + BLOCK * 3; o < end; o += 3) {
      mx += normal[o];
      my += normal[o + 1];
      mz += normal[o + 2];
    }
  const length = Math.sqrt(mx * mx + my * my + mz * mz) || 1;
  mx /= length * 127;
  my /= length * 127;
  mz /= length * 127;
  let least = 1;
  for (let i = corner; i < corner + BLOCK * TILE; i += TILE)
    for (let t = i, end = t + BLOCK; t < end; t++) {
      const o = t * 3;
      const cosine = normal[o] * mx + normal[o + 1] * my + normal[o + 2] * mz;
      if (cosine < least && face[t] >= 0) least = cosine;
    }
  blockNormals[b * 4] = mx * 127;
  blockNormals[b * 4 + 1] = my * 127;
  blockNormals[b * 4 + 2] = mz * 127;
  blockNormals[b * 4 + 3] = least - LONGER;
}

/** Which blocks each face has texels in, so that a dab goes straight to those of the faces it may touch. */
export function listFaceBlocks(map: SurfaceMap): void {
  const { faceBlockStart: start } = map;
  const lastBlock = new Int32Array(start.length).fill(-1);
  const pairs: number[] = [];
  map.tileList.forEach((tile, t) => {
    for (let b = 0; b < BLOCKS_PER_TILE; b++) {
      const id = t * BLOCKS_PER_TILE + b;
      const corner = Math.floor(b / BLOCKS_PER_SIDE) * BLOCK * TILE + (b % BLOCKS_PER_SIDE) * BLOCK;
      for (let row = 0; row < BLOCK; row++)
        for (let i = corner + row * TILE, end = i + BLOCK; i < end; i++) {
          const f = tile.face[i];
          if (f < 0 || lastBlock[f] === id) continue;
          lastBlock[f] = id;
          pairs.push(f, id);
          start[f + 1]++;
        }
    }
  });
  for (let f = 1; f < start.length; f++) start[f] += start[f - 1];
  const fill = start.slice();
  map.faceBlocks = lasting(Uint32Array, pairs.length / 2);
  for (let n = 0; n < pairs.length; n += 2) map.faceBlocks[fill[pairs[n]]++] = pairs[n + 1];
}
