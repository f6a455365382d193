/** Demo pieces that are being imported while the application already runs. */
import { asc, count, eq } from 'drizzle-orm';
import { database, type Executor } from './db';
import { arriving, pieces } from './schema';

/** As home shows it. */
export interface ArrivingPiece {
  name: string;
  title: string;
  /** Why it could not be imported; null: nothing went wrong. */
  fault: string | null;
}

/** Whether the database has no piece, deleted ones included: a server that was emptied by hand is not filled again. */
export async function hasNoPieces(to: Executor = database()): Promise<boolean> {
  const [{ value }] = await to.select({ value: count() }).from(pieces);
  return value === 0;
}

/** Marks these pieces as to be imported, if the database has none. */
export async function announce(list: readonly { name: string; title: string }[]): Promise<void> {
  await database().transaction(async (tx) => {
    if (!(await hasNoPieces(tx))) return;
    await tx
      .insert(arriving)
      .values(list.map(({ name, title }) => ({ name, title })))
      .onConflictDoNothing();
  });
}

/** Pieces that are not imported yet. */
export async function arrivingPieces(): Promise<ArrivingPiece[]> {
  return database()
    .select({ name: arriving.name, title: arriving.title, fault: arriving.fault })
    .from(arriving)
    .where(eq(arriving.there, false))
    .orderBy(asc(arriving.title));
}

/** All pieces with work left: those to be imported, and those imported without their dense model and rendered tiles. */
export const unfinished = (): Promise<(typeof arriving.$inferSelect)[]> => database().select().from(arriving);

export async function markArriving(name: string, now: { there?: boolean; fault?: string | null }): Promise<void> {
  await database().update(arriving).set(now).where(eq(arriving.name, name));
}

export async function markWhole(name: string): Promise<void> {
  await database().delete(arriving).where(eq(arriving.name, name));
}
