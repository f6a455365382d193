/** Which server this is, and the operations that made the last revisions of its pieces: how a browser knows it again. */
import { and, asc, eq, gt, sql } from 'drizzle-orm';
import { database, type Executor } from './db';
import { server, operations } from './schema';

/** The identity of the database. */
export async function serverId(tx: Executor = database()): Promise<string> {
  const [row] = await tx.select({ id: server.id }).from(server).limit(1);
  if (!row) throw new Error('The database has no identity: its migrations were not carried out.');
  return row.id;
}

let known: string | null = null;

/** The same for every answer, asked for once; `starting` as long as the database does not say. */
export async function serverName(): Promise<string> {
  known ??= await serverId().catch(() => null);
  return known ?? 'starting';
}

/** The server, and the operation that made a piece's revision (null: not known), as they are within a transaction. */
export async function standingIn(
  tx: Executor,
  piece: { id: string; revision: number },
): Promise<{ server: string; last: string | null }> {
  const { rows } = await tx.execute(sql`
    select (select id from house limit 1) as server,
           (select id from operations where piece_id = ${piece.id} and revision = ${piece.revision} limit 1) as last`);
  return rows[0] as { server: string; last: string | null };
}

/** Which operation made which of the last revisions of a piece, rising. */
export async function recentOperations(
  tx: Executor,
  piece: { id: string; revision: number },
  most: number,
): Promise<[revision: number, operation: string][]> {
  const rows = await tx
    .select({ revision: operations.revision, id: operations.id })
    .from(operations)
    .where(and(eq(operations.pieceId, piece.id), gt(operations.revision, piece.revision - most)))
    .orderBy(asc(operations.revision));
  return rows.map((r) => [r.revision, r.id]);
}

/** Something small is written: throws where the server cannot write. */
export async function tryToWrite(): Promise<void> {
  await database()
    .update(server)
    .set({ writtenAt: sql`clock_timestamp()` });
}
