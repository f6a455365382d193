/** How the bench of a piece was left. */
import { eq, sql } from 'drizzle-orm';
import type { LastLook, LookLeft } from '../core/piece/look';
import { database } from './db';
import { pieces } from './schema';

export const isWebp = (b: Uint8Array): boolean =>
  Buffer.from(b.subarray(0, 4)).toString() === 'RIFF' && Buffer.from(b.subarray(8, 12)).toString() === 'WEBP';

export async function lookPictureOf(id: string): Promise<Uint8Array | null> {
  const [row] = await database().select({ picture: pieces.lookPicture }).from(pieces).where(eq(pieces.id, id));
  return row?.picture ?? null;
}

export async function lastLookOf(id: string): Promise<LastLook | null> {
  const [row] = await database()
    .select({ left: pieces.look, at: pieces.lookAt, hasThumbnail: sql<boolean>`${pieces.thumbnail} is not null` })
    .from(pieces)
    .where(eq(pieces.id, id));
  return row ? { left: row.left, at: row.at?.getTime() ?? 0, hasThumbnail: row.hasThumbnail } : null;
}

export async function setLook(id: string, look: LookLeft, picture: Uint8Array): Promise<void> {
  await database().update(pieces).set({ look, lookPicture: picture, lookAt: new Date() }).where(eq(pieces.id, id));
}
