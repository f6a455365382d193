/** Values that come of the model's shape alone: its edges, its directions, its places. Nothing on a canvas. */
import type { Shape } from '../../kinds/steps/step';
import { convexEdges, EdgeGrid } from '../../mesh/sharpEdges';
import { TILE, TILE_TEXELS, type TileIndex } from '../../tile/tiles';
import type { Surface } from '../surface';
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
    if (shape.type === 'edges') edgesTile(surface, places, shape, data);
    else if (shape.type === 'facing') facingTile(places, shape, data);
    else if (shape.type === 'span') spanTile(surface, places, shape, data);
    else distanceTile(surface, places, shape, data);
    return { uniform: null, data };
  }
}

type Places = NonNullable<ReturnType<Surface['tiles']['get']>>;
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

/** Texels a side that share a list of the edges near them. */
const BLOCK = 8;
const box = new Float64Array(6);

/** A box around the texels of a square of a tile that lie on the model; false: none does. */
function boxAround({ position, face }: Places, bx: number, by: number, side: number): boolean {
  let [x0, y0, z0, x1, y1, z1] = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity];
  for (let y = by; y < by + side; y++)
    for (let i = y * TILE + bx, o = i * 3, end = i + side; i < end; i++, o += 3) {
      if (face[i] < 0) continue;
      const x = position[o];
      const v = position[o + 1];
      const z = position[o + 2];
      if (x < x0) x0 = x;
      if (x > x1) x1 = x;
      if (v < y0) y0 = v;
      if (v > y1) y1 = v;
      if (z < z0) z0 = z;
      if (z > z1) z1 = z;
    }
  box[0] = x0;
  box[1] = y0;
  box[2] = z0;
  box[3] = x1;
  box[4] = y1;
  box[5] = z1;
  return x0 <= x1;
}

/** The grid is asked for 32 × 32 texels at a time, and what it finds narrowed down for each 8 × 8 of them. */
function edgesTile(surface: Surface, places: Places, { angle, width }: Of<'edges'>, out: Float32Array): void {
  const { position, normal, face } = places;
  const grid = gridOf(surface, angle);
  const reach = width * sizeOf(surface);
  const far: number[] = [];
  const list: number[] = [];
  for (let part = 0; part < 16; part++) {
    const [px, py] = [(part % 4) * 32, (part >> 2) * 32];
    if (!boxAround(places, px, py, 32) || grid.near(box, reach, far) === 0) continue;
    for (let block = 0; block < 16; block++) {
      const [bx, by] = [px + (block % 4) * BLOCK, py + (block >> 2) * BLOCK];
      if (!boxAround(places, bx, by, BLOCK) || grid.narrow(far, box, reach, list) === 0) continue;
      for (let y = by; y < by + BLOCK; y++)
        for (let i = y * TILE + bx, o = i * 3, end = i + BLOCK; i < end; i++, o += 3) {
          if (face[i] < 0) continue;
          const away = grid.distance(
            position[o],
            position[o + 1],
            position[o + 2],
            normal[o] / 127,
            normal[o + 1] / 127,
            normal[o + 2] / 127,
            reach,
          );
          out[i] = 1 - away / reach;
        }
    }
  }
}

function facingTile({ normal, face }: Places, { direction, angle, soft }: Of<'facing'>, out: Float32Array): void {
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
  { position, face }: Places,
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

function distanceTile(surface: Surface, { position, face }: Places, p: Of<'distance'>, out: Float32Array): void {
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
