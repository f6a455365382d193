/** Pictures from outside as pins of a pinboard. Runs in a reader process (readers/tasks.ts). */
import sharp, { type Sharp } from 'sharp';
import { MOST_PIN_SIDE } from '../core/document/pin';
import { isOwnFormat, readPicture, type Declared, type PictureResult } from './pictures';

export type PinResult = { ok: true; webp: Uint8Array; width: number; height: number } | { ok: false; message: string };

const FORMATS: readonly string[] = ['png', 'jpeg', 'webp', 'tiff', 'gif', 'heif'];
const MOST_SIDE = 16_384;
const MOST_TEXELS = 8192 * 8192;

/** A picture file as a pin: WebP in sRGB, of a limited size. Never throws for a bad file. `declared`: as in pictures.ts. */
export async function makePin(path: string, name: string, declared: Declared): Promise<PinResult> {
  if (await isOwnFormat(path, name)) return ofRead(await readPicture(path, name, 'colour', declared));
  const bad = (why: string) => ({ ok: false as const, message: `"${name}" ${why}` });
  try {
    const { width, height, format } = await sharp(path, { limitInputPixels: false }).metadata();
    // SVG and PDF can refer to other files and take unbounded time to draw.
    if (!FORMATS.includes(format)) return bad(`is a ${format} file, which is not read here: save it as PNG, JPEG, TIFF or WebP.`);
    if (width > MOST_SIDE || height > MOST_SIDE || width * height > MOST_TEXELS)
      return bad(
        `is ${width} × ${height}, more than is read (up to ${MOST_SIDE} a side and 67 million texels): make it smaller.`,
      );
    declared(width * height);
  } catch {
    return bad('is not a picture that is read here, or it is damaged: save it as PNG, JPEG, TIFF or WebP.');
  }
  try {
    const image = sharp(path, { limitInputPixels: MOST_TEXELS, failOn: 'truncated' }).autoOrient().toColourspace('srgb');
    return await fitted(image);
  } catch {
    return bad('is damaged or cut short: copy or save it again.');
  }
}

async function fitted(image: Sharp): Promise<PinResult> {
  const { data, info } = await image
    .resize(MOST_PIN_SIDE, MOST_PIN_SIDE, { fit: 'inside', withoutEnlargement: true })
    .webp({ quality: 95, smartSubsample: true })
    .toBuffer({ resolveWithObject: true });
  return { ok: true, webp: data, width: info.width, height: info.height };
}

async function ofRead(result: PictureResult): Promise<PinResult> {
  if (!result.ok) return result;
  const { width, height, channels, data } = result.picture;
  const bytes = Uint8Array.from(data, (v) => Math.round(v / 257));
  return fitted(sharp(bytes, { raw: { width, height, channels: channels as 1 | 2 | 3 | 4 } }));
}
