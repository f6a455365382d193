/** Pictures of tiles, RGBA, 8 bit: cut, put together, laid side by side. */
import { inPairs, putRows, type MipLevel, type Rect } from '../../core/tile/mips';
import { TILE, tileX, tileY, WHOLE_TILE, type TileIndex } from '../../core/tile/tiles';

/** Part of a tile in texels of the sheet, as far as that goes; nothing where a sheet of an odd size ends before it. */
export function onSheet(tile: TileIndex, { x, y, width, height }: Rect, whole: { width: number; height: number }): Rect {
  const at = { x: tileX(tile) * TILE + x, y: tileY(tile) * TILE + y, width, height };
  return inPairs({ ...at, width: Math.min(width, whole.width - at.x), height: Math.min(height, whole.height - at.y) }, whole);
}

/** A whole tile of one texel. */
export const evenTile = (texel: number): Uint8Array => new Uint8Array(new Uint32Array(TILE * TILE).fill(texel).buffer);

/** A whole tile to its place in a picture. */
export const paste = (texels: Uint8Array, tile: TileIndex, to: MipLevel): void =>
  putRows(texels, TILE, onSheet(tile, WHOLE_TILE, to), to);

/** Tiles that lie side by side, as one rectangle each. */
export function runsOf(tiles: readonly TileIndex[], sheet: { width: number; height: number }): Rect[] {
  const runs: Rect[] = [];
  for (const tile of [...tiles].sort((a, b) => tileY(a) - tileY(b) || tileX(a) - tileX(b))) {
    const x = tileX(tile) * TILE;
    const y = tileY(tile) * TILE;
    const last = runs.at(-1);
    const width = Math.min(TILE, sheet.width - x);
    if (last && last.y === y && last.x + last.width === x) last.width += width;
    else runs.push({ x, y, width, height: Math.min(TILE, sheet.height - y) });
  }
  return runs;
}

export function within(tile: TileIndex, rect: Rect): boolean {
  const x = tileX(tile) * TILE;
  const y = tileY(tile) * TILE;
  return x < rect.x + rect.width && y < rect.y + rect.height && x + TILE > rect.x && y + TILE > rect.y;
}
