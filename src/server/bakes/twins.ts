/** Files of dense twins: kept once by content, streamed in and out in parts. */
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { and, asc, eq, sql } from 'drizzle-orm';
import { database } from '../db';
import { twinParts, twins } from '../schema';

const PART = 8 * 1024 * 1024;

/** Takes a file that lies on the disk; its address. */
export async function takeTwin(path: string, name: string): Promise<{ hash: string; size: number }> {
  const hash = await hashOf(path);
  const { size } = await stat(path);
  await database().transaction(async (tx) => {
    const [known] = await tx.select({ hash: twins.hash }).from(twins).where(eq(twins.hash, hash));
    if (known)
      return void (await tx
        .update(twins)
        .set({ touchedAt: sql`now()`, name })
        .where(eq(twins.hash, hash)));
    await tx.insert(twins).values({ hash, name, size }).onConflictDoNothing();
    let part = 0;
    for await (const bytes of createReadStream(path, { highWaterMark: PART }))
      await tx
        .insert(twinParts)
        .values({ hash, part: part++, bytes: bytes as Buffer })
        .onConflictDoNothing();
  });
  return { hash, size };
}

async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const bytes of createReadStream(path)) hash.update(bytes as Buffer);
  return hash.digest('hex');
}

export async function twinCard(hash: string): Promise<{ name: string; size: number } | null> {
  const [row] = await database().select({ name: twins.name, size: twins.size }).from(twins).where(eq(twins.hash, hash));
  return row ?? null;
}

/** Its bytes, part by part. */
export async function* twinBytes(hash: string): AsyncGenerator<Uint8Array> {
  for (let part = 0; ; part++) {
    const [row] = await database()
      .select({ bytes: twinParts.bytes })
      .from(twinParts)
      .where(and(eq(twinParts.hash, hash), eq(twinParts.part, part)))
      .orderBy(asc(twinParts.part));
    if (!row) return;
    yield row.bytes;
  }
}
