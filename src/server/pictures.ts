/** Reading pictures of common formats (PNG, JPEG, TIFF, WebP) through sharp, with limits that hold before anything is unpacked. */
import sharp from 'sharp';

export interface ReadPicture {
  width: number;
  height: number;
  channels: number;
  /** 16 bit; 8-bit files are widened by 257, which is exact both ways. */
  data: Uint16Array<ArrayBuffer>;
}

export type PictureResult = { ok: true; picture: ReadPicture } | { ok: false; message: string };

const MOST_SIDE = 16_384;
const MOST_TEXELS = 8192 * 8192;
const FORMATS = ['png', 'jpeg', 'tiff', 'webp', 'gif'];

/**
 * `colour`: turned as its EXIF says and brought to sRGB by its profile (CMYK too). `data`: turned, values as they
 * are stored. Never throws for a bad file: what is wrong comes back as one sentence.
 */
export async function readPicture(path: string, name: string, as: 'colour' | 'data'): Promise<PictureResult> {
  const bad = (why: string) => ({ ok: false as const, message: `"${name}" ${why}` });
  let meta;
  try {
    meta = await sharp(path, { limitInputPixels: false }).metadata();
  } catch {
    return bad('is not a picture that is read here, or it is damaged: save it as PNG, JPEG, TIFF or WebP.');
  }
  const { width, height, format, depth } = meta;
  if (!FORMATS.includes(format)) return bad(`is a ${format} file, which is not read here: save it as PNG, JPEG, TIFF or WebP.`);
  if (width > MOST_SIDE || height > MOST_SIDE || width * height > MOST_TEXELS)
    return bad(`is ${width} × ${height}, more than is read (up to ${MOST_SIDE} a side and 67 million texels): make it smaller.`);
  const wide = depth === 'ushort';
  try {
    let image = sharp(path, { limitInputPixels: MOST_TEXELS, failOn: 'truncated', ignoreIcc: as === 'data' }).autoOrient();
    if (as === 'data' && meta.space === 'cmyk') return bad('has the four inks of print, which hold no values: save it as grey.');
    const grey = as === 'data' && meta.channels <= 2;
    // Said even where it is what the file has: left to itself, sharp goes through 8 bits.
    image = image.toColourspace(grey ? (wide ? 'grey16' : 'b-w') : wide ? 'rgb16' : 'srgb');
    const { data, info } = await image.raw({ depth: wide ? 'ushort' : 'uchar' }).toBuffer({ resolveWithObject: true });
    const count = info.width * info.height * info.channels;
    const out = new Uint16Array(count);
    if (wide) new Uint8Array(out.buffer).set(data.subarray(0, count * 2));
    else for (let i = 0; i < count; i++) out[i] = data[i] * 257;
    return { ok: true, picture: { width: info.width, height: info.height, channels: info.channels, data: out } };
  } catch {
    return bad('is damaged or cut short: copy or save it again.');
  }
}
