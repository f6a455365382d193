/**
 * What nothing names any more is given back: pieces deleted for good, blobs, ids of operations, tiles of layers that are
 * gone. Safe beside commits: a blob that an operation names is marked as just named in the same transaction, and the
 * condition is looked at again on the row as it is then.
 */
import { sql } from 'drizzle-orm';
import { parsePiece } from '../core/document/schema';
import { planesOfSheet } from '../core/document/planes';
import { KEEPING } from '../core/keeping/protocol';
import { database, type Executor } from './db';
import { pieces } from './schema';

export interface Collected {
  pieces: number;
  blobs: number;
  bytes: number;
  operations: number;
  strayTiles: number;
}

/** Any number: one collector at a time holds it. */
const LOCK = 4_017_223;

/** Returns null if another collector is at work. */
export async function collect(limits: Partial<typeof KEEPING> = {}): Promise<Collected | null> {
  const { blobGraceHours, operationDays, deletedDays, bakeDays } = { ...KEEPING, ...limits };
  return database().transaction(async (tx) => {
    const [{ free }] = (await tx.execute(sql`select pg_try_advisory_xact_lock(${LOCK}) as free`)).rows as [{ free: boolean }];
    if (!free) return null;
    const gone = (
      await tx.execute(sql`delete from pieces where deleted_at < now() - make_interval(days => ${deletedDays}) returning id`)
    ).rows.map((r) => r.id as string);
    await forgetBakes(tx, bakeDays);
    const operations = await tx.execute(sql`delete from operations where at < now() - make_interval(days => ${operationDays})`);
    const strayTiles = await strays(tx);
    const blobs = await tx.execute(sql`
      with named as (
        select hash from piece_tiles
        union select hash from bake_tiles where hash is not null
        union select spec ->> 'model' from bakes where state in ('waiting', 'running')
        union select document #>> '{model,blob}' from pieces where document #>> '{model,blob}' is not null
        union select h from trail t, jsonb_array_elements(t.tiles) row, lateral (values (row ->> 2), (row ->> 3)) v(h) where h is not null
      ), freed as (
        delete from blobs b where touched_at < now() - make_interval(hours => ${blobGraceHours})
          and not exists (select 1 from named n where n.hash = b.hash)
        returning length(bytes) as size
      )
      select count(*)::int as count, coalesce(sum(size), 0)::bigint as bytes from freed`);
    await tx.execute(sql`
      delete from pinned n where touched_at < now() - make_interval(hours => ${blobGraceHours})
        and not exists (select 1 from pieces p where position(n.hash in p.document::text) > 0)
        and not exists (select 1 from trail t where position(n.hash in t.edit::text) > 0)`);
    const [{ count, bytes }] = blobs.rows as [{ count: number; bytes: string }];
    return { pieces: gone.length, blobs: count, bytes: Number(bytes), operations: operations.rowCount ?? 0, strayTiles };
  });
}

/** Bakes that nobody asked for or took in so long, or whose piece is gone before they are done; and twins that none names. */
async function forgetBakes(tx: Executor, days: number): Promise<void> {
  await tx.execute(sql`
    delete from bakes b where touched_at < now() - make_interval(days => ${days})
      or (state <> 'done' and not exists (select 1 from pieces p where p.id = b.piece_id))`);
  await tx.execute(sql`delete from bake_tiles t where not exists (select 1 from bakes b where b.key = t.key)`);
  await tx.execute(sql`
    delete from twins w where touched_at < now() - make_interval(days => ${days})
      and not exists (select 1 from pieces p where position(w.hash in p.document::text) > 0)
      and not exists (select 1 from bakes b where position(w.hash in b.spec::text) > 0)`);
  await tx.execute(sql`delete from twin_parts t where not exists (select 1 from twins w where w.hash = t.hash)`);
}

/** Tiles of layers that are gone, from before such tiles went with their layer; not where undo could bring the layer back. */
async function strays(tx: Parameters<Parameters<ReturnType<typeof database>['transaction']>[0]>[0]): Promise<number> {
  let count = 0;
  for (const { id, document } of await tx.select({ id: pieces.id, document: pieces.document }).from(pieces)) {
    const parsed = parsePiece(document);
    if (!parsed.ok) continue;
    const planes = new Set(parsed.value.sheets.flatMap((s) => planesOfSheet(s).map((p) => p.key)));
    const there = (await tx.execute(sql`select distinct plane from piece_tiles where piece_id = ${id}`)).rows;
    for (const { plane } of there as { plane: string }[]) {
      if (planes.has(plane)) continue;
      const owner = plane.slice(0, plane.lastIndexOf('/'));
      const removed = await tx.execute(sql`
        delete from piece_tiles where piece_id = ${id} and plane = ${plane}
          and not exists (select 1 from trail t where t.piece_id = ${id} and position(${owner} in t.edit::text) > 0)`);
      count += removed.rowCount ?? 0;
    }
  }
  return count;
}
