/** Makes the surface map of a sheet. */
import { lasting, TILE } from '../../tile/tiles';
import type { Model } from '../model';
import { computeBounds, listFaceBlocks, normalsOfBlock } from './bounds';
import { placeCorners, visitTriangle } from './corners';
import { fillGutter, gutterTexels } from './gutter';
import { BLOCKS_PER_TILE, type SurfaceMap, type SurfaceMapInput, type SurfaceTile } from './surfaceMap';
import { Grid, loadFace, writeTexel } from './writer';

export function buildSurfaceMap(input: SurfaceMapInput): SurfaceMap {
  const steps = surfaceMapSteps(input);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/** Faces between two steps: well under a millisecond, but where they are large. */
const FACES_A_STEP = 32;

/** The same in steps, between which other things may be done. */
export function* surfaceMapSteps(input: SurfaceMapInput): Generator<void, SurfaceMap> {
  const { model, width, height, materialIndex } = input;
  const faceCount = model.indices.length / 3;
  const map: SurfaceMap = {
    width,
    height,
    gutterTexels: gutterTexels(width, height),
    tiles: new Map(),
    tileList: [],
    faceBlockStart: lasting(Uint32Array, faceCount + 1).fill(0),
    faceBlocks: new Uint32Array(0),
    blockBounds: new Float32Array(0),
    shadowed: new Uint8Array(faceCount),
    ...placeCorners(input),
  };
  const faces: number[] = [];
  for (let f = 0; f < faceCount; f++) if (model.faceMaterial[f] === materialIndex) faces.push(f);
  const grid = new Grid(map);
  for (const [n, f] of faces.entries()) {
    fillTriangle(model, map, grid, f);
    if (n % FACES_A_STEP === 0) yield;
  }
  yield* fillGutter(input, map, grid, faces);
  map.tileList = [...map.tiles.values()];
  const blocks = map.tileList.length * BLOCKS_PER_TILE;
  map.blockBounds = lasting(Float32Array, blocks * 6);
  map.tileList.forEach((tile, n) => {
    tile.blockBounds = map.blockBounds.subarray(n * BLOCKS_PER_TILE * 6, (n + 1) * BLOCKS_PER_TILE * 6);
  });
  for (const tile of map.tileList) {
    computeBounds(tile);
    for (let b = 0; b < BLOCKS_PER_TILE; b++) normalsOfBlock(tile, b);
    yield;
  }
  listFaceBlocks(map);
  return map;
}

function fillTriangle(model: Model, map: SurfaceMap, grid: Grid, f: number): void {
  loadFace(model, f);
  let tile: SurfaceTile | null = null;
  visitTriangle(map, f, (x, y, w0, w1, w2) => {
    if (!tile || tile.x !== x >> 7 || tile.y !== y >> 7) tile = grid.make(x >> 7, y >> 7);
    const i = (y & (TILE - 1)) * TILE + (x & (TILE - 1));
    const owner = tile.face[i];
    if (owner < 0) writeTexel(tile, i, f, w0, w1, w2);
    // On a shared edge the second triangle is no overlap: only well inside does it count.
    else if (owner !== f && w0 > 1e-3 && w1 > 1e-3 && w2 > 1e-3) map.shadowed[f] = 1;
  });
}
