/** Which house this is, and the operations that made the last revisions of its pieces: how a browser knows it again. */
import { and, desc, eq, gt, sql } from 'drizzle-orm';
import { database, type Executor } from './db';
import { house, operations, pieces } from './schema';

/** The identity of the database. */
export async function houseId(tx: Executor = database()): Promise<string> {
  const [row] = await tx.select({ id: house.id }).from(house).limit(1);
  if (!row) throw new Error('The database has no identity: its migrations were not carried out.');
  return row.id;
}

let known: string | null = null;

/** The same for every answer, asked for once; `starting` as long as the database does not say. */
export async function houseName(): Promise<string> {
  known ??= await houseId().catch(() => null);
  return known ?? 'starting';
}

/** Which operation made which revision, rising; only those up to the piece's own, without gaps from there. */
export async function recentOperations(tx: Executor, pieceId: string, most: number): Promise<[number, string][]> {
  const rows = await tx
    .select({ revision: operations.revision, id: operations.id })
    .from(operations)
    .innerJoin(pieces, eq(pieces.id, operations.pieceId))
    .where(and(eq(operations.pieceId, pieceId), gt(operations.revision, sql`${pieces.revision} - ${most}`)))
    .orderBy(desc(operations.revision));
  return rows.map((r): [number, string] => [r.revision, r.id]).toReversed();
}

/** Something small is written: throws where the house cannot write. */
export async function tryToWrite(): Promise<void> {
  await database()
    .update(house)
    .set({ writtenAt: sql`clock_timestamp()` });
}
