/** Rendered tiles of pieces, stored so that a browser that opens a piece for the first time need not render them. They can be rendered again. */
import { and, eq, gt, ne, or, sql } from 'drizzle-orm';
import { MOST_DRAWN_PARTS } from '../core/keeping/protocol';
import { database } from './db';
import { drawn } from './schema';

/** Limit for all pieces together; when it is exceeded, the oldest sheets are deleted. */
const BUDGET_BYTES = 2 * 1024 ** 3;

/** One rendered sheet: of which piece, by which build. */
export interface DrawnOf {
  pieceId: string;
  sheetId: string;
  build: string;
}

const of = ({ pieceId, sheetId, build }: DrawnOf) =>
  and(eq(drawn.pieceId, pieceId), eq(drawn.sheetId, sheetId), eq(drawn.build, build));

/** Number of stored parts; 0 if this build has rendered nothing. */
export async function drawnParts(which: DrawnOf): Promise<number> {
  const [{ parts }] = await database()
    .select({ parts: sql<number>`coalesce(max(${drawn.part}) + 1, 0)::int` })
    .from(drawn)
    .where(of(which));
  return parts;
}

/** One part (gzip), or null. */
export async function drawnPart(which: DrawnOf, part: number): Promise<Uint8Array | null> {
  const [row] = await database()
    .select({ bytes: drawn.bytes })
    .from(drawn)
    .where(and(of(which), eq(drawn.part, part)));
  return row?.bytes ?? null;
}

const GZIP = [0x1f, 0x8b];

/**
 * Stores a part (gzip). `last`: deletes parts with higher numbers and parts of other builds. Returns false if the bytes are not gzip, the part
 * number is too high, or the piece does not exist.
 */
export async function putDrawnPart(which: DrawnOf, part: number, last: boolean, bytes: Uint8Array): Promise<boolean> {
  if (part >= MOST_DRAWN_PARTS || GZIP.some((byte, n) => bytes[n] !== byte)) return false;
  const { pieceId, sheetId, build } = which;
  const taken = await database().execute(sql`
    insert into drawn (piece_id, sheet_id, part, build, bytes)
    select ${pieceId}, ${sheetId}, ${part}, ${build}, ${Buffer.from(bytes)} from pieces where id = ${pieceId} and deleted_at is null
    on conflict (piece_id, sheet_id, part) do update set build = excluded.build, bytes = excluded.bytes, at = now()`);
  if (taken.rowCount !== 1) return false;
  if (last) {
    const old = or(gt(drawn.part, part), ne(drawn.build, build));
    await database()
      .delete(drawn)
      .where(and(eq(drawn.pieceId, pieceId), eq(drawn.sheetId, sheetId), old));
    await keepWithin(BUDGET_BYTES);
  }
  return true;
}

/** Deletes the oldest sheets, whole ones, until at most `bytes` are left. */
export async function keepWithin(bytes: number): Promise<void> {
  await database().execute(sql`
    with sheets as (
      select piece_id, sheet_id, sum(sum(length(bytes))) over (order by max(at) desc, piece_id, sheet_id) as together
      from drawn group by piece_id, sheet_id
    )
    delete from drawn d using sheets s
    where s.piece_id = d.piece_id and s.sheet_id = d.sheet_id and s.together > ${bytes}`);
}
