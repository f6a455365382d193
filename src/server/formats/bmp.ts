/** Windows bitmaps (BMP, "Bitmap Storage", Microsoft): 1, 4, 8, 16, 24 and 32 bits, masks, run lengths, rows from below or above. */
import {
  byMasks,
  OPAQUE_BLACK,
  PictureDamaged,
  PictureRefused,
  startsWith,
  viewOf,
  withoutOpaqueAlpha,
  type PictureFormat,
} from './format';

const COMPRESSION = { none: 0, rle8: 1, rle4: 2, masks: 3, alphaMasks: 6 } as const;
const OS2_HEADER = 12;
const V3_HEADER = 56;

interface Head {
  width: number;
  height: number;
  fromAbove: boolean;
  bits: number;
  compression: number;
  /** Red, green, blue, alpha. */
  masks: [number, number, number, number];
  palette: Uint8Array;
  /** Bytes of a colour in the palette. */
  paletteStep: 3 | 4;
  start: number;
}

function headOf(bytes: Uint8Array): Head {
  if (bytes.length < 26) throw new PictureDamaged();
  const view = viewOf(bytes);
  const u16 = (at: number) => (at + 2 <= bytes.length ? view.getUint16(at, true) : 0);
  const u32 = (at: number) => (at + 4 <= bytes.length ? view.getUint32(at, true) : 0);
  const size = u32(14);
  const old = size === OS2_HEADER;
  if (!old && size < 40) throw new PictureRefused('is a BMP with a header that is not read: save it as PNG.');
  const [width, signedHeight] = old ? [u16(18), u16(20)] : [u32(18) | 0, u32(22) | 0];
  const bits = u16(old ? 24 : 28);
  const compression = old ? 0 : u32(30);
  if (compression === 4 || compression === 5)
    throw new PictureRefused('is a BMP with a JPEG or PNG inside, which is not read: save it as PNG.');
  const masked = compression === COMPRESSION.masks || compression === COMPRESSION.alphaMasks;
  const fits =
    compression === COMPRESSION.none
      ? [1, 4, 8, 16, 24, 32].includes(bits)
      : compression === COMPRESSION.rle8
        ? bits === 8
        : compression === COMPRESSION.rle4
          ? bits === 4
          : masked && (bits === 16 || bits === 32);
  if (!fits) throw new PictureRefused(`is a BMP of ${bits} bits in a packing that is not read: save it as PNG.`);
  // Thirty-two bits have no alpha by the letter, and many programs put it there.
  const usual: Head['masks'] = bits === 16 ? [0x7c00, 0x3e0, 0x1f, 0] : [0xff0000, 0xff00, 0xff, bits === 32 ? 0xff000000 : 0];
  const hasAlpha = compression === COMPRESSION.alphaMasks || size >= V3_HEADER;
  const masks: Head['masks'] = masked ? [u32(54), u32(58), u32(62), hasAlpha ? u32(66) : 0] : usual;
  const afterHeader = 14 + size + (masked && size === 40 ? (compression === COMPRESSION.alphaMasks ? 16 : 12) : 0);
  const paletteStep = old ? 3 : 4;
  const colours = bits > 8 ? 0 : Math.min(256, old ? 1 << bits : u32(46) || 1 << bits);
  return {
    width,
    height: Math.abs(signedHeight),
    fromAbove: signedHeight < 0,
    bits,
    compression,
    masks,
    palette: bytes.subarray(afterHeader, afterHeader + colours * paletteStep),
    paletteStep,
    start: u32(10),
  };
}

export const bmp: PictureFormat = {
  is: (head) => startsWith(head, 'BM'),
  size: headOf,
  read(bytes) {
    const head = headOf(bytes);
    const rgba = new Uint8Array(head.width * head.height * 4);
    if (head.compression === COMPRESSION.rle8 || head.compression === COMPRESSION.rle4) unpackRuns(bytes, head, rgba);
    else if (head.bits <= 8) readIndices(bytes, head, rgba);
    else readColours(bytes, head, rgba);
    // Where all of it is 0 the bits of alpha are not used.
    if (rgba.every((v, i) => i % 4 !== 3 || v === 0)) for (let i = 3; i < rgba.length; i += 4) rgba[i] = 255;
    return withoutOpaqueAlpha(head, rgba);
  },
};

/** Bytes of a row, a multiple of four. Throws where the file ends before the last row. */
function rowBytes(bytes: Uint8Array, { width, height, bits, start }: Head): number {
  const row = Math.ceil((width * bits) / 32) * 4;
  // Some files leave out the padding of the last row.
  if (start + row * (height - 1) + Math.ceil((width * bits) / 8) > bytes.length) throw new PictureDamaged();
  return row;
}

/** Where a row of the file lies in the picture, whose rows run down. */
const rowOf = ({ height, fromAbove }: Head, row: number): number => (fromAbove ? row : height - 1 - row);

function put({ palette, paletteStep }: Head, rgba: Uint8Array, texel: number, index: number): void {
  const at = index * paletteStep;
  if (at + 3 > palette.length) throw new PictureDamaged();
  rgba[texel * 4] = palette[at + 2];
  rgba[texel * 4 + 1] = palette[at + 1];
  rgba[texel * 4 + 2] = palette[at];
  rgba[texel * 4 + 3] = 255;
}

function readIndices(bytes: Uint8Array, head: Head, rgba: Uint8Array): void {
  const { width, height, bits, start } = head;
  const row = rowBytes(bytes, head);
  const mask = (1 << bits) - 1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const bit = x * bits;
      const index = (bytes[start + y * row + (bit >> 3)] >> (8 - bits - (bit & 7))) & mask;
      put(head, rgba, rowOf(head, y) * width + x, index);
    }
}

function readColours(bytes: Uint8Array, head: Head, rgba: Uint8Array): void {
  const { width, height, bits, start, masks } = head;
  const row = rowBytes(bytes, head);
  const step = bits / 8;
  const take = byMasks(masks, OPAQUE_BLACK);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = start + y * row + x * step;
      const texel =
        (bytes[at] | (bytes[at + 1] << 8) | (step > 2 ? bytes[at + 2] << 16 : 0) | (step > 3 ? bytes[at + 3] << 24 : 0)) >>> 0;
      take(texel, rgba, (rowOf(head, y) * width + x) * 4);
    }
}

/** Run lengths, of a byte a texel or of half a byte. Texels that are skipped are the first colour. */
function unpackRuns(bytes: Uint8Array, head: Head, rgba: Uint8Array): void {
  const { width, height, start } = head;
  const half = head.compression === COMPRESSION.rle4;
  for (let texel = 0; texel < width * height; texel++) put(head, rgba, texel, 0);
  let [at, x, y] = [start, 0, 0];
  const next = () => {
    if (at >= bytes.length) throw new PictureDamaged();
    return bytes[at++];
  };
  const lay = (index: number) => {
    if (x >= width || y >= height) throw new PictureDamaged();
    put(head, rgba, rowOf(head, y) * width + x++, index);
  };
  for (;;) {
    const [count, value] = [next(), next()];
    if (count > 0) {
      for (let i = 0; i < count; i++) lay(half ? (i & 1 ? value & 15 : value >> 4) : value);
      continue;
    }
    if (value === 1) return;
    if (value === 0) [x, y] = [0, y + 1];
    else if (value === 2) [x, y] = [x + next(), y + next()];
    else {
      let pair = 0;
      for (let i = 0; i < value; i++) {
        if (!half || !(i & 1)) pair = next();
        lay(half ? (i & 1 ? pair & 15 : pair >> 4) : pair);
      }
      // Runs of single texels are filled up to whole words.
      const taken = half ? Math.ceil(value / 2) : value;
      if (taken & 1) at++;
    }
    if (y >= height && x > 0) throw new PictureDamaged();
  }
}
