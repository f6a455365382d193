/** Texels of a map as tools read them: premultiplied by alpha, so that what is not there weighs nothing. */
import type { Sheet } from '../document/schema';
import type { TileValue } from '../strata/tileCache';
import { TILE, tileIndex, TILE_TEXELS, type TileIndex } from '../tile/tiles';

/** What of a tile there is: stored texels, evaluated planes, or nothing. */
export type Read = (tile: TileIndex) => Uint16Array | TileValue | null;

export class Looked {
  private tiles = new Map<TileIndex, Float32Array | null>();
  private lastIndex = -1;
  private last: Float32Array | null = null;
  private corners: (Float32Array | null)[] = [null, null, null, null];

  /** `channels`: values and alpha, 2 or 4. */
  constructor(
    private sheet: Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>,
    readonly channels: 2 | 4,
    private read: Read,
  ) {}

  /** Texels row by row, `channels` × float32 each; null: nothing is there. */
  tile(index: TileIndex): Float32Array | null {
    if (index === this.lastIndex) return this.last;
    let tile = this.tiles.get(index);
    if (tile === undefined) this.tiles.set(index, (tile = this.made(index)));
    this.lastIndex = index;
    return (this.last = tile);
  }

  /** The same, to be written. */
  own(index: TileIndex): Float32Array {
    const known = this.tile(index);
    if (known) return known;
    const tile = new Float32Array(TILE_TEXELS * this.channels);
    this.tiles.set(index, tile);
    this.last = tile;
    return tile;
  }

  private made(index: TileIndex): Float32Array | null {
    const { channels } = this;
    const from = this.read(index);
    if (from === null) return null;
    const out = new Float32Array(TILE_TEXELS * channels);
    const colours = channels - 1;
    if (from instanceof Uint16Array) {
      for (let o = 0; o < out.length; o += channels) {
        const a = from[o + colours] / 65535;
        for (let k = 0; k < colours; k++) out[o + k] = (from[o + k] / 65535) * a;
        out[o + colours] = a;
      }
      return out;
    }
    const { data, uniform } = from;
    const opaque = data ? data.length < TILE_TEXELS * channels : uniform.length < channels;
    for (let i = 0, o = 0; i < TILE_TEXELS; i++, o += channels) {
      const a = opaque ? 1 : data ? data[colours * TILE_TEXELS + i] : uniform[colours];
      for (let k = 0; k < colours; k++) out[o + k] = (data ? data[k * TILE_TEXELS + i] : uniform[k]) * a;
      out[o + colours] = a;
    }
    return out;
  }

  /**
   * Bilinear at a place in texels, into `out`. Beyond the sheet it wraps where that wraps, else its border goes on. Places
   * are taken to 1/256 of a texel: a texel's middle, worked out with rounding errors, is that texel to the bit.
   */
  sample(x: number, y: number, out: Float32Array): void {
    const { channels, corners } = this;
    const px = Math.round(x * 256) / 256 - 0.5;
    const py = Math.round(y * 256) / 256 - 0.5;
    const x0 = Math.floor(px);
    const y0 = Math.floor(py);
    const fx = px - x0;
    const fy = py - y0;
    const { width, height, wrapU, wrapV } = this.sheet;
    const column = x0 & 127;
    const row = y0 & 127;
    // Nearly always all four lie in one tile.
    if (x0 >= 0 && y0 >= 0 && x0 + 1 < width && y0 + 1 < height && column < 127 && row < 127) {
      const tile = this.tile(tileIndex(x0 >> 7, y0 >> 7));
      if (tile === null) {
        out.fill(0, 0, channels);
        return;
      }
      const o = (row * TILE + column) * channels;
      const low = o + TILE * channels;
      const w00 = (1 - fx) * (1 - fy);
      const w10 = fx * (1 - fy);
      const w01 = (1 - fx) * fy;
      const w11 = fx * fy;
      out[0] = tile[o] * w00 + tile[o + channels] * w10 + tile[low] * w01 + tile[low + channels] * w11;
      out[1] = tile[o + 1] * w00 + tile[o + channels + 1] * w10 + tile[low + 1] * w01 + tile[low + channels + 1] * w11;
      if (channels === 2) return;
      out[2] = tile[o + 2] * w00 + tile[o + 6] * w10 + tile[low + 2] * w01 + tile[low + 6] * w11;
      out[3] = tile[o + 3] * w00 + tile[o + 7] * w10 + tile[low + 3] * w01 + tile[low + 7] * w11;
      return;
    }
    const left = wrapU ? modulo(x0, width) : x0 < 0 ? 0 : x0 >= width ? width - 1 : x0;
    const right = wrapU ? modulo(x0 + 1, width) : x0 + 1 < 0 ? 0 : x0 + 1 >= width ? width - 1 : x0 + 1;
    const top = wrapV ? modulo(y0, height) : y0 < 0 ? 0 : y0 >= height ? height - 1 : y0;
    const low = wrapV ? modulo(y0 + 1, height) : y0 + 1 < 0 ? 0 : y0 + 1 >= height ? height - 1 : y0 + 1;
    corners[0] = this.tile(tileIndex(left >> 7, top >> 7));
    const oneTile = left >> 7 === right >> 7 && top >> 7 === low >> 7;
    corners[1] = oneTile ? corners[0] : this.tile(tileIndex(right >> 7, top >> 7));
    corners[2] = oneTile ? corners[0] : this.tile(tileIndex(left >> 7, low >> 7));
    corners[3] = oneTile ? corners[0] : this.tile(tileIndex(right >> 7, low >> 7));
    const a = ((top & 127) * TILE + (left & 127)) * channels;
    const b = ((top & 127) * TILE + (right & 127)) * channels;
    const c = ((low & 127) * TILE + (left & 127)) * channels;
    const d = ((low & 127) * TILE + (right & 127)) * channels;
    const wa = (1 - fx) * (1 - fy);
    const wb = fx * (1 - fy);
    const wc = (1 - fx) * fy;
    const wd = fx * fy;
    for (let k = 0; k < channels; k++)
      out[k] =
        (corners[0] === null ? 0 : corners[0][a + k] * wa) +
        (corners[1] === null ? 0 : corners[1][b + k] * wb) +
        (corners[2] === null ? 0 : corners[2][c + k] * wc) +
        (corners[3] === null ? 0 : corners[3][d + k] * wd);
  }
}

const modulo = (v: number, n: number): number => ((v % n) + n) % n;
