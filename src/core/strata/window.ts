/** Windows over tiles: any rectangle of a sheet, wrapped where the sheet wraps, else going on with its border. */
import { around } from '../tile/border';
import type { Sheet } from '../document/schema';
import { kernels } from '../kernels';
import type { Rect } from '../tile/mips';
import { TILE, TILE_TEXELS, tileIndex, type TileIndex } from '../tile/tiles';
import type { TileValue } from './tileCache';

type Extent = Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>;

/** Where a run of texels starts in the sheet, and how far it goes within one tile. */
export function runWithin(at: number, left: number, size: number, wrap: boolean): [start: number, count: number] {
  if (wrap) at = around(at, size);
  else if (at < 0) return [0, 1];
  else if (at >= size) return [size - 1, 1];
  return [at, Math.min(left, TILE - (at % TILE), size - at)];
}

/** Fills `out` (`planes` planes of the rectangle's size) from evaluated tiles. */
export function gather(
  sheet: Extent,
  rect: Rect,
  planes: number,
  tileAt: (tile: TileIndex) => TileValue,
  out: Float32Array,
): void {
  const { x, y, width, height } = rect;
  const size = width * height;
  for (let ry = 0; ry < height;) {
    const [sy, rows] = runWithin(y + ry, height - ry, sheet.height, sheet.wrapV);
    for (let rx = 0; rx < width;) {
      const [sx, columns] = runWithin(x + rx, width - rx, sheet.width, sheet.wrapU);
      const value = tileAt(tileIndex((sx / TILE) | 0, (sy / TILE) | 0));
      for (let p = 0; p < planes; p++) {
        const to = p * size + ry * width + rx;
        // Alpha that is left out is 1.
        if (!value.data) fillRows(out, to, width, columns, rows, value.uniform[p]);
        else if (p * TILE_TEXELS >= value.data.length) fillRows(out, to, width, columns, rows, 1);
        else {
          const from = { data: value.data, at: p * TILE_TEXELS + (sy % TILE) * TILE + (sx % TILE), stride: TILE };
          kernels().copyRows(from, { data: out, at: to, stride: width }, columns, rows);
        }
      }
      rx += columns;
    }
    ry += rows;
  }
}

function fillRows(out: Float32Array, to: number, stride: number, columns: number, rows: number, value: number): void {
  if (columns === stride) out.fill(value, to, to + columns * rows);
  else for (let r = 0; r < rows; r++) out.fill(value, to + r * stride, to + r * stride + columns);
}

/** The tiles along one axis that [from, to) touches, in a fixed order. Beyond the border the sheet wraps, or its last tile goes on. */
export function tilesBetween(from: number, to: number, size: number, wraps: boolean, count: number): number[] {
  const out: number[] = [];
  const add = (t: number) => {
    if (!out.includes(t)) out.push(t);
  };
  if (!wraps) {
    const tileOf = (v: number) => Math.floor(Math.min(size - 1, Math.max(0, v)) / TILE);
    for (let t = tileOf(from); t <= tileOf(to - 1); t++) add(t);
    return out;
  }
  for (let v = from; v < to;) {
    const at = around(v, size);
    add(Math.floor(at / TILE));
    if (out.length === count) break;
    // To the next tile border, or to where the sheet begins anew.
    v += Math.min(TILE - (at % TILE), size - at);
  }
  return out;
}
