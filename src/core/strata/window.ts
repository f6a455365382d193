/** Windows over tiles: any rectangle of a sheet, wrapped where the sheet wraps, else going on with its border. */
import type { Sheet } from '../document/schema';
import type { Rect } from '../raster/mips';
import { TILE, TILE_TEXELS, tileIndex, type TileIndex } from '../raster/tiles';
import type { TileValue } from './tileCache';

type Extent = Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>;

/** Where a run of texels starts in the sheet, and how far it goes within one tile. */
export function runWithin(at: number, left: number, size: number, wrap: boolean): [start: number, count: number] {
  if (wrap) at = ((at % size) + size) % size;
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
      for (let p = 0; p < planes; p++)
        for (let r = 0; r < rows; r++) {
          const to = p * size + (ry + r) * width + rx;
          if (!value.data) out.fill(value.uniform[p], to, to + columns);
          else {
            const from = p * TILE_TEXELS + ((sy + r) % TILE) * TILE + (sx % TILE);
            if (columns === 1) out[to] = value.data[from];
            else out.set(value.data.subarray(from, from + columns), to);
          }
        }
      rx += columns;
    }
    ry += rows;
  }
}

/** The tiles along one axis that [from, to) touches, in a fixed order; beyond the border only where the sheet wraps. */
export function tilesBetween(from: number, to: number, size: number, wraps: boolean, count: number): number[] {
  const out: number[] = [];
  const add = (t: number) => {
    if (!out.includes(t)) out.push(t);
  };
  if (!wraps) {
    const last = Math.min(count - 1, Math.floor((Math.min(to, size) - 1) / TILE));
    for (let t = Math.max(0, Math.floor(from / TILE)); t <= last; t++) add(t);
    return out;
  }
  for (let v = from; v < to;) {
    const at = ((v % size) + size) % size;
    add(Math.floor(at / TILE));
    if (out.length === count) break;
    // To the next tile border, or to where the sheet begins anew.
    v += Math.min(TILE - (at % TILE), size - at);
  }
  return out;
}
