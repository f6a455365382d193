/** A dab in the flat sheet, in texels; wraps where the sheet wraps. */
import type { SheetFrame, TexelRect, TipShape } from '../../kernels/dabs';
import { kernels } from '../kernels';
import { around } from '../tile/border';
import { TILE } from '../tile/tiles';
import type { Imprint, ImprintTile } from './imprint';
import { giveClear, takeClear } from './planes';
import { isPlain, prepareTip, reachInPlane, type DabTip } from './tip';

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

/** Middles lie on a grid as fine as this, so that moving them by whole texels gives the same bits in float32. */
const finely = (v: number): number => Math.round(v * 1024) / 1024;

const ROUND: DabTip = { shape: 'round', roundness: 1, angle: 0 };

/** From offsets in a plane to a tip's own coordinates, in which it reaches to 1. */
export function frameOf({ angle, flip, roundness }: Pick<DabTip, 'angle' | 'flip' | 'roundness'>, radius: number): SheetFrame {
  const cos = Math.cos(angle) / radius;
  const sin = Math.sin(angle) / radius;
  const side = (flip ? -1 : 1) / roundness;
  return { a: cos, b: sin, c: -sin * side, d: cos * side };
}

export function dabFlat(imprint: Imprint, dab: FlatDab, falloff: Float32Array, limits: FlatLimits): void {
  const { width, height } = imprint;
  const [cx, cy] = [finely(dab.x), finely(dab.y)];
  const radius = Math.max(1e-3, dab.radiusTexels);
  const tip = dab.tip && !isPlain(dab.tip) ? dab.tip : ROUND;
  const shape = prepareTip(tip, radius, falloff);
  const frame = frameOf(tip, radius);
  const reach = radius * reachInPlane(tip);
  let top = Math.ceil(cy - reach - 0.5);
  let bottom = Math.floor(cy + reach - 0.5);
  let left = Math.ceil(cx - reach - 0.5);
  let right = Math.floor(cx + reach - 0.5);
  // A dab wider than the canvas meets itself once around: each texel is visited at its nearest turn only.
  if (limits.wrapU) [left, right] = oneTurn(cx, left, right, width);
  else [left, right] = [Math.max(0, left), Math.min(width - 1, right)];
  if (limits.wrapV) [top, bottom] = oneTurn(cy, top, bottom, height);
  else [top, bottom] = [Math.max(0, top), Math.min(height - 1, bottom)];
  // Tile by tile: a run of rows and columns that lies in one tile.
  for (let y = top; y <= bottom;) {
    const row = around(y, height);
    const rows = Math.min(bottom - y + 1, TILE - (row % TILE), height - row);
    for (let x = left; x <= right;) {
      const column = around(x, width);
      const columns = Math.min(right - x + 1, TILE - (column % TILE), width - column);
      const [tx, ty] = [column % TILE, row % TILE];
      const rect = { x0: tx, y0: ty, x1: tx + columns, y1: ty + rows };
      const tile = imprint.tile((column / TILE) | 0, (row / TILE) | 0);
      const gives = dabInTile(tile, rect, shape, x - tx + 0.5 - cx, y - ty + 0.5 - cy, frame, limits);
      if (gives) imprint.touch(tile, rect.x0, rect.y0, rect.x1, rect.y1);
      else imprint.forget(tile);
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

function dabInTile(
  { x, y, values }: ImprintTile,
  rect: TexelRect,
  shape: TipShape,
  dx: number,
  dy: number,
  frame: SheetFrame,
  { allow }: FlatLimits,
): boolean {
  if (!allow) return kernels().dabInSheet(values, rect, shape, dx, dy, frame);
  const limited = takeClear();
  const gives = kernels().dabInSheet(limited, rect, shape, dx, dy, frame);
  for (let row = rect.y0; row < rect.y1; row++)
    for (let i = row * TILE + rect.x0, end = row * TILE + rect.x1; i < end; i++)
      if (limited[i] > values[i] && allow(x, y, i)) values[i] = limited[i];
  giveClear(limited, rect);
  return gives;
}
