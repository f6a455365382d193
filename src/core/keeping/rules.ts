/**
 * The server's rules: what becomes of an operation. They ask a shelf for what they need and answer with a plan, so
 * that the database and the tests' stand-in carry out the very same.
 */
import { storedChannels } from '../kinds/maps';
import { applyEditChecked, editSchema, invertEdit, type Edit } from '../document/edits';
import { parsePiece, type Piece } from '../document/schema';
import { parsePlaneKey, planesOfSheet } from '../document/planes';
import { tileIndex, tilesAcross, tileX, tileY } from '../tile/tiles';
import type { Operation, StrokeRecord } from './operation';

/** [plane, tile, hash before, hash after]; null: no tile. */
export type TileRow = [plane: string, tile: number, before: string | null, after: string | null];

/** What the rules read of the server; nothing in it changes while one operation is judged. */
export interface OperationStore {
  /** `last`: the operation that made its revision; null: not known. */
  piece(): Promise<{ document: unknown; revision: number; last: string | null; position: number; deleted: boolean } | null>;
  /** Revision and position after an operation that was carried out before, or null. */
  done(id: string): Promise<{ revision: number } | null>;
  step(seq: number): Promise<{ name: string; edit: unknown; tiles: TileRow[] } | null>;
  /** Hashes of the tiles that are there, by `tileKey`. */
  tiles(at: readonly [plane: string, tile: number][]): Promise<Map<string, string>>;
  /** Channels of the tile blobs that are there; those asked for stay there until the operation ends. */
  channels(hashes: readonly string[]): Promise<Map<string, number>>;
}

export const tileKey = (plane: string, tile: number) => `${plane} ${tile}`;

export interface Plan {
  document: Piece;
  position: number;
  /** A new step: it takes the place of what could be redone. */
  step: { seq: number; name: string; label: string; edit: Edit; tiles: TileRow[]; stroke: StrokeRecord | null } | null;
  tiles: TileRow[];
}

export interface Refusal {
  ok: false;
  status: 404 | 409 | 410 | 422;
  message: string;
  /** Of a conflict: where the server stands, and the operation that made that. */
  revision?: number;
  last?: string | null;
  /** Blobs that the operation names and the server does not have: sent, then the operation again. */
  missing?: string[];
}
export type Verdict = { ok: true; done: { revision: number; position: number } } | { ok: true; plan: Plan } | Refusal;

const refused = (message: string, more: Partial<Refusal> = {}): Refusal => ({ ok: false, status: 422, message, ...more });

export async function judge(shelf: OperationStore, operation: Operation): Promise<Verdict> {
  const piece = await shelf.piece();
  if (!piece) return refused('The piece is no longer there: it was deleted for good.', { status: 404 });
  const done = await shelf.done(operation.id);
  if (done) return { ok: true, done: { revision: done.revision, position: piece.position } };
  if (piece.deleted) return refused('The piece was deleted: bring it back to keep what you painted since.', { status: 410 });
  const otherHistory = operation.after != null && piece.last !== null && operation.after !== piece.last;
  if (piece.revision !== operation.baseRevision || otherHistory) {
    const { revision, last } = piece;
    return refused('The piece was changed elsewhere in the meantime.', { status: 409, revision, last });
  }
  const parsed = parsePiece(piece.document);
  if (!parsed.ok) return refused(`The piece on the server cannot be read: ${parsed.message}`);
  return operation.kind === 'edit'
    ? judgeEdit(shelf, parsed.value, piece.position, operation)
    : judgeMove(shelf, parsed.value, piece.position, operation);
}

async function judgeEdit(
  shelf: OperationStore,
  document: Piece,
  position: number,
  operation: Extract<Operation, { kind: 'edit' }>,
): Promise<Verdict> {
  const { edit, tiles, label, id, stroke } = operation;
  const changed = applyEditChecked(document, edit as Edit);
  if (!changed.ok) return refused(changed.message);
  const stray = strayTile(document, changed.value, tiles);
  if (stray) return refused(stray);
  const there = await shelf.tiles(tiles.map(([plane, tile]) => [plane, tile]));
  if (tiles.some(([plane, tile, before]) => (there.get(tileKey(plane, tile)) ?? null) !== before))
    return refused('It builds on paint that the server does not have: the change before it was not taken.');
  const hashes = [...new Set(tiles.flatMap((t) => t[3] ?? []))];
  const channels = await shelf.channels(hashes);
  const missing = hashes.filter((h) => !channels.has(h));
  if (missing.length) return refused(`${missing.length} tiles of this change did not arrive.`, { missing });
  const wrong = tiles.find(([plane, , , after]) => after && channels.get(after) !== storedChannels(parsePlaneKey(plane).map));
  if (wrong) return refused(`A tile of "${wrong[0]}" is not of that map's kind.`);
  const seq = position + 1;
  return {
    ok: true,
    plan: { document: changed.value, position: seq, step: { seq, name: id, label, edit: edit as Edit, tiles, stroke }, tiles },
  };
}

/** Every tile must belong to something in the document before or after, and lie on its sheet. */
function strayTile(before: Piece, after: Piece, tiles: readonly TileRow[]): string | null {
  const planes = (piece: Piece) => new Map(piece.sheets.flatMap((s) => planesOfSheet(s).map((p) => [p.key, p] as const)));
  const [old, now] = [planes(before), planes(after)];
  const seen = new Set<string>();
  for (const [plane, tile, , hash] of tiles) {
    const owner = now.get(plane) ?? (hash === null ? old.get(plane) : undefined);
    if (!owner) return `The change has a tile of "${plane}", which belongs to nothing in the piece.`;
    const [x, y] = [tileX(tile), tileY(tile)];
    // A tile that goes may lie beyond a sheet that was made smaller.
    if (hash !== null && (x >= tilesAcross(owner.width) || y >= tilesAcross(owner.height) || tileIndex(x, y) !== tile))
      return `The change has a tile that lies beside its sheet (${x}, ${y} of "${plane}").`;
    const key = tileKey(plane, tile);
    if (seen.has(key)) return `The change names a tile of "${plane}" twice.`;
    seen.add(key);
  }
  return null;
}

async function judgeMove(
  shelf: OperationStore,
  document: Piece,
  position: number,
  operation: Extract<Operation, { kind: 'undo' | 'redo' }>,
): Promise<Verdict> {
  const undo = operation.kind === 'undo';
  const seq = undo ? position : position + 1;
  const step = await shelf.step(seq);
  if (!step) return refused(`There is nothing to ${operation.kind} any more.`);
  if (operation.step !== null && operation.step !== step.name)
    return refused(`The step that it would ${operation.kind} is not the ${undo ? 'last' : 'next'} one here.`);
  // An older Brindle may have written it: new fields get their defaults.
  const edit = editSchema.safeParse(step.edit);
  if (!edit.success) return refused('That step cannot be read any more.');
  const changed = applyEditChecked(document, (undo ? invertEdit(edit.data as Edit) : edit.data) as Edit);
  if (!changed.ok) return refused(changed.message);
  const tiles = undo ? step.tiles.map(([p, t, before, after]): TileRow => [p, t, after, before]) : step.tiles;
  return { ok: true, plan: { document: changed.value, position: undo ? seq - 1 : seq, step: null, tiles } };
}
