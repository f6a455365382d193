/**
 * What the strata and the kinds of steps know of the model under a sheet, as plain data: helpers in other threads get
 * the same. Computed from the surface map (surfaceMap/).
 */
import { TILE_TEXELS, type TileIndex } from '../tile/tiles';
import { boundsOf, sizeOf, type Model } from './model';
import type { SurfaceMap, SurfaceTile } from './surfaceMap/surfaceMap';
import { weldCorners, type Islands } from './topology';
import type { UnfoldMesh } from './unfold';

/** 3 × float32, 3 × int8 (unit × 127) and the face a texel; −1: off the islands. Bounds as the surface map has them. */
export type SurfaceTexels = Pick<SurfaceTile, 'position' | 'normal' | 'face' | 'bounds' | 'blockBounds' | 'blockNormals'>;

export interface Surface {
  /** Equal numbers: the same mesh at the same size. */
  stamp: number;
  width: number;
  height: number;
  texelsPerMetre: number;
  min: readonly number[];
  max: readonly number[];
  tiles: ReadonlyMap<TileIndex, SurfaceTexels>;
  parts: readonly string[];
  facePart: Uint16Array;
  faceIsland: Uint32Array;
  /** Places along the sharp and open edges of the whole model, 3 × float32 each, and how far apart they are. */
  edges: Float32Array;
  edgeStep: number;
  mesh: UnfoldMesh & { normals: Float32Array };
}

const texelsOf = ({ position, normal, face, bounds, blockBounds, blockNormals }: SurfaceTexels): SurfaceTexels => ({
  ...{ position, normal, face, bounds, blockBounds, blockNormals },
});

let lastStamp = 0;
/** A number that no other surface of this thread has. */
export const freshSurfaceStamp = (): number => ++lastStamp;

export function surfaceData(
  map: SurfaceMap,
  model: Model,
  islands: Islands,
  corner = weldCorners(model),
  stamp = freshSurfaceStamp(),
): Surface {
  const { min, max } = boundsOf(model.positions);
  const edgeStep = sizeOf({ min, max }) / 256;
  const tiles = new Map([...map.tiles].map(([t, tile]): [TileIndex, SurfaceTexels] => [t, texelsOf(tile)]));
  return {
    stamp,
    width: map.width,
    height: map.height,
    texelsPerMetre: map.texelsPerMetre,
    min,
    max,
    tiles,
    parts: model.parts,
    facePart: model.facePart,
    faceIsland: islands.island,
    edges: sharpEdges(model, edgeStep),
    edgeStep,
    mesh: { positions: model.positions, normals: model.normals, indices: model.indices, corner },
  };
}

/** 30°: flatter than that it is the facets of something round. */
const SHARP_COSINE = Math.cos(Math.PI / 6);

/** Points along edges where the surface turns by more than 30° or ends. */
export function sharpEdges(model: Model, spacing: number): Float32Array {
  const { positions: p, indices } = model;
  const faces = indices.length / 3;
  // Corners at the same place are one: seams and hard normals split them.
  const places = new Map<string, number>();
  const place = new Int32Array(p.length / 3);
  for (let v = 0; v < place.length; v++) {
    const key = `${Math.fround(p[v * 3])} ${Math.fround(p[v * 3 + 1])} ${Math.fround(p[v * 3 + 2])}`;
    let id = places.get(key);
    if (id === undefined) places.set(key, (id = v));
    place[v] = id;
  }
  const normals = new Float64Array(faces * 3);
  const open = new Map<number, { a: number; b: number; face: number }>();
  const out: number[] = [];
  const sample = (a: number, b: number) => {
    const length = Math.hypot(...[0, 1, 2].map((k) => p[b * 3 + k] - p[a * 3 + k]));
    const steps = Math.max(1, Math.ceil(length / spacing));
    for (let n = 0; n < steps; n++)
      for (let k = 0; k < 3; k++) out.push(p[a * 3 + k] + ((p[b * 3 + k] - p[a * 3 + k]) * (n + 0.5)) / steps);
  };
  for (let f = 0; f < faces; f++) {
    const [a, b, c] = [0, 1, 2].map((k) => indices[f * 3 + k] * 3);
    const u = [0, 1, 2].map((k) => p[b + k] - p[a + k]);
    const v = [0, 1, 2].map((k) => p[c + k] - p[a + k]);
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const l = Math.hypot(...n);
    if (l === 0) continue;
    for (let k = 0; k < 3; k++) normals[f * 3 + k] = n[k] / l;
    for (let k = 0; k < 3; k++) {
      const s = place[indices[f * 3 + k]];
      const t = place[indices[f * 3 + ((k + 1) % 3)]];
      if (s === t) continue;
      const key = Math.min(s, t) * place.length + Math.max(s, t);
      const other = open.get(key);
      if (!other) open.set(key, { a: s, b: t, face: f });
      else {
        open.delete(key);
        const dot = [0, 1, 2].reduce((sum, q) => sum + normals[f * 3 + q] * normals[other.face * 3 + q], 0);
        if (dot < SHARP_COSINE) sample(s, t);
      }
    }
  }
  for (const { a, b } of open.values()) sample(a, b);
  return Float32Array.from(out);
}

/** Farther than anything runs. */
const FAR = 1e6;
const columns = new WeakMap<Float32Array, Map<number, Float32Array>>();
const drops = new WeakMap<object, Float32Array>();

const columnKey = (cx: number, cz: number): number => (cx + 65536) * 262144 + cz + 65536;

/** Edge points by column, each with those of the eight columns around it and sorted by height: x y z in a row. */
function columnsOf({ edges }: Surface, cell: number): Map<number, Float32Array> {
  let out = columns.get(edges);
  if (out) return out;
  const lists = new Map<number, number[]>();
  for (let i = 0; i < edges.length; i += 3) {
    const cx = Math.floor(edges[i] / cell);
    const cz = Math.floor(edges[i + 2] / cell);
    for (let dx = -1; dx <= 1; dx++)
      for (let dz = -1; dz <= 1; dz++) {
        const key = columnKey(cx + dx, cz + dz);
        const list = lists.get(key);
        if (list) list.push(i);
        else lists.set(key, [i]);
      }
  }
  out = new Map();
  for (const [key, list] of lists) {
    list.sort((a, b) => edges[a + 1] - edges[b + 1]);
    const points = new Float32Array(list.length * 3);
    for (let n = 0; n < list.length; n++) points.set(edges.subarray(list[n], list[n] + 3), n * 3);
    out.set(key, points);
  }
  columns.set(edges, out);
  return out;
}

/** Points this far below count as at the same height: rounding of float32 in models some ten units large. */
const BELOW = 1e-6;

/** For each texel of a tile how far above it, straight up, the nearest sharp or open edge lies; FAR where none does. */
export function dropTile(surface: Surface, tile: TileIndex): Float32Array {
  const s = surface.tiles.get(tile);
  if (!s) return new Float32Array(TILE_TEXELS).fill(FAR);
  let out = drops.get(s);
  if (out) return out;
  out = new Float32Array(TILE_TEXELS).fill(FAR);
  const cell = surface.edgeStep * 1.5;
  const near = cell * cell;
  const grid = columnsOf(surface, cell);
  const { face, position } = s;
  let [lastX, lastZ] = [NaN, NaN];
  let points: Float32Array | undefined;
  for (let i = 0; i < TILE_TEXELS; i++) {
    if (face[i] < 0) continue;
    const x = position[i * 3];
    const y = position[i * 3 + 1];
    const z = position[i * 3 + 2];
    const cx = Math.floor(x / cell);
    const cz = Math.floor(z / cell);
    if (cx !== lastX || cz !== lastZ) points = grid.get(columnKey((lastX = cx), (lastZ = cz)));
    if (!points) continue;
    // The first that is not below.
    let from = 0;
    for (let to = points.length / 3; from < to;) {
      const middle = (from + to) >> 1;
      if (points[middle * 3 + 1] - y < -BELOW) from = middle + 1;
      else to = middle;
    }
    for (let k = from * 3; k < points.length; k += 3) {
      const dx = points[k] - x;
      const dz = points[k + 2] - z;
      if (dx * dx + dz * dz > near) continue;
      out[i] = Math.max(0, points[k + 1] - y);
      break;
    }
  }
  drops.set(s, out);
  return out;
}
