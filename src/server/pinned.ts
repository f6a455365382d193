/** Reference pictures of pinboards: any picture becomes WebP in sRGB, kept by its content. */
import { createHash } from 'node:crypto';
import { eq, sql } from 'drizzle-orm';
import { database } from './db';
import { makePinApart } from './readers';
import { pinned } from './schema';

export type PinnedResult = { ok: true; picture: string; width: number; height: number } | { ok: false; message: string };

/** Takes a picture file in. */
export async function takePinned(path: string, name: string): Promise<PinnedResult> {
  const made = await makePinApart(path, name);
  if (!made.ok) return made;
  const { webp, width, height } = made;
  const picture = createHash('sha256').update(webp).digest('hex');
  await database()
    .insert(pinned)
    .values({ hash: picture, webp: new Uint8Array(webp) })
    .onConflictDoUpdate({ target: pinned.hash, set: { touchedAt: sql`now()` } });
  return { ok: true, picture, width, height };
}

export async function pinnedPicture(hash: string): Promise<Uint8Array | null> {
  const [row] = await database().select().from(pinned).where(eq(pinned.hash, hash));
  return row?.webp ?? null;
}
