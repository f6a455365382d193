/**
 * What one dab gives each texel, 0 … 1, before flow and opacity: float32, sparse tiles. Where a dab comes to a texel more
 * than once (mirrored, or over several faces) what gives most counts, so that it is laid once.
 */
import { TILE, tileIndex, tilesAcross, TILE_TEXELS, type TileIndex } from '../tile/tiles';

/** Texels within a tile, x1/y1 exclusive. x0 ≥ x1: none. */
export interface Reached {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

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
  /** Zero, and still in the nearest cache: a stroke goes on with the few that its dabs need at once. */
  private spare: Float32Array[] = [];
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
      const values = this.spare.pop() ?? new Float32Array(TILE_TEXELS);
      tile = { index: tileIndex(x, y), x, y, values, x0: TILE, y0: TILE, x1: 0, y1: 0 };
      this.grid[at] = tile;
    }
    return tile;
  }

  /** Notes that the dab has written a rectangle of a tile. */
  touch(tile: ImprintTile, x0: number, y0: number, x1: number, y1: number): void {
    if (tile.x0 >= tile.x1) this.tiles.push(tile);
    grow(tile, x0, y0, x1, y1);
  }

  /** For the next dab. */
  clear(): void {
    for (const tile of this.tiles) {
      const { values, x0, x1, y1 } = tile;
      for (let y = tile.y0; y < y1; y++) values.fill(0, y * TILE + x0, y * TILE + x1);
      this.grid[tile.y * this.across + tile.x] = undefined;
      this.spare.push(values);
    }
    this.tiles.length = 0;
  }
}
