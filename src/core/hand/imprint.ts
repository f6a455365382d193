/**
 * What one dab gives each texel, 0 … 1, before flow and opacity: float32, sparse tiles. Where a dab comes to a texel more
 * than once (mirrored, or over several faces) what gives most counts, so that it is laid once.
 */
import type { TexelRect as Reached } from '../../kernels/dabs';
import { TILE, tileIndex, tilesAcross, type TileIndex } from '../tile/tiles';
import { giveClear, takeClear } from './planes';

export type { Reached };

/** A rectangle that also holds another. */
export function grow(rect: Reached, x0: number, y0: number, x1: number, y1: number): void {
  if (x0 < rect.x0) rect.x0 = x0;
  if (y0 < rect.y0) rect.y0 = y0;
  if (x1 > rect.x1) rect.x1 = x1;
  if (y1 > rect.y1) rect.y1 = y1;
}

export interface ImprintTile extends Reached {
  index: TileIndex;
  x: number;
  y: number;
  /** Row by row. */
  values: Float32Array;
}

export class Imprint {
  private grid: (ImprintTile | undefined)[];
  private across: number;
  /** Those that the dab reaches. */
  readonly tiles: ImprintTile[] = [];

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.across = tilesAcross(width);
    this.grid = new Array(this.across * tilesAcross(height)).fill(undefined);
  }

  tile(x: number, y: number): ImprintTile {
    const at = y * this.across + x;
    let tile = this.grid[at];
    if (!tile) {
      tile = { index: tileIndex(x, y), x, y, values: takeClear(), x0: TILE, y0: TILE, x1: 0, y1: 0 };
      this.grid[at] = tile;
    }
    return tile;
  }

  /** Notes that the dab has written a rectangle of a tile. */
  touch(tile: ImprintTile, x0: number, y0: number, x1: number, y1: number): void {
    if (tile.x0 >= tile.x1) this.tiles.push(tile);
    grow(tile, x0, y0, x1, y1);
  }

  /** A tile in which the dab has written nothing after all. */
  forget(tile: ImprintTile): void {
    if (tile.x0 < tile.x1) return;
    this.grid[tile.y * this.across + tile.x] = undefined;
    giveClear(tile.values, tile);
  }

  /** For the next dab. */
  clear(): void {
    for (const tile of this.tiles) {
      giveClear(tile.values, tile);
      this.grid[tile.y * this.across + tile.x] = undefined;
    }
    this.tiles.length = 0;
  }
}
