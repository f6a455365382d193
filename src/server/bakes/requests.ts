/** Bakes as they are asked for, watched, cancelled and taken. */
import { createHash } from 'node:crypto';
import { and, desc, eq, inArray, sql } from 'drizzle-orm';
import { sharesOf, specText, type BakeSpec } from '../../core/kinds/bakes/spec';
import type { BakeStatus, WorkerCard } from '../../core/kinds/bakes/status';
import { database, type Executor } from '../db';
import { addJob } from '../enqueue';
import { bakes, bakeTiles, bakeWorkers, blobs, twins } from '../schema';

export const keyOf = (spec: BakeSpec): string => createHash('sha256').update(specText(spec)).digest('hex');

/** Over this channel workers hear what is no longer wanted. */
export const CANCELLED_CHANNEL = 'brindle_bakes_cancelled';
/** A worker that was not seen for so long is taken for dead. */
export const WORKER_DEAD_S = Number(process.env.BRINDLE_WORKER_DEAD_S ?? 8);

export type BakeReply = { ok: true; status: BakeStatus } | { ok: false; message: string };

/** More than these wait for nobody: somebody's script has gone wild. */
const MOST_WAITING = 500;

/** Asks for a bake. One that is there, or under way, is not begun again; one that failed or was cancelled is. */
export async function requestBake(spec: BakeSpec, pieceId: string, label: string): Promise<BakeReply> {
  const key = keyOf(spec);
  return database().transaction(async (tx): Promise<BakeReply> => {
    const [known] = await tx.select().from(bakes).where(eq(bakes.key, key)).for('update');
    if (known && known.state !== 'failed' && known.state !== 'cancelled') {
      await tx
        .update(bakes)
        .set({ touchedAt: sql`now()`, pieceId, label })
        .where(eq(bakes.key, key));
      return { ok: true, status: (await statusIn(tx, [key]))[0] };
    }
    const lacks = await missingFiles(tx, spec);
    if (lacks) return { ok: false, message: lacks };
    const [{ count }] = await tx
      .select({ count: sql<number>`count(*)::int` })
      .from(bakes)
      .where(inArray(bakes.state, ['waiting', 'running']));
    if (count >= MOST_WAITING)
      return { ok: false, message: `${count} bakes wait already: cancel some on the page of jobs, or wait until they are done.` };
    const fresh = { spec, label, pieceId, state: 'waiting' as const, message: null, startedAt: null, finishedAt: null };
    await tx
      .insert(bakes)
      .values({ key, ...fresh })
      .onConflictDoUpdate({ target: bakes.key, set: { ...fresh, touchedAt: sql`now()`, createdAt: sql`now()` } });
    await addJob(tx, 'bake', { key }, `bake ${key}`);
    return { ok: true, status: (await statusIn(tx, [key]))[0] };
  });
}

async function missingFiles(tx: Executor, spec: BakeSpec): Promise<string | null> {
  const [model] = await tx.select({ hash: blobs.hash }).from(blobs).where(eq(blobs.hash, spec.model));
  if (!model) return 'The model of this piece is lost on the server: bring it in again to bake it.';
  if (!spec.twin) return null;
  const [twin] = await tx.select({ hash: twins.hash }).from(twins).where(eq(twins.hash, spec.twin.file));
  if (!twin) return `The dense model "${spec.twin.name}" is not on the server any more: choose its file again.`;
  const shares = sharesOf(spec);
  if (shares.length === 0) return null;
  const there = await tx.select({ hash: twins.hash }).from(twins).where(inArray(twins.hash, shares));
  return there.length === new Set(shares).size
    ? null
    : 'The mask of its reach is not on the server any more: choose the mask again.';
}

/** Of those that were ever asked for, in any order. */
export const statusOf = (keys: readonly string[]): Promise<BakeStatus[]> => statusIn(database(), keys);

const columns = {
  key: bakes.key,
  label: bakes.label,
  pieceId: bakes.pieceId,
  state: bakes.state,
  tiles: bakes.tiles,
  message: bakes.message,
  done: sql<number>`(select count(*)::int from bake_tiles t where t.key = "bakes"."key")`,
  seconds: sql<number | null>`extract(epoch from coalesce("bakes"."finished_at", now()) - "bakes"."started_at")::float8`,
};

async function statusIn(to: Executor, keys: readonly string[]): Promise<BakeStatus[]> {
  if (keys.length === 0) return [];
  return to
    .select(columns)
    .from(bakes)
    .where(inArray(bakes.key, [...keys]));
}

/** Those under way first, then the newest. */
export async function listBakes(limit = 100): Promise<BakeStatus[]> {
  return database()
    .select(columns)
    .from(bakes)
    .orderBy(sql`case state when 'running' then 0 when 'waiting' then 1 else 2 end`, desc(bakes.createdAt))
    .limit(limit);
}

export async function listWorkers(): Promise<WorkerCard[]> {
  return database()
    .select({
      id: bakeWorkers.id,
      host: bakeWorkers.host,
      cores: bakeWorkers.cores,
      alive: sql<boolean>`seen_at > now() - make_interval(secs => ${WORKER_DEAD_S})`,
    })
    .from(bakeWorkers)
    .orderBy(bakeWorkers.id);
}

/** false: there is nothing to cancel. */
export async function cancelBake(key: string): Promise<boolean> {
  const rows = await database()
    .update(bakes)
    .set({ state: 'cancelled', finishedAt: sql`now()` })
    .where(and(eq(bakes.key, key), inArray(bakes.state, ['waiting', 'running'])))
    .returning({ key: bakes.key });
  if (rows.length) await database().execute(sql`select pg_notify(${CANCELLED_CHANNEL}, ${key})`);
  return rows.length > 0;
}

/** The tiles of one that is done; null: it is not. */
export async function tilesOfBake(key: string): Promise<{ tiles: [tile: number, hash: string][]; missed: number } | null> {
  const [bake] = await database().select({ state: bakes.state }).from(bakes).where(eq(bakes.key, key));
  if (bake?.state !== 'done') return null;
  const rows = await database().select().from(bakeTiles).where(eq(bakeTiles.key, key)).orderBy(bakeTiles.tile);
  await database()
    .update(bakes)
    .set({ touchedAt: sql`now()` })
    .where(eq(bakes.key, key));
  return {
    tiles: rows.flatMap(({ tile, hash }): [number, string][] => (hash ? [[tile, hash]] : [])),
    missed: rows.reduce((n, r) => n + r.missed, 0),
  };
}
