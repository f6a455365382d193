/** Texels of a map as tools read them: premultiplied by alpha, so that what is not there weighs nothing. */
import type { Sheet } from '../document/schema';
import type { TileValue } from '../strata/tileCache';
import type { ReadTiles } from '../../kernels/steps';
import { around, within } from '../tile/border';
import { lasting, TILE, tileIndex, tilesAcross, TILE_TEXELS, tileX, tileY, type TileIndex } from '../tile/tiles';

/** What of a tile there is: stored texels, evaluated planes, or nothing. */
export type Read = (tile: TileIndex) => Uint16Array | TileValue | null;

export class Looked implements ReadTiles {
  private tiles = new Map<TileIndex, Float32Array | null>();
  readonly addresses: Int32Array;
  readonly width: number;
  readonly height: number;
  readonly wrapU: boolean;
  readonly wrapV: boolean;
  private lastIndex = -1;
  private last: Float32Array | null = null;
  private corners: (Float32Array | null)[] = [null, null, null, null];

  /** `channels`: values and alpha, 2 or 4. */
  constructor(
    { width, height, wrapU, wrapV }: Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>,
    readonly channels: 2 | 4,
    private read: Read,
  ) {
    [this.width, this.height, this.wrapU, this.wrapV] = [width, height, wrapU, wrapV];
    this.addresses = lasting(Int32Array, tilesAcross(width) * tilesAcross(height)).fill(-1);
  }

  tileAt(n: number): Float32Array | null {
    const across = tilesAcross(this.width);
    return this.tile(tileIndex(n % across, (n / across) | 0));
  }

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
    const tile = lasting(Float32Array, TILE_TEXELS * this.channels).fill(0);
    this.tiles.set(index, tile);
    this.addresses[tileY(index) * tilesAcross(this.width) + tileX(index)] = -1;
    this.last = tile;
    return tile;
  }

  private made(index: TileIndex): Float32Array | null {
    const { channels } = this;
    const from = this.read(index);
    if (from === null) return null;
    const out = lasting(Float32Array, TILE_TEXELS * channels);
    const colours = channels - 1;
    if (from instanceof Uint16Array) {
      const unit = 1 / 65535;
      for (let o = 0; o < out.length; o += channels) {
        const a = from[o + colours] * unit;
        const by = a * unit;
        out[o] = from[o] * by;
        if (channels === 4) {
          out[o + 1] = from[o + 1] * by;
          out[o + 2] = from[o + 2] * by;
        }
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
   * Bilinear at a place in texels, into `out` from `at` on. Beyond the sheet it wraps where that wraps, else its border goes on. Places
   * are taken to 1/256 of a texel: a texel's middle, worked out with rounding errors, is that texel to the bit.
   */
  sample(x: number, y: number, out: Float32Array, at = 0): void {
    const { channels, corners } = this;
    // In whole 256ths, which are quicker: of places within 8 million texels.
    const px = Math.floor(x * 256 + 0.5) - 128;
    const py = Math.floor(y * 256 + 0.5) - 128;
    const x0 = px >> 8;
    const y0 = py >> 8;
    const fx = (px & 255) / 256;
    const fy = (py & 255) / 256;
    const { width, height, wrapU, wrapV } = this;
    const column = x0 & 127;
    const row = y0 & 127;
    // Nearly always all four lie in one tile.
    if (x0 >= 0 && y0 >= 0 && x0 + 1 < width && y0 + 1 < height && column < 127 && row < 127) {
      const tile = this.tile(tileIndex(x0 >> 7, y0 >> 7));
      if (tile === null) {
        out.fill(0, at, at + channels);
        return;
      }
      const o = (row * TILE + column) * channels;
      const low = o + TILE * channels;
      for (let k = 0; k < channels; k++)
        out[at + k] = between(tile[o + k], tile[o + channels + k], tile[low + k], tile[low + channels + k], fx, fy);
      return;
    }
    const left = wrapU ? around(x0, width) : within(x0, width);
    const right = wrapU ? around(x0 + 1, width) : within(x0 + 1, width);
    const top = wrapV ? around(y0, height) : within(y0, height);
    const low = wrapV ? around(y0 + 1, height) : within(y0 + 1, height);
    corners[0] = this.tile(tileIndex(left >> 7, top >> 7));
    const oneTile = left >> 7 === right >> 7 && top >> 7 === low >> 7;
    corners[1] = oneTile ? corners[0] : this.tile(tileIndex(right >> 7, top >> 7));
    corners[2] = oneTile ? corners[0] : this.tile(tileIndex(left >> 7, low >> 7));
    corners[3] = oneTile ? corners[0] : this.tile(tileIndex(right >> 7, low >> 7));
    const a = ((top & 127) * TILE + (left & 127)) * channels;
    const b = ((top & 127) * TILE + (right & 127)) * channels;
    const c = ((low & 127) * TILE + (left & 127)) * channels;
    const d = ((low & 127) * TILE + (right & 127)) * channels;
    for (let k = 0; k < channels; k++)
      out[at + k] = between(
        corners[0] === null ? 0 : corners[0][a + k],
        corners[1] === null ? 0 : corners[1][b + k],
        corners[2] === null ? 0 : corners[2][c + k],
        corners[3] === null ? 0 : corners[3][d + k],
        fx,
        fy,
      );
  }
}

const f = Math.fround;

/** Between four texels; between equal ones it is what they are, to the bit. */
function between(a: number, b: number, c: number, d: number, fx: number, fy: number): number {
  const upper = f(a + f(f(b - a) * fx));
  const lower = f(c + f(f(d - c) * fx));
  return f(upper + f(f(lower - upper) * fy));
}
