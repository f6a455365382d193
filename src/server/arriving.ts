/** Demo pieces that are being imported while the application already runs. */
import { asc, count, eq } from 'drizzle-orm';
import { database } from './db';
import { arriving, pieces } from './schema';

/** As home shows it. */
export interface ArrivingPiece {
  name: string;
  title: string;
  /** Why it could not be imported; null: nothing went wrong. */
  fault: string | null;
}

/** Promises these pieces if the database has no piece, deleted ones included: a house that was emptied stays empty. */
export async function promise(list: readonly { name: string; title: string }[]): Promise<void> {
  await database().transaction(async (tx) => {
    const [{ value }] = await tx.select({ value: count() }).from(pieces);
    if (value > 0) return;
    await tx
      .insert(arriving)
      .values(list.map(({ name, title }) => ({ name, title })))
      .onConflictDoNothing();
  });
}

/** Those that are not there yet. */
export async function arrivingPieces(): Promise<ArrivingPiece[]> {
  return database()
    .select({ name: arriving.name, title: arriving.title, fault: arriving.fault })
    .from(arriving)
    .where(eq(arriving.there, false))
    .orderBy(asc(arriving.title));
}

/** All with work left, and whether the piece itself is there. */
export const unfinished = (): Promise<(typeof arriving.$inferSelect)[]> => database().select().from(arriving);

export async function markArriving(name: string, now: { there?: boolean; fault?: string | null }): Promise<void> {
  await database().update(arriving).set(now).where(eq(arriving.name, name));
}

export async function markWhole(name: string): Promise<void> {
  await database().delete(arriving).where(eq(arriving.name, name));
}
