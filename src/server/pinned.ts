/** Reference pictures of pinboards: any picture becomes WebP in sRGB, kept by its content. */
import { createHash } from 'node:crypto';
import { eq, sql } from 'drizzle-orm';
import sharp from 'sharp';
import { MOST_PIN_SIDE } from '../core/document/pin';
import { database } from './db';
import { pinned } from './schema';

export type PinnedResult = { ok: true; picture: string; width: number; height: number } | { ok: false; message: string };

const FORMATS: readonly string[] = ['png', 'jpeg', 'webp', 'tiff', 'gif', 'heif'];
const MOST_SIDE = 16_384;
const MOST_TEXELS = 8192 * 8192;

/** Takes a picture file in. Never throws for a bad file. */
export async function takePinned(path: string, name: string): Promise<PinnedResult> {
  const bad = (why: string) => ({ ok: false as const, message: `"${name}" ${why}` });
  try {
    const { width, height, format } = await sharp(path, { limitInputPixels: false }).metadata();
    // SVG and PDF can refer to other files and take unbounded time to draw.
    if (!FORMATS.includes(format)) return bad(`is a ${format} file, which is not read here: save it as PNG, JPEG, TIFF or WebP.`);
    if (width > MOST_SIDE || height > MOST_SIDE || width * height > MOST_TEXELS)
      return bad(
        `is ${width} × ${height}, more than is read (up to ${MOST_SIDE} a side and 67 million texels): make it smaller.`,
      );
  } catch {
    return bad('is not a picture that is read here, or it is damaged: save it as PNG, JPEG, TIFF or WebP.');
  }
  try {
    const { data, info } = await sharp(path, { limitInputPixels: MOST_TEXELS, failOn: 'truncated' })
      .autoOrient()
      .toColourspace('srgb')
      .resize(MOST_PIN_SIDE, MOST_PIN_SIDE, { fit: 'inside', withoutEnlargement: true })
      .webp({ quality: 95, smartSubsample: true })
      .toBuffer({ resolveWithObject: true });
    const picture = createHash('sha256').update(data).digest('hex');
    await database()
      .insert(pinned)
      .values({ hash: picture, webp: new Uint8Array(data) })
      .onConflictDoUpdate({ target: pinned.hash, set: { touchedAt: sql`now()` } });
    return { ok: true, picture, width: info.width, height: info.height };
  } catch {
    return bad('is damaged or cut short: copy or save it again.');
  }
}

export async function pinnedPicture(hash: string): Promise<Uint8Array | null> {
  const [row] = await database().select().from(pinned).where(eq(pinned.hash, hash));
  return row?.webp ?? null;
}
