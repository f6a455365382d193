/** PNG through fast-png, with limits that hold before anything large is allocated. */
import { decode, encode } from 'fast-png';
import type { Bitmap } from '../tile/bitmap';

export const PNG_LIMITS = { maxSide: 16384, maxTexels: 8192 * 8192 } as const;

/** Bad input: `message` is one sentence for people. */
export class PictureError extends Error {}

export function isPng(bytes: Uint8Array): boolean {
  return bytes.length > 24 && [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a].every((b, i) => bytes[i] === b);
}

export function decodePng(bytes: Uint8Array, name = 'The picture'): Bitmap {
  if (!isPng(bytes)) throw new PictureError(`${name} is not a PNG file: save it again as PNG.`);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const width = view.getUint32(16);
  const height = view.getUint32(20);
  if (
    width === 0 ||
    height === 0 ||
    width > PNG_LIMITS.maxSide ||
    height > PNG_LIMITS.maxSide ||
    width * height > PNG_LIMITS.maxTexels
  )
    throw new PictureError(
      `${name} says it is ${width} × ${height}, outside what is read (up to ${PNG_LIMITS.maxSide} a side): make it smaller.`,
    );
  let png;
  try {
    png = decode(bytes);
  } catch {
    throw new PictureError(`${name} is damaged or cut short: copy or save it again.`);
  }
  if (png.palette) return fromPalette(png.data as Uint8Array, png.depth, png.palette, width, height);
  const data = png.depth < 8 ? unpackBits(png.data as Uint8Array, width, height, png.depth) : png.data;
  if (data.length !== width * height * png.channels)
    throw new PictureError(`${name} is damaged or cut short: copy or save it again.`);
  return {
    width,
    height,
    channels: png.channels as Bitmap['channels'],
    bits: png.depth === 16 ? 16 : 8,
    data: data as Uint8Array | Uint16Array,
  };
}

/** Greyscale of 1, 2 or 4 bits: rows start on a byte (PNG specification, 7.2). */
function unpackBits(
  packed: Uint8Array,
  width: number,
  height: number,
  depth: number,
  scale = 255 / ((1 << depth) - 1),
): Uint8Array {
  const out = new Uint8Array(width * height);
  const rowBytes = Math.ceil((width * depth) / 8);
  const mask = (1 << depth) - 1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const bit = x * depth;
      out[y * width + x] = ((packed[y * rowBytes + (bit >> 3)] >> (8 - depth - (bit & 7))) & mask) * scale;
    }
  return out;
}

function fromPalette(indices: Uint8Array, depth: number, palette: number[][], width: number, height: number): Bitmap {
  const flat = depth < 8 ? unpackBits(indices, width, height, depth, 1) : indices;
  const data = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const colour = palette[flat[i]] ?? [0, 0, 0, 0];
    for (let c = 0; c < 4; c++) data[i * 4 + c] = colour[c] ?? 255;
  }
  return { width, height, channels: 4, bits: 8, data };
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

/** CRC-32 as in ISO 3309 (PNG specification, annex D). */
function crc32(bytes: Uint8Array): number {
  let crc = 0xffffffff;
  for (const b of bytes) {
    crc ^= b;
    for (let k = 0; k < 8; k++) crc = crc & 1 ? 0xedb88320 ^ (crc >>> 1) : crc >>> 1;
  }
  return (crc ^ 0xffffffff) >>> 0;
}
