/** Whole PNG pictures: in by our own rows (pngRows.ts), out through fast-png. */
import { encode } from 'fast-png';
import type { Bitmap } from '../tile/bitmap';
import { crc32, readPngRows } from './pngRows';

export { isPng, PictureError, PNG_LIMITS } from './pngRows';

export function decodePng(bytes: Uint8Array, name = 'The picture'): Bitmap {
  let out: Bitmap | null = null;
  readPngRows(bytes, name, ({ width, height, channels, bits }) => {
    const length = width * height * channels;
    const data = bits === 16 ? new Uint16Array(length) : new Uint8Array(length);
    out = { width, height, channels, bits, data };
    return (row, y) => data.set(row, y * width * channels);
  });
  return out!;
}

/** `srgb`: colour, tagged with an sRGB chunk. `data`: values, untagged. Level 4 is fast and within 5 % of level 9. */
export function encodePng(picture: Bitmap, tag: 'srgb' | 'data' = 'data'): Uint8Array {
  const bytes = encode({ ...picture, depth: picture.bits }, { zlib: { level: 4 } });
  return tag === 'srgb' ? insertChunk(bytes, 'sRGB', Uint8Array.of(0)) : bytes;
}

/** Puts a chunk right behind IHDR (8 signature + 25 IHDR bytes). */
function insertChunk(png: Uint8Array, type: string, data: Uint8Array): Uint8Array {
  const chunk = new Uint8Array(12 + data.length);
  const view = new DataView(chunk.buffer);
  view.setUint32(0, data.length);
  for (let i = 0; i < 4; i++) chunk[4 + i] = type.charCodeAt(i);
  chunk.set(data, 8);
  view.setUint32(8 + data.length, crc32(chunk.subarray(4, 8 + data.length)));
  const out = new Uint8Array(png.length + chunk.length);
  out.set(png.subarray(0, 33));
  out.set(chunk, 33);
  out.set(png.subarray(33), 33 + chunk.length);
  return out;
}
