/**
 * The surface map of a sheet: for every texel its place, normal and triangle on the model, made once per
 * mesh and size. Texels in the gutter get the place that lies where the nearest triangle's plane goes on, so
 * a dab runs over the edge of an island without knowing that there is one.
 */
import { lasting, TILE, tileIndex, tilesAcross, TILE_TEXELS, type TileIndex } from '../tile/tiles';
import type { Model } from './model';
import type { Islands } from './topology';

/**
 * Blocks of 8 × 8 texels carry 3D bounds so that a dab visits little more than what it touches. Tried on the
 * lantern at 2048² with dabs 64 texels across (3,150 texels inside): blocks of 16 visit 18,800 texels.
 */
export const BLOCK = 8;
export const BLOCKS_PER_SIDE = TILE / BLOCK;
export const BLOCKS_PER_TILE = BLOCKS_PER_SIDE * BLOCKS_PER_SIDE;

/** Gutter in texels per 1024 of width, at least 4: wide enough that three mip levels do not bleed. */
const GUTTER_PER_1024 = 8;

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
  /** By block number: the last dab that looked at it; and the blocks that it found. */
  seen: Uint32Array;
  near: Uint32Array;
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
    gutterTexels: Math.max(4, Math.round((GUTTER_PER_1024 * Math.max(width, height)) / 1024)),
    tiles: new Map(),
    tileList: [],
    faceBlockStart: lasting(Uint32Array, faceCount + 1).fill(0),
    faceBlocks: new Uint32Array(0),
    blockBounds: new Float32Array(0),
    seen: new Uint32Array(0),
    near: new Uint32Array(0),
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
  map.seen = lasting(Uint32Array, blocks).fill(0);
  map.near = lasting(Uint32Array, blocks);
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

/** Tiles by place while the map is made: an array is much faster to ask than the map of tiles. */
class Grid {
  readonly across: number;
  private cells: (SurfaceTile | undefined)[] = [];

  constructor(private map: SurfaceMap) {
    this.across = tilesAcross(map.width);
  }

  find(tx: number, ty: number): SurfaceTile | undefined {
    return this.cells[ty * this.across + tx];
  }

  make(tx: number, ty: number): SurfaceTile {
    const at = ty * this.across + tx;
    let tile = this.cells[at];
    if (!tile) {
      tile = {
        x: tx,
        y: ty,
        position: lasting(Float32Array, TILE_TEXELS * 3).fill(NaN),
        normal: lasting(Int8Array, TILE_TEXELS * 3).fill(0),
        face: lasting(Int32Array, TILE_TEXELS).fill(-1),
        blockBounds: new Float32Array(0),
        blockNormals: lasting(Float32Array, BLOCKS_PER_TILE * 4),
        bounds: new Float32Array(6),
      };
      this.cells[at] = tile;
      this.map.tiles.set(tileIndex(tx, ty), tile);
    }
    return tile;
  }
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

/** Corners of the face being written: 3 × position, 3 × normal. Loaded once a face. */
const corners = new Float64Array(18);

function loadFace(model: Model, f: number): void {
  for (let k = 0; k < 3; k++) {
    const v = model.indices[f * 3 + k] * 3;
    for (let c = 0; c < 3; c++) {
      corners[k * 3 + c] = model.positions[v + c];
      corners[9 + k * 3 + c] = model.normals[v + c];
    }
  }
}

/** `surfacePoint` for the loaded face, written straight into texel i of a tile. */
function writeTexel(tile: SurfaceTile, i: number, f: number, w0: number, w1: number, w2: number): void {
  const q = corners;
  const { position, normal } = tile;
  const o = i * 3;
  tile.face[i] = f;
  position[o] = q[0] * w0 + q[3] * w1 + q[6] * w2;
  position[o + 1] = q[1] * w0 + q[4] * w1 + q[7] * w2;
  position[o + 2] = q[2] * w0 + q[5] * w1 + q[8] * w2;
  const c0 = w0 < 0 ? 0 : w0;
  const c1 = w1 < 0 ? 0 : w1;
  const c2 = w2 < 0 ? 0 : w2;
  const nx = q[9] * c0 + q[12] * c1 + q[15] * c2;
  const ny = q[10] * c0 + q[13] * c1 + q[16] * c2;
  const nz = q[11] * c0 + q[14] * c1 + q[17] * c2;
  const scale = 127 / (Math.sqrt(nx * nx + ny * ny + nz * nz) || 1);
  normal[o] = nx * scale + (nx < 0 ? -0.5 : 0.5);
  normal[o + 1] = ny * scale + (ny < 0 ? -0.5 : 0.5);
  normal[o + 2] = nz * scale + (nz < 0 ? -0.5 : 0.5);
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

/** Nearest border edge wins; squared distances in texels are kept only while the gutter is made. */
function* fillGutter({ model, islands }: SurfaceMapInput, map: SurfaceMap, grid: Grid, faces: number[]): Generator<void, void> {
  const nearest: (Float32Array | undefined)[] = [];
  for (const [n, f] of faces.entries()) {
    if (n % FACES_A_STEP === 0) yield;
    if (!(Math.abs(doubleArea(map.cornersTexels, f * 6)) > 1e-3)) continue;
    let loaded = false;
    for (let k = 0; k < 3; k++) {
      if (!islands.border[f * 3 + k]) continue;
      if (!loaded) loadFace(model, f);
      loaded = true;
      gutterOfEdge(map, grid, nearest, f, k);
    }
  }
}

function gutterOfEdge(map: SurfaceMap, grid: Grid, nearest: (Float32Array | undefined)[], f: number, k: number): void {
  const { cornersTexels: c, gutterTexels: reach, width, height } = map;
  const o = f * 6;
  const k2 = (k + 1) % 3;
  const ax = c[o + k * 2];
  const ay = c[o + k * 2 + 1];
  const ex = c[o + k2 * 2] - ax;
  const ey = c[o + k2 * 2 + 1] - ay;
  const length2 = ex * ex + ey * ey || 1e-12;
  const reach2 = reach * reach;
  const ux = c[o + 2] - c[o];
  const uy = c[o + 3] - c[o + 1];
  const vx = c[o + 4] - c[o];
  const vy = c[o + 5] - c[o + 1];
  const perArea = 1 / doubleArea(c, o);
  const top = Math.max(0, Math.floor(Math.min(ay, ay + ey) - reach));
  const bottom = Math.min(height - 1, Math.ceil(Math.max(ay, ay + ey) + reach));
  for (let y = top; y <= bottom; y++) {
    const py = y + 0.5;
    const [left, right] = rowSpan(ax, ay, ax + ex, ay + ey, py, reach);
    let tile: SurfaceTile | null = null;
    let distances: Float32Array | null = null;
    for (let x = Math.max(0, left), end = Math.min(width - 1, right); x <= end; x++) {
      const px = x + 0.5;
      let t = ((px - ax) * ex + (py - ay) * ey) / length2;
      t = t < 0 ? 0 : t > 1 ? 1 : t;
      const dx = px - ax - ex * t;
      const dy = py - ay - ey * t;
      const d2 = dx * dx + dy * dy;
      if (d2 > reach2) continue;
      if (!tile || tile.x !== x >> 7) {
        tile = grid.make(x >> 7, y >> 7);
        distances = nearest[tile.y * grid.across + tile.x] ??= distancesOf(tile);
      }
      const i = (y & (TILE - 1)) * TILE + (x & (TILE - 1));
      if (d2 >= distances![i]) continue;
      distances![i] = d2;
      const qx = px - c[o];
      const qy = py - c[o + 1];
      const w1 = (qx * vy - vx * qy) * perArea;
      const w2 = (ux * qy - qx * uy) * perArea;
      writeTexel(tile, i, f, 1 - w1 - w2, w1, w2);
    }
  }
}

/** Covered texels are nearer than anything, so that no gutter overwrites an island. */
function distancesOf(tile: SurfaceTile): Float32Array {
  const out = new Float32Array(TILE_TEXELS);
  for (let i = 0; i < TILE_TEXELS; i++) out[i] = tile.face[i] >= 0 ? -1 : Infinity;
  return out;
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

function normalsOfBlock({ face, normal, blockNormals }: SurfaceTile, b: number): void {
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
function listFaceBlocks(map: SurfaceMap): void {
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

/** 1 where the middle of a texel lies on an island, at any size of the sheet: width × height. Slivers have one texel at least. */
export function islandTexels(map: SurfaceMap, width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height);
  const scale = [width / map.width, height / map.height];
  const scaled = { cornersTexels: map.cornersTexels.map((v, i) => v * scale[i & 1]), width, height };
  for (let f = 0; f < map.shadowed.length; f++) {
    const o = f * 6;
    const c = scaled.cornersTexels;
    if (!Number.isFinite(c[o])) continue;
    let found = false;
    visitTriangle(scaled, f, (x, y) => {
      out[y * width + x] = 1;
      found = true;
    });
    if (found) continue;
    const [x, y] = [0, 1].map((k) => Math.floor((c[o + k] + c[o + 2 + k] + c[o + 4 + k]) / 3));
    if (x >= 0 && y >= 0 && x < width && y < height) out[y * width + x] = 1;
  }
  return out;
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
