import { eq, sql } from 'drizzle-orm';
import { contractPiece, packedTile, paintOperation } from '../../core/testing/serverContract';
import { unpackOperation } from '../../core/keeping/operation';
import { KEEPING } from '../../core/keeping/protocol';
import type { TileRow } from '../../core/keeping/rules';
import { collect } from '../collect';
import { commitOperation } from '../commit';
import { database } from '../db';
import { openPiece, readBlobs, setDeleted, strokesOf, takeBlobs, trailEntry } from '../pieces';
import { blobs, operations, pieces, pieceTiles, strokes, trail } from '../schema';
import { freshDatabase } from '../testing';

let end: () => Promise<void>;
beforeAll(async () => {
  end = await freshDatabase('collect');
});
afterAll(() => end());
beforeEach(async () => {
  for (const table of [pieces, blobs, pieceTiles, trail, operations, strokes]) await database().delete(table);
  const document = contractPiece();
  await database().insert(pieces).values({ id: 'p', name: 'Piece', document });
});

const commit = async (base: number, tiles: TileRow[], packed: { hash: string; blob: Uint8Array }[] = []) => {
  const unpacked = unpackOperation(paintOperation(base, tiles, packed)[1]);
  return unpacked.ok ? commitOperation('p', unpacked.value) : null;
};
const old = () => database().execute(sql`update blobs set touched_at = now() - interval '3 days'`);
const has = async (hash: string) => (await readBlobs([hash])).size === 1;

test('blobs that nothing names go after their grace time; those of the piece and of its trail stay', async () => {
  const [first, second, alone] = [await packedTile(1), await packedTile(2), await packedTile(3)];
  await commit(0, [['l/height', 0, null, first.hash]], [first]);
  await commit(1, [['l/height', 0, first.hash, second.hash]], [second]);
  await takeBlobs([alone.blob]);
  expect(await collect()).toMatchObject({ blobs: 0 });
  await old();
  expect(await collect()).toMatchObject({ blobs: 1 });
  expect([await has(first.hash), await has(second.hash), await has(alone.hash)]).toEqual([true, true, false]);
});

test('a blob that an operation names while the collector looks stays', async () => {
  const tile = await packedTile(5);
  await takeBlobs([tile.blob]);
  await old();
  // Many times both at once: whichever comes first, the piece never names what is not there.
  const [committed] = await Promise.all([commit(0, [['l/height', 0, null, tile.hash]]), collect()]);
  expect([committed!.ok, await has(tile.hash)]).toEqual(committed!.ok ? [true, true] : [false, false]);
});

test('a piece deleted long ago frees everything; one deleted lately can be brought back', async () => {
  const tile = await packedTile(1);
  await commit(0, [['l/height', 0, null, tile.hash]], [tile]);
  await setDeleted('p', true);
  await old();
  expect(await collect()).toMatchObject({ pieces: 0, blobs: 0 });
  await database().execute(sql`update pieces set deleted_at = now() - interval '31 days'`);
  expect(await collect()).toMatchObject({ pieces: 1, blobs: 1 });
  for (const table of [pieces, blobs, pieceTiles, trail, operations]) expect(await database().select().from(table)).toEqual([]);
});

test('tiles of layers that are gone go, unless undo could bring their layer back', async () => {
  const tile = await packedTile(1);
  await takeBlobs([tile.blob]);
  await database()
    .insert(pieceTiles)
    .values([
      { pieceId: 'p', plane: 'gone/height', tile: 0, hash: tile.hash },
      { pieceId: 'p', plane: 'undoable/height', tile: 0, hash: tile.hash },
      { pieceId: 'p', plane: 'l/height', tile: 0, hash: tile.hash },
    ]);
  const edit = { type: 'set-layer' as const, sheetId: 's', layerId: 'undoable', before: {}, after: {} };
  await database().insert(trail).values({ pieceId: 'p', seq: 1, label: 'x', edit, tiles: [] });
  expect(await collect()).toMatchObject({ strayTiles: 1 });
  expect((await database().select().from(pieceTiles)).map((t) => t.plane).sort()).toEqual(['l/height', 'undoable/height']);
});

test('ids of operations are forgotten after their time; a second collector stands back', async () => {
  await commit(0, []);
  await database().execute(sql`update operations set at = now() - interval '91 days'`);
  const both = await Promise.all([collect(), collect()]);
  expect(both.filter((r) => r !== null && r.operations === 1)).toHaveLength(1);
});

test('the trail is kept to its size: the oldest steps can’t be undone any more, their paint and their strokes stay', async () => {
  const { trailSteps, trailSlack } = KEEPING;
  const last = trailSteps + trailSlack;
  const edit = { type: 'paint' as const, sheetId: 's', layerId: 'l' };
  const rows = Array.from({ length: last - 1 }, (_, n) => ({
    pieceId: 'p',
    seq: n + 1,
    label: `Step ${n + 1}`,
    edit,
    tiles: [],
  }));
  await database().insert(trail).values(rows);
  const record = { sheet: 's', layer: 'l', seed: 1, hidden: [], hiddenFaces: [], brush: {} as never, samples: [] };
  await database()
    .insert(strokes)
    .values([1, last - 1].map((step) => ({ pieceId: 'p', step, record })));
  await database()
    .update(pieces)
    .set({ position: last - 1 })
    .where(eq(pieces.id, 'p'));
  expect(await commit(0, [])).toMatchObject({ ok: true, position: last });
  const opened = await openPiece('p');
  expect(opened && 'trail' in opened && [opened.trail.length, opened.trail[0].seq]).toEqual([trailSteps, trailSlack + 1]);
  expect(await trailEntry('p', 1)).toBeNull();
  expect(await strokesOf('p', last)).toHaveLength(2);
  // An undo past the last stroke leaves it out; the squashed one stays.
  expect(await strokesOf('p', last - 2)).toHaveLength(1);
});
