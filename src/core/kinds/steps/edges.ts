/** Edges that stand out, by the distance to the nearest: worn when a noise breaks them up. */
import { z } from 'zod';
import { PLACE_PLANES } from '../../../kernels/segments';
import { kernels } from '../../kernels';
import { convexEdges, EdgeGrid, type Cone } from '../../mesh/sharpEdges';
import { sizeOf } from '../../mesh/model';
import type { Surface, SurfaceTexels } from '../../mesh/surface';
import { BLOCK, BLOCKS_PER_SIDE } from '../../mesh/surfaceMap/surfaceMap';
import { TILE } from '../../tile/tiles';
import { degrees, percent } from '../control';
import { broken, BROKEN_CONTROLS, brokenFields, EVEN } from './broken';
import type { StepDef } from './step';

const START = { type: 'edges' as const, angle: 25, width: 0.015, ...EVEN };
const schema = z.object({
  type: z.literal('edges'),
  /** Degrees by which the surface turns at least. */
  angle: z.number().min(1).max(179).default(START.angle),
  /** Share of the model's size. */
  width: z.number().min(0.0005).max(0.5).default(START.width),
  ...brokenFields,
});

export const edges: StepDef<z.infer<typeof schema>> = {
  type: 'edges',
  schema,
  start: START,
  controls: [
    { ...percent('width', 'Width', 0.0005, 0.2), digits: 2, fine: true },
    degrees('angle', 'From', 1, 179),
    ...BROKEN_CONTROLS,
  ],
  presets: [
    {
      label: 'Edges (wear)',
      hint: 'Edges that stand out, broken up by a noise',
      settings: START,
      added: 'edges',
      mask: { label: 'Edge wear', hint: 'Along edges that stand out, broken up by a noise' },
    },
  ],
  needsModel: true,
  word: () => 'edges',
  onSurface: () => true,
  anywhere: true,
  compile: ({ angle, width, ...by }, build) =>
    broken(
      by,
      build,
      build.onSurface({ type: 'edges', ...{ angle, width } }, (surface, texels, out) =>
        nearEdges(surface, texels, angle, width, out),
      ),
    ),
};

/** Grids of edges, by mesh and angle: the last few. */
const grids = new WeakMap<object, Map<string, EdgeGrid>>();
const MOST_GRIDS = 6;

function gridOf({ mesh, min, max }: Surface, angle: number): EdgeGrid {
  const known = grids.get(mesh.positions) ?? grids.set(mesh.positions, new Map()).get(mesh.positions)!;
  const key = String(angle);
  let grid = known.get(key);
  if (!grid) {
    const convex = convexEdges(mesh, mesh.corner, (angle * Math.PI) / 180);
    known.set(key, (grid = new EdgeGrid(convex, sizeOf({ min, max }) / 96)));
    if (known.size > MOST_GRIDS) known.delete(known.keys().next().value!);
  }
  return grid;
}

/** Blocks a side that are narrowed down together. */
const PART = 4;
const box = new Float64Array(6);
const BLOCK_TEXELS = BLOCK * BLOCK;
const gathered = new Float32Array(BLOCK_TEXELS * PLACE_PLANES);
const away = new Float32Array(BLOCK_TEXELS);
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

/** Edges that may be near are listed for the tile, then for 4 × 4 blocks of it, then for each block. */
function nearEdges(surface: Surface, texels: SurfaceTexels, angle: number, width: number, out: Float32Array): void | number {
  const grid = gridOf(surface, angle);
  const reach = width * sizeOf(surface);
  const lists: number[][] = [[], [], []];
  if (!(texels.bounds[0] <= texels.bounds[3]) || grid.near(texels.bounds, reach, lists[0]) === 0) return 0;
  let any = false;
  for (let part = 0; part < PARTS_PER_SIDE * PARTS_PER_SIDE; part++) {
    if (!boxOfPart(texels, part) || grid.narrow(lists[0], box, reach, lists[1]) === 0) continue;
    for (let n = 0; n < PART * PART; n++) {
      const b = blockOf(part, n);
      for (let k = 0; k < 6; k++) box[k] = texels.blockBounds[b * 6 + k];
      if (!(box[0] <= box[3])) continue;
      for (let k = 0; k < 3; k++) cone[k] = texels.blockNormals[b * 4 + k] * UNIT;
      cone[3] = texels.blockNormals[b * 4 + 3];
      const listed = grid.narrow(lists[1], box, reach, lists[2], cone);
      if (listed === 0) continue;
      edgesBlock(texels, b, grid.listed(lists[2]), listed, reach, out);
      any = true;
    }
  }
  return any ? undefined : 0;
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
  // The kernel takes places by four: what it says of the last ones, of which there are none, is not read.
  kernels().segments(gathered, BLOCK_TEXELS, (count + 3) & ~3, list, listed, reach, away);
  const one = 1 / reach;
  for (let n = 0; n < count; n++) out[texel[n]] = 1 - away[n] * one;
}
