/** The pieces of the server: listing, opening, copying, putting away. */
import { isWebp } from './look';
import { createHash, randomUUID } from 'node:crypto';
import { and, asc, desc, eq, inArray, isNull, lte, or, sql } from 'drizzle-orm';
import type { PieceBundle } from '../core/piece/pieceFile';
import { freeName } from '../core/document/factory';
import { nameSchema, parsePiece, type Piece } from '../core/document/schema';
import type { OpenedPiece } from '../core/keeping/opened';
import type { StrokeRecord } from '../core/keeping/operation';
import { KEEPING } from '../core/keeping/protocol';
import { addressOf, stepName, storeBlobs } from './commit';
import { database } from './db';
import { serverId, recentOperations } from './identity';
import { blobOfTile } from './tileSink';
import { blobs, operations, pieces, pieceTiles, pinned, strokes, trail } from './schema';

export interface PieceCard {
  id: string;
  name: string;
  kind: Piece['kind'];
  sheets: { name: string; width: number; height: number }[];
  updatedAt: string;
  hasThumbnail: boolean;
}

export async function listPieces(): Promise<PieceCard[]> {
  const rows = await database()
    .select({
      id: pieces.id,
      name: pieces.name,
      summary: pieces.summary,
      updatedAt: pieces.updatedAt,
      hasThumbnail: sql<boolean>`${pieces.thumbnail} is not null`,
    })
    .from(pieces)
    .where(isNull(pieces.deletedAt))
    .orderBy(desc(pieces.updatedAt));
  return rows.map((row) => ({
    id: row.id,
    name: row.name,
    kind: row.summary.kind,
    sheets: row.summary.sheets,
    updatedAt: row.updatedAt.toISOString(),
    hasThumbnail: row.hasThumbnail,
  }));
}

/** Put away, but not for good. */
export interface DeletedPiece {
  deleted: true;
  name: string;
}

/** Everything the bench needs to open a piece, but the pixels; one consistent moment. */
export async function openPiece(id: string): Promise<OpenedPiece | DeletedPiece | null> {
  return database().transaction(
    async (tx) => {
      const [piece] = await tx.select().from(pieces).where(eq(pieces.id, id));
      if (!piece) return null;
      if (piece.deletedAt) return { deleted: true as const, name: piece.name };
      const entries = await tx
        .select({ seq: trail.seq, label: trail.label, op: trail.op })
        .from(trail)
        .where(eq(trail.pieceId, id))
        .orderBy(asc(trail.seq));
      const tiles = await tx.select().from(pieceTiles).where(eq(pieceTiles.pieceId, id));
      return {
        server: await serverId(tx),
        document: readDocument(piece.document),
        revision: piece.revision,
        recent: await recentOperations(tx, piece, KEEPING.recentRevisions),
        position: piece.position,
        trail: entries.map((e) => ({ seq: e.seq, label: e.label, step: stepName(e) })),
        tiles: tiles.map((t): [string, number, string] => [t.plane, t.tile, t.hash]),
      };
    },
    { isolationLevel: 'repeatable read' },
  );
}

/** A stored document through the same parse and migration as in the page. */
function readDocument(stored: unknown): Piece {
  const parsed = parsePiece(stored);
  if (!parsed.ok) throw new UnreadablePiece(parsed.message);
  return parsed.value;
}

/** Carries one sentence. */
export class UnreadablePiece extends Error {}

/** Which of these operations were carried out, and to which revision each led. */
export async function doneOperations(pieceId: string, ids: readonly string[]): Promise<[id: string, revision: number][]> {
  if (ids.length === 0) return [];
  const rows = await database()
    .select()
    .from(operations)
    .where(and(eq(operations.pieceId, pieceId), inArray(operations.id, [...ids])));
  return rows.map((r) => [r.id, r.revision]);
}

/** Blobs that come before their operation. Answers how many were taken; those that are no tiles are not. */
export async function takeBlobs(incoming: readonly Uint8Array[]): Promise<string[]> {
  const taken = new Map<string, Uint8Array>();
  const addresses = await Promise.all(incoming.map(addressOf));
  incoming.forEach((blob, n) => {
    const hash = addresses[n];
    if (hash) taken.set(hash, blob);
  });
  if (taken.size) await database().transaction((tx) => storeBlobs(tx, taken));
  return [...taken.keys()];
}

/** The strokes that made what is there, in order. */
export async function strokesOf(pieceId: string, position: number): Promise<StrokeRecord[]> {
  const rows = await database()
    .select({ record: strokes.record })
    .from(strokes)
    .where(and(eq(strokes.pieceId, pieceId), or(isNull(strokes.step), lte(strokes.step, position))))
    .orderBy(asc(strokes.id));
  return rows.map((r) => r.record);
}

export async function trailEntry(pieceId: string, seq: number) {
  const [entry] = await database()
    .select()
    .from(trail)
    .where(and(eq(trail.pieceId, pieceId), eq(trail.seq, seq)));
  return entry ?? null;
}

export async function readBlobs(hashes: readonly string[]): Promise<Map<string, Uint8Array>> {
  if (hashes.length === 0) return new Map();
  const rows = await database()
    .select()
    .from(blobs)
    .where(inArray(blobs.hash, [...hashes]));
  return new Map(rows.map((r) => [r.hash, r.bytes]));
}

/** Stores a whole piece as a new one, with a fresh id. `blobs`: tiles that a sink has packed already, by address. */
export async function insertPiece(
  bundle: PieceBundle,
  options: { keepId?: boolean; blobs?: ReadonlyMap<string, Uint8Array> } = {},
): Promise<string> {
  const id = options.keepId ? bundle.piece.id : randomUUID().slice(0, 13);
  const parts = new Map<string, Uint8Array>(options.blobs);
  const rows: (typeof pieceTiles.$inferInsert)[] = [];
  for (const plane of bundle.store.planeKeys())
    for (const [tile, version] of bundle.store.tilesOf(plane)) {
      // Its blob is at hand already where it came in through a sink.
      let { hash } = version;
      if (!hash || !parts.has(hash)) {
        const found = blobOfTile(version.data!);
        hash = found.hash;
        if (!parts.has(hash)) parts.set(hash, found.pack());
      }
      rows.push({ pieceId: id, plane, tile, hash });
    }
  let document: Piece = { ...bundle.piece, id };
  if (bundle.modelGlb) {
    const hash = createHash('sha256').update(bundle.modelGlb).digest('hex');
    parts.set(hash, bundle.modelGlb);
    document = { ...document, model: { ...document.model!, blob: hash } };
  }
  const pins = soundPins(bundle.pinned ?? new Map());
  await database().transaction(async (tx) => {
    await storeBlobs(tx, parts);
    for (const { hash, webp } of pins)
      await tx
        .insert(pinned)
        .values({ hash, webp })
        .onConflictDoUpdate({ target: pinned.hash, set: { touchedAt: sql`now()` } });
    await tx.insert(pieces).values({ id, name: document.name, document, thumbnail: bundle.thumbnailPng });
    for (let i = 0; i < rows.length; i += 2000) await tx.insert(pieceTiles).values(rows.slice(i, i + 2000));
    const records = (bundle.strokes ?? []).map((record) => ({ pieceId: id, step: null, record }));
    for (let i = 0; i < records.length; i += 500) await tx.insert(strokes).values(records.slice(i, i + 500));
  });
  return id;
}

/** Those that are what their names say; a pinboard does without the others, as it does without what is lost. */
function soundPins(given: ReadonlyMap<string, Uint8Array>): { hash: string; webp: Uint8Array }[] {
  return [...given]
    .map(([hash, webp]) => ({ hash, webp }))
    .filter(({ hash, webp }) => isWebp(webp) && createHash('sha256').update(webp).digest('hex') === hash);
}

export async function thumbnailOf(id: string): Promise<Uint8Array | null> {
  const [row] = await database().select({ thumbnail: pieces.thumbnail }).from(pieces).where(eq(pieces.id, id));
  return row?.thumbnail ?? null;
}

export async function setThumbnail(id: string, png: Uint8Array): Promise<void> {
  await database().update(pieces).set({ thumbnail: png }).where(eq(pieces.id, id));
}

/**
 * Renames from the pieces page. The bench renames through an edit instead, so that it can be undone. The revision stays:
 * a name is no reason for a conflict, and an open bench learns it with its next answer.
 */
export async function renamePiece(id: string, name: string): Promise<{ ok: true } | { ok: false; message: string }> {
  const parsed = nameSchema.safeParse(name);
  if (!parsed.success) return { ok: false, message: parsed.error.issues[0].message };
  const updated = await database()
    .update(pieces)
    .set({
      name: parsed.data,
      document: sql`jsonb_set(${pieces.document}, '{name}', to_jsonb(${parsed.data}::text))`,
      updatedAt: sql`now()`,
    })
    .where(eq(pieces.id, id))
    .returning({ id: pieces.id });
  return updated.length ? { ok: true } : { ok: false, message: 'The piece is no longer there.' };
}

/** Deleting only puts away: `restore` brings it back. */
export async function setDeleted(id: string, deleted: boolean): Promise<boolean> {
  const updated = await database()
    .update(pieces)
    .set({ deletedAt: deleted ? sql`now()` : null })
    .where(eq(pieces.id, id))
    .returning({ id: pieces.id });
  return updated.length > 0;
}

/** A copy with its own id; tiles are shared by address, so it costs no pixels. */
export async function duplicatePiece(id: string): Promise<{ id: string; revision: number } | null> {
  return database().transaction(async (tx) => {
    const [piece] = await tx.select().from(pieces).where(eq(pieces.id, id));
    if (!piece) return null;
    const names = await tx.select({ name: pieces.name }).from(pieces).where(isNull(pieces.deletedAt));
    const copyId = randomUUID().slice(0, 13);
    const name = freeName(
      `${piece.name} copy`.slice(0, 110),
      names.map((n) => n.name),
    );
    await tx.insert(pieces).values({
      id: copyId,
      name,
      document: { ...readDocument(piece.document), id: copyId, name },
      thumbnail: piece.thumbnail,
    });
    await tx.execute(
      sql`insert into piece_tiles (piece_id, plane, tile, hash) select ${copyId}, plane, tile, hash from piece_tiles where piece_id = ${id}`,
    );
    await tx.execute(
      sql`insert into strokes (piece_id, step, record) select ${copyId}, null, record from strokes
          where piece_id = ${id} and (step is null or step <= ${piece.position}) order by id`,
    );
    return { id: copyId, revision: 0 };
  });
}
