/** Values that come of the model's shape alone: its edges, its directions, its places. Nothing on a canvas. */
import { PLACE_PLANES } from '../../../kernels/segments';
import type { Shape } from '../../kinds/steps/step';
import { kernels } from '../../kernels';
import { convexEdges, EdgeGrid, type Cone } from '../../mesh/sharpEdges';
import { BLOCK, BLOCKS_PER_SIDE } from '../../mesh/surfaceMap';
import { TILE, TILE_TEXELS, type TileIndex } from '../../tile/tiles';
import type { Surface, SurfaceTexels } from '../surface';
import type { TileValue } from '../tileCache';
import { PlaceNode } from './place';

export class ShapeNode extends PlaceNode {
  constructor(private readonly shape: Shape) {
    super(`shape ${JSON.stringify(shape)}`);
  }

  protected tile(surface: Surface, tile: TileIndex): TileValue {
    const places = surface.tiles.get(tile);
    if (!places) return { uniform: [0, 1], data: null };
    const data = new Float32Array(TILE_TEXELS * 2).fill(0, 0, TILE_TEXELS).fill(1, TILE_TEXELS);
    const { shape } = this;
    if (shape.type === 'edges') {
      if (!edgesTile(surface, places, shape, data)) return { uniform: [0, 1], data: null };
    } else if (shape.type === 'facing') facingTile(places, shape, data);
    else if (shape.type === 'span') spanTile(surface, places, shape, data);
    else distanceTile(surface, places, shape, data);
    return { uniform: null, data };
  }
}

type Of<K extends Shape['type']> = Extract<Shape, { type: K }>;

/** 1 under `a`, 0 over `b`, smooth between. */
function fades(a: number, b: number, v: number): number {
  if (v <= a) return 1;
  if (v >= b) return 0;
  const t = (v - a) / (b - a);
  return 1 - t * t * (3 - 2 * t);
}

/** Longest side of the model. */
export const sizeOf = ({ min, max }: Pick<Surface, 'min' | 'max'>): number => Math.max(...min.map((v, k) => max[k] - v)) || 1;

/** Grids of edges, by mesh and angle: the last few. */
const grids = new WeakMap<object, Map<string, EdgeGrid>>();
const MOST_GRIDS = 6;

function gridOf({ mesh, min, max }: Surface, angle: number): EdgeGrid {
  const known = grids.get(mesh.positions) ?? grids.set(mesh.positions, new Map()).get(mesh.positions)!;
  const key = String(angle);
  let grid = known.get(key);
  if (!grid) {
    const edges = convexEdges(mesh, mesh.corner, (angle * Math.PI) / 180);
    known.set(key, (grid = new EdgeGrid(edges, sizeOf({ min, max }) / 96)));
    if (known.size > MOST_GRIDS) known.delete(known.keys().next().value!);
  }
  return grid;
}

/** Blocks a side that are narrowed down together. */
const PART = 4;
const box = new Float64Array(6);
const BLOCK_TEXELS = BLOCK * BLOCK;
const gathered = new Float32Array(BLOCK_TEXELS * PLACE_PLANES);
const texel = new Int32Array(BLOCK_TEXELS);
const cone: Cone = new Float64Array(4);
const UNIT = 1 / 127;

/** A box around the blocks of a part of a tile; false: there is nothing in them. */
function boxOfPart({ blockBounds }: SurfaceTexels, part: number): boolean {
  box.fill(Infinity, 0, 3).fill(-Infinity, 3);
  for (let n = 0; n < PART * PART; n++) {
    const o = blockOf(part, n) * 6;
    for (let k = 0; k < 3; k++) {
      if (blockBounds[o + k] < box[k]) box[k] = blockBounds[o + k];
      if (blockBounds[o + k + 3] > box[k + 3]) box[k + 3] = blockBounds[o + k + 3];
    }
  }
  return box[0] <= box[3];
}

const PARTS_PER_SIDE = BLOCKS_PER_SIDE / PART;
/** The n-th block of a part of a tile. */
const blockOf = (part: number, n: number): number =>
  (Math.floor(part / PARTS_PER_SIDE) * PART + Math.floor(n / PART)) * BLOCKS_PER_SIDE +
  (part % PARTS_PER_SIDE) * PART +
  (n % PART);

/** What may be near is listed for the tile, then for 4 × 4 blocks of it, then for each block. false: nothing is. */
function edgesTile(surface: Surface, places: SurfaceTexels, { angle, width }: Of<'edges'>, out: Float32Array): boolean {
  const grid = gridOf(surface, angle);
  const reach = width * sizeOf(surface);
  const lists: number[][] = [[], [], []];
  if (!(places.bounds[0] <= places.bounds[3]) || grid.near(places.bounds, reach, lists[0]) === 0) return false;
  let any = false;
  for (let part = 0; part < PARTS_PER_SIDE * PARTS_PER_SIDE; part++) {
    if (!boxOfPart(places, part) || grid.narrow(lists[0], box, reach, lists[1]) === 0) continue;
    for (let n = 0; n < PART * PART; n++) {
      const b = blockOf(part, n);
      for (let k = 0; k < 6; k++) box[k] = places.blockBounds[b * 6 + k];
      if (!(box[0] <= box[3])) continue;
      for (let k = 0; k < 3; k++) cone[k] = places.blockNormals[b * 4 + k] * UNIT;
      cone[3] = places.blockNormals[b * 4 + 3];
      const listed = grid.narrow(lists[1], box, reach, lists[2], cone);
      if (listed === 0) continue;
      edgesBlock(places, b, grid.listed(lists[2]), listed, reach, out);
      any = true;
    }
  }
  return any;
}

/** Of one block: the nearer an edge, the more. */
function edgesBlock(
  { position, normal, face }: SurfaceTexels,
  b: number,
  list: Float32Array,
  listed: number,
  reach: number,
  out: Float32Array,
): void {
  const corner = Math.floor(b / BLOCKS_PER_SIDE) * BLOCK * TILE + (b % BLOCKS_PER_SIDE) * BLOCK;
  let count = 0;
  for (let row = corner; row < corner + BLOCK * TILE; row += TILE)
    for (let i = row; i < row + BLOCK; i++) {
      if (face[i] < 0) continue;
      texel[count] = i;
      const o = i * 3;
      gathered[count] = position[o];
      gathered[BLOCK_TEXELS + count] = position[o + 1];
      gathered[BLOCK_TEXELS * 2 + count] = position[o + 2];
      gathered[BLOCK_TEXELS * 3 + count] = normal[o] * UNIT;
      gathered[BLOCK_TEXELS * 4 + count] = normal[o + 1] * UNIT;
      gathered[BLOCK_TEXELS * 5 + count] = normal[o + 2] * UNIT;
      count++;
    }
  // Up to a multiple of four any place will do: nobody asks for what comes of it.
  kernels().segments(gathered, BLOCK_TEXELS, (count + 3) & ~3, list, listed, reach, away);
  const one = 1 / reach;
  for (let n = 0; n < count; n++) out[texel[n]] = 1 - away[n] * one;
}

const away = new Float32Array(BLOCK_TEXELS);

function facingTile({ normal, face }: SurfaceTexels, { direction, angle, soft }: Of<'facing'>, out: Float32Array): void {
  const l = Math.hypot(...direction) || 1;
  const [x, y, z] = direction.map((v) => v / l / 127);
  const end = (angle * Math.PI) / 180;
  for (let i = 0, o = 0; i < TILE_TEXELS; i++, o += 3) {
    if (face[i] < 0) continue;
    const cos = normal[o] * x + normal[o + 1] * y + normal[o + 2] * z;
    out[i] = fades(end * (1 - soft), end, Math.acos(cos < -1 ? -1 : cos > 1 ? 1 : cos));
  }
}

function spanTile(
  { min, max }: Surface,
  { position, face }: SurfaceTexels,
  { axis, from, to, soft }: Of<'span'>,
  out: Float32Array,
): void {
  const k = { x: 0, y: 1, z: 2 }[axis];
  const extent = max[k] - min[k] || 1;
  const [a, b] = [Math.min(from, to), Math.max(from, to)];
  for (let i = 0; i < TILE_TEXELS; i++) {
    if (face[i] < 0) continue;
    const t = (position[i * 3 + k] - min[k]) / extent;
    // An end at the model's own is no end.
    const up = a <= 0 ? 1 : 1 - fades(a - soft, a, t);
    out[i] = b >= 1 ? up : up * fades(b, b + soft, t);
  }
}

function distanceTile(surface: Surface, { position, face }: SurfaceTexels, p: Of<'distance'>, out: Float32Array): void {
  const reach = p.reach * sizeOf(surface);
  const l = Math.hypot(...p.normal) || 1;
  const [nx, ny, nz] = p.normal.map((v) => v / l);
  for (let i = 0, o = 0; i < TILE_TEXELS; i++, o += 3) {
    if (face[i] < 0) continue;
    const [x, y, z] = [position[o] - p.at[0], position[o + 1] - p.at[1], position[o + 2] - p.at[2]];
    const d = p.shape === 'point' ? Math.sqrt(x * x + y * y + z * z) : Math.abs(x * nx + y * ny + z * nz);
    out[i] = fades(reach * (1 - p.soft), reach, d);
  }
}
