/** A server of an earlier version: sheets are put on their own materials as the server starts. */
import { eq, sql } from 'drizzle-orm';
import { newPiece, newSheet } from '../../core/document/factory';
import { cubeModel } from '../../core/testing/models';
import { plainMaterial } from '../../core/mesh/modelBuilder';
import { writeGlb } from '../../core/mesh/writeGlb';
import { TileStore } from '../../core/tile/tiles';
import { database } from '../db';
import { migrateDatabase } from '../migrate';
import { insertPiece, openPiece } from '../pieces';
import { pieces } from '../schema';
import { freshDatabase } from '../testing';

let done: () => Promise<void>;
beforeAll(async () => (done = await freshDatabase('settling')));
afterAll(() => done());

test('a piece of version 6 whose sheets lie crosswise is set right once, and keeps its revision', async () => {
  const cube = cubeModel();
  const model = {
    ...cube,
    materials: ['Moved', 'Opaque'].map(plainMaterial),
    faceMaterial: cube.faceMaterial.map((_, f) => f % 2),
  };
  const sheets = ['Opaque', 'Moved'].map((name, n) => newSheet(`s${n}`, name, 16, 16, { materialIndex: n }));
  const piece = newPiece('old', 'Old', 'model', sheets, { model: { blob: '', uvSet: 0 } });
  const bundle = { piece, store: new TileStore(), modelGlb: await writeGlb(model), thumbnailPng: null };
  await insertPiece(bundle, { keepId: true });
  await database()
    .update(pieces)
    .set({ document: sql`jsonb_set(document, '{version}', '6') #- '{sheets,0,materialName}' #- '{sheets,1,materialName}'` })
    .where(eq(pieces.id, 'old'));
  await migrateDatabase();
  const opened = await openPiece('old');
  if (!opened || 'deleted' in opened) throw new Error('the piece is gone');
  expect(opened.document.sheets.map((s) => [s.name, s.materialIndex, s.materialName])).toEqual([
    ['Opaque', 1, 'Opaque'],
    ['Moved', 0, 'Moved'],
  ]);
  expect(opened.document.notices).toHaveLength(1);
  expect(opened.revision).toBe(0);
  // What has been read is not said again.
  await database()
    .update(pieces)
    .set({ document: { ...opened.document, notices: [] } });
  await migrateDatabase();
  const again = await openPiece('old');
  expect(again && !('deleted' in again) && again.document.notices).toEqual([]);
});
