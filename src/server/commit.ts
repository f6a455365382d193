/** Carrying out one operation on a piece: one transaction, all or nothing. What becomes of it is said by core/keeping/rules.ts. */
import { createHash } from 'node:crypto';
import { promisify } from 'node:util';
import { inflateRaw } from 'node:zlib';
import { and, eq, gt, inArray, lt, sql } from 'drizzle-orm';
import { blobChannels, tileBytes, unfilterTile } from '../core/codec/tileBlob';
import type { Operation, PackedOperation, Taken } from '../core/keeping/operation';
import { KEEPING } from '../core/keeping/protocol';
import { judge, tileKey, type Plan, type Refusal, type OperationStore, type TileRow } from '../core/keeping/rules';
import { TILE_TEXELS } from '../core/tile/tiles';
import { database, type Executor } from './db';
import { standingIn } from './identity';
import { blobs, operations, pieces, pieceTiles, strokes, trail } from './schema';

export type CommitResult = ({ ok: true; position: number } & Taken) | (Refusal & { server?: string });

/** Rolls the transaction back and carries the answer out. */
class RolledBack extends Error {
  constructor(readonly result: Refusal & { server?: string }) {
    super(result.message);
  }
}

const inflate = promisify(inflateRaw);

export async function commitOperation(pieceId: string, packed: PackedOperation): Promise<CommitResult> {
  const { operation } = packed;
  const fault = await checkBlobs(packed.blobs);
  if (fault) return { ok: false, status: 422, message: fault };
  try {
    return await database().transaction(async (tx) => {
      const [row] = await tx.select().from(pieces).where(eq(pieces.id, pieceId)).for('update');
      if (row && packed.blobs.size) await storeBlobs(tx, packed.blobs);
      const stands = row && (await standingIn(tx, row));
      const verdict = await judge(shelfOf(tx, row ? { ...row, last: stands.last } : null), operation);
      if (!verdict.ok) throw new RolledBack({ ...verdict, server: stands?.server });
      const yes = { ok: true as const, server: stands.server, operation: operation.id };
      if ('done' in verdict) return { ...yes, ...verdict.done, name: row.name };
      const revision = row.revision + 1;
      await carryOut(tx, pieceId, operation, verdict.plan, revision);
      return { ...yes, revision, position: verdict.plan.position, name: verdict.plan.document.name };
    });
  } catch (error) {
    if (error instanceof RolledBack) return error.result;
    throw error;
  }
}

/** Every blob must be what its address says: a damaged upload must not become somebody's pixels. */
async function checkBlobs(incoming: ReadonlyMap<string, Uint8Array>): Promise<string | null> {
  const entries = [...incoming];
  const addresses = await Promise.all(entries.map(([, blob]) => addressOf(blob)));
  return entries.some(([hash], n) => addresses[n] !== hash) ? 'A tile was damaged on its way: it is sent again.' : null;
}

/** The address of a tile blob, or null if it is none. Unpacking happens off this thread. */
export async function addressOf(blob: Uint8Array): Promise<string | null> {
  try {
    const channels = blobChannels(blob);
    const raw = await inflate(blob.subarray(1), { maxOutputLength: TILE_TEXELS * channels * 2 });
    return createHash('sha256')
      .update(tileBytes(unfilterTile(raw, channels)))
      .digest('hex');
  } catch {
    return null;
  }
}

function shelfOf(tx: Executor, row: (typeof pieces.$inferSelect & { last: string | null }) | null): OperationStore {
  return {
    piece: async () => row && { ...row, deleted: row.deletedAt !== null },
    done: async (id) =>
      row &&
      ((
        await tx
          .select()
          .from(operations)
          .where(and(eq(operations.pieceId, row.id), eq(operations.id, id)))
      )[0] ??
        null),
    step: async (seq) => {
      const [entry] = await tx
        .select()
        .from(trail)
        .where(and(eq(trail.pieceId, row!.id), eq(trail.seq, seq)));
      return entry ? { name: stepName(entry), edit: entry.edit, tiles: entry.tiles } : null;
    },
    tiles: async (at) => {
      const planes = [...new Set(at.map(([plane]) => plane))];
      if (planes.length === 0) return new Map();
      const rows = await tx
        .select()
        .from(pieceTiles)
        .where(and(eq(pieceTiles.pieceId, row!.id), inArray(pieceTiles.plane, planes)));
      return new Map(rows.map((r) => [tileKey(r.plane, r.tile), r.hash]));
    },
    channels: (hashes) => touchBlobs(tx, hashes),
  };
}

/** What a step goes by: its operation, or its place in trails of before. */
export const stepName = (entry: { op: string | null; seq: number }): string => entry.op ?? `seq-${entry.seq}`;

/** Rows a statement: PostgreSQL takes 65,535 parameters, a row here has four at most. */
const CHUNK = 2000;

/** Channels of the blobs that are there. Marks them as just named: the collector leaves them alone, also if it waits for this very row. */
async function touchBlobs(tx: Executor, hashes: readonly string[]): Promise<Map<string, number>> {
  const out = new Map<string, number>();
  // In one order everywhere, so that two operations never wait for each other.
  const sorted = hashes.toSorted();
  for (let i = 0; i < sorted.length; i += CHUNK) {
    const rows = await tx
      .update(blobs)
      .set({ touchedAt: sql`now()` })
      .where(inArray(blobs.hash, sorted.slice(i, i + CHUNK)))
      .returning({ hash: blobs.hash, channels: sql<number>`get_byte(${blobs.bytes}, 0)` });
    for (const r of rows) out.set(r.hash, r.channels);
  }
  return out;
}

async function carryOut(tx: Executor, pieceId: string, operation: Operation, plan: Plan, revision: number): Promise<void> {
  const { step, document, position } = plan;
  if (step) {
    await tx.delete(trail).where(and(eq(trail.pieceId, pieceId), gt(trail.seq, step.seq - 1)));
    await tx.delete(strokes).where(and(eq(strokes.pieceId, pieceId), gt(strokes.step, step.seq - 1)));
    const { seq, label, edit, tiles, name } = step;
    await tx.insert(trail).values({ pieceId, seq, label, op: name, edit, tiles });
    if (step.stroke) await tx.insert(strokes).values({ pieceId, step: seq, record: step.stroke });
    await squash(tx, pieceId, seq);
  }
  await applyTiles(tx, pieceId, plan.tiles);
  await tx
    .update(pieces)
    .set({ document, name: document.name, position, revision, updatedAt: sql`now()` })
    .where(eq(pieces.id, pieceId));
  await tx.insert(operations).values({ id: operation.id, pieceId, revision });
}

/** The oldest steps go in one sweep when the trail has grown past its size and the slack. */
async function squash(tx: Executor, pieceId: string, last: number): Promise<void> {
  const { trailSteps, trailSlack } = KEEPING;
  if (last % trailSlack !== 0 || last <= trailSteps) return;
  const first = last - trailSteps + 1;
  await tx.delete(trail).where(and(eq(trail.pieceId, pieceId), lt(trail.seq, first)));
  await tx
    .update(strokes)
    .set({ step: null })
    .where(and(eq(strokes.pieceId, pieceId), lt(strokes.step, first)));
}

export async function storeBlobs(tx: Executor, incoming: ReadonlyMap<string, Uint8Array>): Promise<void> {
  const rows = [...incoming].map(([hash, bytes]) => ({ hash, bytes })).toSorted((a, b) => (a.hash < b.hash ? -1 : 1));
  // Smaller chunks than for plain rows: each carries up to 128 KiB.
  for (let i = 0; i < rows.length; i += 64)
    await tx
      .insert(blobs)
      .values(rows.slice(i, i + 64))
      .onConflictDoUpdate({ target: blobs.hash, set: { touchedAt: sql`now()` } });
}

async function applyTiles(tx: Executor, pieceId: string, changes: readonly TileRow[]): Promise<void> {
  const set = changes.filter((c) => c[3] !== null).map(([plane, tile, , hash]) => ({ pieceId, plane, tile, hash: hash! }));
  for (let i = 0; i < set.length; i += CHUNK)
    await tx
      .insert(pieceTiles)
      .values(set.slice(i, i + CHUNK))
      .onConflictDoUpdate({ target: [pieceTiles.pieceId, pieceTiles.plane, pieceTiles.tile], set: { hash: sql`excluded.hash` } });
  const gone = new Map<string, number[]>();
  for (const [plane, tile, , after] of changes)
    if (after === null) (gone.get(plane) ?? gone.set(plane, []).get(plane)!).push(tile);
  for (const [plane, tiles] of gone)
    for (let i = 0; i < tiles.length; i += CHUNK)
      await tx
        .delete(pieceTiles)
        .where(
          and(eq(pieceTiles.pieceId, pieceId), eq(pieceTiles.plane, plane), inArray(pieceTiles.tile, tiles.slice(i, i + CHUNK))),
        );
}
