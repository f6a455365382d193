/** Carrying out one operation on a piece: one transaction, all or nothing. */
import { createHash } from 'node:crypto';
import { inflateRawSync } from 'node:zlib';
import { and, eq, gt, sql } from 'drizzle-orm';
import type { Operation, PackedOperation } from '../core/document/commit';
import { applyEditChecked, invertEdit, type Edit } from '../core/document/edits';
import type { Piece } from '../core/document/schema';
import { blobChannels, tileBytes, unfilterTile } from '../core/codec/tileBlob';
import { TILE_TEXELS } from '../core/raster/tiles';
import { database, type Executor } from './db';
import { blobs, operations, pieces, pieceTiles, trail, type TrailTile } from './schema';

export type CommitResult =
  { ok: true; revision: number; position: number } | { ok: false; status: 404 | 409 | 422; message: string; revision?: number };

/** Rolls the transaction back and carries the answer out. */
class Refusal extends Error {
  constructor(readonly result: Extract<CommitResult, { ok: false }>) {
    super(result.message);
  }
}

export async function commitOperation(pieceId: string, packed: PackedOperation): Promise<CommitResult> {
  const { operation } = packed;
  const fault = checkBlobs(packed.blobs);
  if (fault) return { ok: false, status: 422, message: fault };
  try {
    return await database().transaction(async (tx) => {
      const [piece] = await tx.select().from(pieces).where(eq(pieces.id, pieceId)).for('update');
      if (!piece)
        throw new Refusal({
          ok: false,
          status: 404,
          message: 'The piece is no longer there: it may have been deleted for good.',
        });
      const [done] = await tx.select().from(operations).where(eq(operations.id, operation.id));
      if (done) return { ok: true as const, revision: done.revision, position: piece.position };
      if (piece.revision !== operation.baseRevision)
        throw new Refusal({
          ok: false,
          status: 409,
          revision: piece.revision,
          message: 'The piece was changed elsewhere in the meantime.',
        });
      const moved = await carryOut(tx, piece, operation, packed.blobs);
      const revision = piece.revision + 1;
      await tx
        .update(pieces)
        .set({ document: moved.document, name: moved.document.name, position: moved.position, revision, updatedAt: sql`now()` })
        .where(eq(pieces.id, pieceId));
      await tx.insert(operations).values({ id: operation.id, pieceId, revision });
      return { ok: true as const, revision, position: moved.position };
    });
  } catch (error) {
    if (error instanceof Refusal) return error.result;
    throw error;
  }
}

/** Every blob must be what its address says: a damaged upload must not become somebody's pixels. */
function checkBlobs(incoming: ReadonlyMap<string, Uint8Array>): string | null {
  for (const [hash, blob] of incoming) {
    try {
      const channels = blobChannels(blob);
      const raw = inflateRawSync(blob.subarray(1), { maxOutputLength: TILE_TEXELS * channels * 2 });
      const address = createHash('sha256')
        .update(tileBytes(unfilterTile(raw, channels)))
        .digest('hex');
      if (address !== hash) return 'A tile was damaged on its way: it is sent again.';
    } catch {
      return 'A tile was damaged on its way: it is sent again.';
    }
  }
  return null;
}

type PieceRow = typeof pieces.$inferSelect;

async function carryOut(
  tx: Executor,
  piece: PieceRow,
  operation: Operation,
  incoming: ReadonlyMap<string, Uint8Array>,
): Promise<{ document: Piece; position: number }> {
  if (operation.kind === 'edit') {
    await storeBlobs(tx, incoming);
    const seq = piece.position + 1;
    await tx.delete(trail).where(and(eq(trail.pieceId, piece.id), gt(trail.seq, piece.position)));
    await tx
      .insert(trail)
      .values({ pieceId: piece.id, seq, label: operation.label, edit: operation.edit, tiles: operation.tiles });
    await applyTiles(tx, piece.id, operation.tiles);
    return { document: change(piece.document, operation.edit), position: seq };
  }
  const undo = operation.kind === 'undo';
  const seq = undo ? piece.position : piece.position + 1;
  const [entry] = await tx
    .select()
    .from(trail)
    .where(and(eq(trail.pieceId, piece.id), eq(trail.seq, seq)));
  if (!entry) throw new Refusal({ ok: false, status: 422, message: `There is nothing to ${operation.kind}.` });
  await applyTiles(
    tx,
    piece.id,
    undo ? entry.tiles.map(([p, t, before, after]): TrailTile => [p, t, after, before]) : entry.tiles,
  );
  return { document: change(piece.document, undo ? invertEdit(entry.edit) : entry.edit), position: undo ? seq - 1 : seq };
}

function change(document: Piece, edit: Edit): Piece {
  const result = applyEditChecked(document, edit);
  if (!result.ok) throw new Refusal({ ok: false, status: 422, message: result.message });
  return result.value;
}

/** Rows a statement: PostgreSQL takes 65,535 parameters, a row here has four at most. */
const CHUNK = 2000;

export async function storeBlobs(tx: Executor, incoming: ReadonlyMap<string, Uint8Array>): Promise<void> {
  const rows = [...incoming].map(([hash, bytes]) => ({ hash, bytes }));
  // Smaller chunks than for plain rows: each carries up to 128 KiB.
  for (let i = 0; i < rows.length; i += 64)
    await tx
      .insert(blobs)
      .values(rows.slice(i, i + 64))
      .onConflictDoNothing();
}

async function applyTiles(tx: Executor, pieceId: string, changes: readonly TrailTile[]): Promise<void> {
  const set = changes.filter((c) => c[3] !== null).map(([plane, tile, , hash]) => ({ pieceId, plane, tile, hash: hash! }));
  for (let i = 0; i < set.length; i += CHUNK)
    await tx
      .insert(pieceTiles)
      .values(set.slice(i, i + CHUNK))
      .onConflictDoUpdate({ target: [pieceTiles.pieceId, pieceTiles.plane, pieceTiles.tile], set: { hash: sql`excluded.hash` } });
  for (const [plane, tile, , after] of changes)
    if (after === null)
      await tx
        .delete(pieceTiles)
        .where(and(eq(pieceTiles.pieceId, pieceId), eq(pieceTiles.plane, plane), eq(pieceTiles.tile, tile)));
}
