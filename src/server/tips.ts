/** Pictures of tips: any picture becomes 8-bit grey in which white paints, kept by its content. */
import { createHash } from 'node:crypto';
import { eq, inArray } from 'drizzle-orm';
import sharp from 'sharp';
import { MOST_PICTURE_SIDE } from '../core/hand/tipPicture';
import { database } from './db';
import type { ReadPicture } from './pictures';
import { inTurn } from './pictureTurns';
import { readPictureApart } from './readers';
import { tips } from './schema';

export type TipResult = { ok: true; id: string } | { ok: false; message: string };

/**
 * What paints: alpha where the picture has any; else its dark or its light parts, whichever its border does not consist of.
 * 8 bit, row by row.
 */
export function greyOf({ width, height, channels, data }: Omit<ReadPicture, 'note'>): Uint8Array {
  const out = new Uint8Array(width * height);
  const hasAlpha = channels === 2 || channels === 4;
  const alphaAt = (i: number) => data[i * channels + channels - 1] / 65535;
  let seen = false;
  for (let i = 0; hasAlpha && i < out.length && !seen; i++) seen = alphaAt(i) < 1;
  if (seen) {
    for (let i = 0; i < out.length; i++) out[i] = Math.round(alphaAt(i) * 255);
    return out;
  }
  const colours = channels >= 3 ? 3 : 1;
  // Luma of ITU-R BT.709, on the stored values: what the eye takes for light and dark.
  const light = (i: number) => {
    const o = i * channels;
    return (colours === 3 ? 0.2126 * data[o] + 0.7152 * data[o + 1] + 0.0722 * data[o + 2] : data[o]) / 65535;
  };
  let border = 0;
  let count = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x += y === 0 || y === height - 1 ? 1 : Math.max(1, width - 1)) {
      border += light(y * width + x);
      count++;
    }
  const darkPaints = border / count > 0.5;
  for (let i = 0; i < out.length; i++) out[i] = Math.round((darkPaints ? 1 - light(i) : light(i)) * 255);
  return out;
}

/** Takes a picture file in. `whitePaints`: it is one that went out from here. Never throws for a bad file. */
export async function takeTip(path: string, name: string, whitePaints = false): Promise<TipResult> {
  const read = await inTurn(() => readPictureApart(path, name, 'colour'));
  if (!read.ok) return read;
  const { width, height, channels, data } = read.picture;
  const grey = whitePaints
    ? Uint8Array.from({ length: width * height }, (_, i) => data[i * channels] / 257)
    : greyOf(read.picture);
  if (grey.every((v) => v === 0)) return { ok: false, message: `"${name}" is empty: nothing in it would paint.` };
  const fitted = sharp(grey, { raw: { width, height, channels: 1 } }).resize(MOST_PICTURE_SIDE, MOST_PICTURE_SIDE, {
    fit: 'inside',
    withoutEnlargement: true,
  });
  const png = await fitted.toColourspace('b-w').png({ compressionLevel: 9 }).toBuffer();
  const hash = createHash('sha256').update(png).digest('hex');
  await database().insert(tips).values({ hash, png }).onConflictDoNothing();
  return { ok: true, id: hash };
}

export async function tipPng(hash: string): Promise<Uint8Array | null> {
  const [row] = await database().select().from(tips).where(eq(tips.hash, hash));
  return row?.png ?? null;
}

export async function tipPngs(hashes: readonly string[]): Promise<Map<string, Uint8Array>> {
  if (hashes.length === 0) return new Map();
  const rows = await database()
    .select()
    .from(tips)
    .where(inArray(tips.hash, [...hashes]));
  return new Map(rows.map(({ hash, png }) => [hash, png]));
}
