/** A dab in the flat sheet, in texels; wraps where the sheet wraps. */
import { TILE } from '../tile/tiles';
import { FALLOFF_STEPS } from './coverage';
import type { Imprint } from './imprint';
import { isPlain, prepareTip, reachInPlane, tipShare, type DabTip } from './tip';

export interface FlatDab {
  /** Centre, texels. */
  x: number;
  y: number;
  radiusTexels: number;
  /** Left out: a plain round one. */
  tip?: DabTip;
}

export interface FlatLimits {
  wrapU: boolean;
  wrapV: boolean;
  /** Texels where this returns false stay clean. Arguments: tile column, tile row, texel within the tile. */
  allow?: (tileX: number, tileY: number, texel: number) => boolean;
}

export function dabFlat(imprint: Imprint, dab: FlatDab, falloff: Float32Array, limits: FlatLimits): void {
  const { width, height } = imprint;
  const radius = Math.max(0.5, dab.radiusTexels);
  const tip = dab.tip && !isPlain(dab.tip) ? dab.tip : null;
  const reach = tip ? radius * reachInPlane(tip) : radius;
  let top = Math.ceil(dab.y - reach - 0.5);
  let bottom = Math.floor(dab.y + reach - 0.5);
  let left = Math.ceil(dab.x - reach - 0.5);
  let right = Math.floor(dab.x + reach - 0.5);
  // A dab wider than the canvas meets itself once around: each texel is visited at its nearest turn only.
  if (limits.wrapU) [left, right] = oneTurn(dab.x, left, right, width);
  else [left, right] = [Math.max(0, left), Math.min(width - 1, right)];
  if (limits.wrapV) [top, bottom] = oneTurn(dab.y, top, bottom, height);
  else [top, bottom] = [Math.max(0, top), Math.min(height - 1, bottom)];
  // Tile by tile: a run of rows and columns that lies in one tile.
  for (let y = top; y <= bottom;) {
    const rowStart = modulo(y, height);
    const rows = Math.min(bottom - y + 1, TILE - (rowStart % TILE), height - rowStart);
    for (let x = left; x <= right;) {
      const columnStart = modulo(x, width);
      const columns = Math.min(right - x + 1, TILE - (columnStart % TILE), width - columnStart);
      if (tip) tipInTile(imprint, dab, tip, radius, falloff, limits, x, y, columnStart, rowStart, columns, rows);
      else dabInTile(imprint, dab, radius, falloff, limits, x, y, columnStart, rowStart, columns, rows);
      x += columns;
    }
    y += rows;
  }
}

function oneTurn(centre: number, low: number, high: number, size: number): [number, number] {
  if (high - low + 1 <= size) return [low, high];
  const start = Math.ceil(centre - size / 2 - 0.5);
  return [start, start + size - 1];
}

const modulo = (v: number, n: number) => ((v % n) + n) % n;

function dabInTile(
  imprint: Imprint,
  dab: FlatDab,
  radius: number,
  falloff: Float32Array,
  limits: FlatLimits,
  x: number,
  y: number,
  column: number,
  row: number,
  columns: number,
  rows: number,
): void {
  const tile = imprint.tile((column / TILE) | 0, (row / TILE) | 0);
  const { values } = tile;
  const { allow } = limits;
  const tx = column % TILE;
  const ty = row % TILE;
  const scale = FALLOFF_STEPS / (radius * radius);
  const dx0 = x + 0.5 - dab.x;
  let changed = false;
  for (let r = 0; r < rows; r++) {
    const dy = y + r + 0.5 - dab.y;
    const dy2 = dy * dy;
    const rest = radius * radius - dy2;
    if (rest <= 0) continue;
    // Only the chord of the circle in this row.
    const half = Math.sqrt(rest);
    const c0 = Math.max(0, Math.ceil(-half - dx0));
    const c1 = Math.min(columns, Math.floor(half - dx0) + 1);
    if (c0 >= c1) continue;
    changed = true;
    let i = (ty + r) * TILE + tx + c0;
    for (let c = c0; c < c1; c++, i++) {
      if (allow !== undefined && !allow(tile.x, tile.y, i)) continue;
      const dx = dx0 + c;
      const share = falloff[((dx * dx + dy2) * scale) | 0];
      if (share > values[i]) values[i] = share;
    }
  }
  if (changed) imprint.touch(tile, tx, ty, tx + columns, ty + rows);
}

/** A tip with a shape: each texel in the tip's own frame. */
function tipInTile(
  imprint: Imprint,
  dab: FlatDab,
  tip: DabTip,
  radius: number,
  falloff: Float32Array,
  { allow }: FlatLimits,
  x: number,
  y: number,
  column: number,
  row: number,
  columns: number,
  rows: number,
): void {
  const tile = imprint.tile((column / TILE) | 0, (row / TILE) | 0);
  const { values } = tile;
  const prepared = prepareTip(tip, radius, falloff);
  const tx = column % TILE;
  const ty = row % TILE;
  const cos = Math.cos(tip.angle) / radius;
  const sin = Math.sin(tip.angle) / radius;
  const side = (tip.flip ? -1 : 1) / tip.roundness;
  for (let r = 0; r < rows; r++) {
    const dy = y + r + 0.5 - dab.y;
    let i = (ty + r) * TILE + tx;
    for (let c = 0; c < columns; c++, i++) {
      const dx = x + c + 0.5 - dab.x;
      const share = tipShare(prepared, dx * cos + dy * sin, (dy * cos - dx * sin) * side, 0);
      if (!(share > values[i])) continue;
      if (allow !== undefined && !allow(tile.x, tile.y, i)) continue;
      values[i] = share;
    }
  }
  imprint.touch(tile, tx, ty, tx + columns, ty + rows);
}
