/** The gutter of a surface map: texels around an island go on in the plane of the nearest triangle. */
import { TILE, TILE_TEXELS } from '../../tile/tiles';
import { doubleArea } from './corners';
import type { SurfaceMap, SurfaceMapInput, SurfaceTile } from './surfaceMap';
import { loadFace, writeTexel, type Grid } from './writer';

/** Faces between two steps. */
const FACES_A_STEP = 32;

/** Gutter in texels per 1024 of width, at least 4: wide enough that three mip levels do not bleed. */
const GUTTER_PER_1024 = 8;

export const gutterTexels = (width: number, height: number): number =>
  Math.max(4, Math.round((GUTTER_PER_1024 * Math.max(width, height)) / 1024));

/** Nearest border edge wins; squared distances in texels are kept only while the gutter is made. */
export function* fillGutter(
  { model, islands }: SurfaceMapInput,
  map: SurfaceMap,
  grid: Grid,
  faces: number[],
): Generator<void, void> {
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
