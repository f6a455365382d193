/** Rows of a picture, from the top, into tiles: no more than a strip of 128 rows is ever at hand. */
import { newTexels, TILE, TILE_TEXELS, tileIndex, type TileIndex } from './tiles';

export class TileStrips {
  private readonly strip: Uint16Array;

  /** `put` gets each tile that has something in it (its last channel is not all 0). */
  constructor(
    private readonly width: number,
    private readonly height: number,
    private readonly channels: 2 | 4,
    private readonly put: (tile: TileIndex, data: Uint16Array<ArrayBuffer>) => void,
  ) {
    this.strip = new Uint16Array(width * Math.min(TILE, height) * channels);
  }

  /** Texels of row y, interleaved; all rows in order. */
  row(texels: Uint16Array, y: number): void {
    this.strip.set(texels, (y % TILE) * this.width * this.channels);
    if (y % TILE === TILE - 1 || y === this.height - 1) this.cut(Math.floor(y / TILE), (y % TILE) + 1);
  }

  private cut(ty: number, rows: number): void {
    const { width, channels, strip } = this;
    for (let tx = 0; tx * TILE < width; tx++) {
      const columns = Math.min(TILE, width - tx * TILE);
      let covered = false;
      for (let y = 0; y < rows && !covered; y++) {
        const from = (y * width + tx * TILE) * channels;
        for (let i = from + channels - 1; i < from + columns * channels && !covered; i += channels) covered = strip[i] !== 0;
      }
      if (!covered) continue;
      const data = newTexels(TILE_TEXELS * channels);
      for (let y = 0; y < rows; y++) {
        const from = (y * width + tx * TILE) * channels;
        data.set(strip.subarray(from, from + columns * channels), y * TILE * channels);
      }
      this.put(tileIndex(tx, ty), data);
    }
  }
}
