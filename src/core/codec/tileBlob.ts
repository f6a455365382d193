/**
 * A tile as a blob. Byte 0: channels (2 or 4). Then a raw deflate stream (RFC 1951) of the filtered texels:
 * for each channel, the differences from texel to texel modulo 65536, first all high bytes, then all low
 * bytes. Painted tiles are smooth, so the high bytes are nearly all zero: about a fifth of plain deflate.
 * The address of a tile is the SHA-256 of its unfiltered little-endian bytes, so any deflate will do.
 */
import { newTexels, TILE_TEXELS } from '../tile/tiles';

export function filterTile(data: Uint16Array): Uint8Array<ArrayBuffer> {
  const channels = data.length / TILE_TEXELS;
  const out = new Uint8Array(data.length * 2);
  for (let c = 0; c < channels; c++) {
    const high = c * TILE_TEXELS * 2;
    const low = high + TILE_TEXELS;
    for (let i = 0, last = 0; i < TILE_TEXELS; i++) {
      const v = data[i * channels + c];
      const difference = (v - last) & 0xffff;
      last = v;
      out[high + i] = difference >> 8;
      out[low + i] = difference & 255;
    }
  }
  return out;
}

export function unfilterTile(bytes: Uint8Array, channels: 2 | 4): Uint16Array<ArrayBuffer> {
  if (bytes.length !== TILE_TEXELS * channels * 2)
    throw new Error(`A tile of ${channels} channels has ${TILE_TEXELS * channels * 2} bytes, not ${bytes.length}`);
  const out = newTexels(TILE_TEXELS * channels);
  for (let c = 0; c < channels; c++) {
    const high = c * TILE_TEXELS * 2;
    const low = high + TILE_TEXELS;
    for (let i = 0, last = 0; i < TILE_TEXELS; i++) {
      last = (last + (bytes[high + i] << 8) + bytes[low + i]) & 0xffff;
      out[i * channels + c] = last;
    }
  }
  return out;
}

/** Joins the channel byte and a deflate stream. */
export function tileBlob(channels: number, deflated: Uint8Array): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(deflated.length + 1);
  out[0] = channels;
  out.set(deflated, 1);
  return out;
}

export function blobChannels(blob: Uint8Array): 2 | 4 {
  if (blob[0] !== 2 && blob[0] !== 4) throw new Error(`Not a tile blob: ${blob[0]} channels`);
  return blob[0];
}

const HEX = Array.from({ length: 256 }, (_, i) => i.toString(16).padStart(2, '0'));
export const toHex = (bytes: Uint8Array): string => Array.from(bytes, (b) => HEX[b]).join('');

/** SHA-256 (FIPS 180-4) as hex, through the platform's Web Crypto. */
export async function sha256(bytes: Uint8Array): Promise<string> {
  return toHex(new Uint8Array(await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>)));
}

export function tileBytes(data: Uint16Array): Uint8Array {
  const bytes = new Uint8Array(data.buffer, data.byteOffset, data.byteLength);
  // Hashing refuses shared memory.
  return bytes.buffer instanceof ArrayBuffer ? bytes : new Uint8Array(bytes);
}
