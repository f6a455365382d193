/** What was drawn, on the server: by build, with its piece, within a budget. */
import { gzipSync } from 'node:zlib';
import { newPaintedLayer, newPiece, newSheet } from '../../core/document/factory';
import { MOST_DRAWN_PARTS } from '../../core/keeping/protocol';
import { TileStore } from '../../core/tile/tiles';
import { collect } from '../collect';
import { database } from '../db';
import { drawnPart, drawnParts, keepWithin, putDrawnPart } from '../drawn';
import { insertPiece, setDeleted } from '../pieces';
import { drawn, pieces } from '../schema';
import { freshDatabase } from '../testing';

let end: () => Promise<void>;
beforeAll(async () => (end = await freshDatabase('drawn')));
afterAll(() => end());
beforeEach(async () => {
  await database().delete(pieces);
  await database().delete(drawn);
  for (const id of ['p', 'q']) {
    const sheet = newSheet('s', 'Sheet', 128, 128);
    sheet.layers = [newPaintedLayer('l', 'Hand')];
    await insertPiece(
      { piece: newPiece(id, id, 'canvas', [sheet]), store: new TileStore(), modelGlb: null, thumbnailPng: null },
      { keepId: true },
    );
  }
});

const of = (pieceId = 'p', build = 'abc', sheetId = 's') => ({ pieceId, sheetId, build });
const part = (v: number, bytes = 300) => gzipSync(Buffer.alloc(bytes, v), { level: 0 });

test('parts come back as they were put, to the build that drew them', async () => {
  expect(await drawnParts(of())).toBe(0);
  for (const n of [0, 1, 2]) expect(await putDrawnPart(of(), n, n === 2, part(n))).toBe(true);
  expect(await drawnParts(of())).toBe(3);
  expect(Buffer.from((await drawnPart(of(), 1))!).equals(part(1))).toBe(true);
  expect(await drawnPart(of(), 3)).toBeNull();
  expect(await drawnParts(of('p', 'def'))).toBe(0);
  expect(await drawnPart(of('p', 'def'), 1)).toBeNull();
  expect(await drawnParts(of('q'))).toBe(0);
  expect(await drawnParts(of('p', 'abc', 't'))).toBe(0);
});

test('the last part deletes those with higher numbers and those of other builds; until then they stay', async () => {
  for (const n of [0, 1, 2]) await putDrawnPart(of(), n, n === 2, part(n));
  await putDrawnPart(of(), 0, false, part(10));
  expect(await drawnParts(of())).toBe(3);
  await putDrawnPart(of(), 1, true, part(11));
  expect(await drawnParts(of())).toBe(2);
  expect(Buffer.from((await drawnPart(of(), 0))!).equals(part(10))).toBe(true);
  await putDrawnPart(of('p', 'def'), 0, true, part(20));
  expect(await drawnParts(of())).toBe(0);
  expect(await drawnParts(of('p', 'def'))).toBe(1);
});

test('what is no gzip, one part too many, or of no piece is not taken', async () => {
  expect(await putDrawnPart(of(), 0, true, Buffer.from('hello'))).toBe(false);
  expect(await putDrawnPart(of(), 0, true, new Uint8Array(0))).toBe(false);
  expect(await putDrawnPart(of(), MOST_DRAWN_PARTS, true, part(1))).toBe(false);
  expect(await putDrawnPart(of('nobody'), 0, true, part(1))).toBe(false);
  await setDeleted('q', true);
  expect(await putDrawnPart(of('q'), 0, true, part(1))).toBe(false);
  expect(await database().select().from(drawn)).toEqual([]);
});

test('it goes with its piece', async () => {
  await putDrawnPart(of('p'), 0, true, part(1));
  await putDrawnPart(of('q'), 0, true, part(1));
  await database().delete(pieces);
  await collect();
  expect(await database().select().from(drawn)).toEqual([]);
});

test('beyond the budget the sheets go that were drawn longest ago, whole', async () => {
  for (const [n, which] of [of('p'), of('q'), of('p', 'abc', 't')].entries())
    for (const k of [0, 1]) await putDrawnPart(which, k, k === 1, part(n, 1000));
  await keepWithin(5000);
  expect(await Promise.all([drawnParts(of('p')), drawnParts(of('q')), drawnParts(of('p', 'abc', 't'))])).toEqual([0, 2, 2]);
  await keepWithin(5000);
  expect(await drawnParts(of('q'))).toBe(2);
  await keepWithin(0);
  expect(await database().select().from(drawn)).toEqual([]);
});
