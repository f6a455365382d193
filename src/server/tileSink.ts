/** Tiles on their way to the server: each becomes a blob at once, so that texels of a whole piece are never at hand together. */
import { createHash } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import { filterTile, tileBlob, tileBytes } from '../core/codec/tileBlob';
import { TILE_TEXELS, type TileVersion } from '../core/tile/tiles';

/** The address of a tile, and its blob. */
export function blobOfTile(data: Uint16Array): { hash: string; pack: () => Uint8Array<ArrayBuffer> } {
  const hash = createHash('sha256').update(tileBytes(data)).digest('hex');
  return { hash, pack: () => tileBlob(data.length / TILE_TEXELS, deflateRawSync(filterTile(data), { level: 2 })) };
}

export class TileSink {
  readonly blobs = new Map<string, Uint8Array>();
  /** Addresses of tiles of one texel all over: there are many, and working one out takes a millisecond. */
  private readonly even = new Map<string, string>();
  private kept = 0;

  /** `keepBytes`: so many texels stay with their tiles, for those who draw from them. */
  constructor(private readonly keepBytes: number) {}

  /** Tiles had to go without their texels: what is drawn of the store would lack them. */
  get full(): boolean {
    return this.kept > this.keepBytes;
  }

  readonly take = (data: Uint16Array<ArrayBuffer>): TileVersion => {
    const one = evenTexel(data);
    let hash = one === null ? undefined : this.even.get(one);
    if (!hash) {
      const found = blobOfTile(data);
      hash = found.hash;
      if (!this.blobs.has(hash)) this.blobs.set(hash, found.pack());
      if (one !== null) this.even.set(one, hash);
    }
    this.kept += data.byteLength;
    return { data: this.full ? null : data, hash };
  };
}

function evenTexel(data: Uint16Array): string | null {
  const channels = data.length / TILE_TEXELS;
  for (let i = channels; i < data.length; i++) if (data[i] !== data[i - channels]) return null;
  return data.subarray(0, channels).join();
}
