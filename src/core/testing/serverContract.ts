/**
 * What every server promises, the one in memory and the real one alike: the tests run over both, so that the stand-in
 * never knows better than the server.
 */
import { deflateSync } from 'fflate';
import { filterTile, sha256, tileBlob, tileBytes } from '../codec/tileBlob';
import { newCoatLayer, newPaintedLayer, newPiece, newSheet } from '../document/factory';
import { setLayerEdit, type Edit } from '../document/edits';
import { DOCUMENT_VERSION, type Piece } from '../document/schema';
import { packOperation, type Operation } from '../keeping/operation';
import { joinBlobs, splitBlobs } from '../keeping/parts';
import type { TileRow } from '../keeping/rules';
import { TILE_TEXELS } from '../tile/tiles';

export interface ContractServer {
  add(document: unknown): Promise<void>;
  open(
    id: string,
  ): Promise<{ status: number } | { document: Piece; revision: number; position: number; tiles: [string, number, string][] }>;
  commit(
    id: string,
    bytes: Uint8Array<ArrayBuffer>,
  ): Promise<{ status?: number; message?: string; revision?: number; missing?: string[] }>;
  putBlobs(blobs: Uint8Array[]): Promise<void>;
  done(id: string, ids: string[]): Promise<[string, number][]>;
  remove(id: string, deleted: boolean): Promise<void>;
}

export interface Packed {
  hash: string;
  blob: Uint8Array;
}

export async function packedTile(value: number, channels: 2 | 4 = 2): Promise<Packed> {
  const data = new Uint16Array(TILE_TEXELS * channels).fill(value);
  return { hash: await sha256(tileBytes(data)), blob: tileBlob(channels, deflateSync(filterTile(data))) };
}

export function contractPiece(): Piece {
  const sheet = newSheet('s', 'Sheet', 256, 256);
  sheet.layers = [newCoatLayer('g', 'Ground', { 'base-colour': [0.2, 0.2, 0.2] }), newPaintedLayer('l', 'Hand')];
  return newPiece('p', 'Piece', 'canvas', [sheet]);
}

let count = 0;
export function paintOperation(
  baseRevision: number,
  tiles: TileRow[],
  blobs: Packed[] = [],
  edit?: Edit,
): [string, Uint8Array<ArrayBuffer>] {
  const id = `op${++count}`;
  const operation: Operation = {
    kind: 'edit',
    id,
    baseRevision,
    label: 'Stroke',
    edit: edit ?? { type: 'paint', sheetId: 's', layerId: 'l' },
    tiles,
    blobs: blobs.map(({ hash, blob }) => ({ hash, length: blob.length })),
    stroke: null,
  };
  return [id, packOperation(operation, new Map(blobs.map((b) => [b.hash, b.blob])))];
}

export const move = (kind: 'undo' | 'redo', baseRevision: number, step: string | null = null) =>
  packOperation({ kind, id: `op${++count}`, baseRevision, step }, new Map());

/** Defines the tests. `make` gives an empty server. */
export function serverContract(name: string, make: () => Promise<ContractServer>): void {
  describe(`what a server promises: ${name}`, () => {
    let server: ContractServer;
    const opened = async () =>
      (await server.open('p')) as Exclude<Awaited<ReturnType<ContractServer['open']>>, { status: number }>;
    const paint = (base: number, tiles: TileRow[], blobs: Packed[] = [], edit?: Edit) =>
      server.commit('p', paintOperation(base, tiles, blobs, edit)[1]);
    beforeEach(async () => {
      server = await make();
      await server.add(contractPiece());
    });

    test('a stroke is taken once, however often it is sent', async () => {
      const tile = await packedTile(1);
      const [id, bytes] = paintOperation(0, [['l/height', 0, null, tile.hash]], [tile]);
      expect(await server.commit('p', bytes)).toMatchObject({ revision: 1 });
      expect(await server.commit('p', bytes)).toMatchObject({ revision: 1 });
      expect(await opened()).toMatchObject({ revision: 1, position: 1, tiles: [['l/height', 0, tile.hash]] });
      expect(await server.done('p', [id, 'other'])).toEqual([[id, 1]]);
    });

    test('tiles may come before their operation, in parts; what did not come is named, and nothing is changed', async () => {
      const [a, b] = [await packedTile(1), await packedTile(2)];
      await server.putBlobs(splitBlobs(joinBlobs([a.blob]))!);
      const rows: TileRow[] = [
        ['l/height', 0, null, a.hash],
        ['l/height', 1, null, b.hash],
      ];
      expect(await paint(0, rows)).toMatchObject({ status: 422, missing: [b.hash] });
      expect(await opened()).toMatchObject({ revision: 0, tiles: [] });
      await server.putBlobs([b.blob, Uint8Array.of(1, 2, 3)]);
      expect(await paint(0, rows)).toMatchObject({ revision: 1 });
    });

    test('another base is a conflict', async () => {
      const tile = await packedTile(1);
      expect(await paint(3, [['l/height', 0, null, tile.hash]], [tile])).toMatchObject({ status: 409 });
    });

    test.each([
      ['a plane of no layer', 'x/height', 0],
      ['a map of another kind of name', 'l/wonder', 0],
      ['a tile right of the sheet', 'l/height', 2],
      ['a tile below the sheet', 'l/height', 512],
    ])('refused, with a sentence: %s', async (_what, plane, at) => {
      const tile = await packedTile(1);
      const answer = await paint(0, [[plane, at, null, tile.hash]], [tile]);
      expect(answer.status).toBe(422);
      expect(answer.message).toMatch(/^[A-Z].+\.$/);
      expect(await opened()).toMatchObject({ revision: 0, position: 0, tiles: [] });
    });

    test('refused: a tile with the wrong number of channels, one named twice, one that builds on paint that is not there', async () => {
      const [two, four] = [await packedTile(1, 2), await packedTile(1, 4)];
      expect(await paint(0, [['l/height', 0, null, four.hash]], [four])).toMatchObject({ status: 422 });
      expect(await paint(0, [['l/base-colour', 0, null, two.hash]], [two])).toMatchObject({ status: 422 });
      const twice: TileRow = ['l/height', 0, null, two.hash];
      expect(await paint(0, [twice, twice], [two])).toMatchObject({ status: 422 });
      expect(await paint(0, [['l/height', 0, four.hash, two.hash]], [two])).toMatchObject({ status: 422 });
      expect(await paint(0, [['l/height', 0, null, two.hash]], [two])).toMatchObject({ revision: 1 });
    });

    test('a damaged tile never becomes somebody’s pixels', async () => {
      const tile = await packedTile(1);
      const damaged = { hash: tile.hash, blob: tile.blob.slice() };
      damaged.blob[damaged.blob.length >> 1] ^= 40;
      expect(await paint(0, [['l/height', 0, null, tile.hash]], [damaged])).toMatchObject({ status: 422 });
      await server.putBlobs([damaged.blob]);
      expect(await paint(0, [['l/height', 0, null, tile.hash]])).toMatchObject({ missing: [tile.hash] });
    });

    test('a layer that goes takes its tiles along, and undo brings both back', async () => {
      const tile = await packedTile(7);
      await paint(0, [['l/height', 0, null, tile.hash]], [tile]);
      const [, layer] = contractPiece().sheets[0].layers;
      const edit: Edit = { type: 'remove-layer', sheetId: 's', index: 1, layer };
      expect(await paint(1, [['l/height', 0, tile.hash, null]], [], edit)).toMatchObject({ revision: 2 });
      expect((await opened()).tiles).toEqual([]);
      expect(await server.commit('p', move('undo', 2))).toMatchObject({ revision: 3 });
      const now = await opened();
      expect(now.tiles).toEqual([['l/height', 0, tile.hash]]);
      expect(now.document.sheets[0].layers).toHaveLength(2);
      expect(await server.commit('p', move('redo', 3))).toMatchObject({ revision: 4 });
      expect((await opened()).tiles).toEqual([]);
    });

    test('undo and redo name their step: another one is refused', async () => {
      const tile = await packedTile(7);
      const [id, bytes] = paintOperation(0, [['l/height', 0, null, tile.hash]], [tile]);
      await server.commit('p', bytes);
      expect(await server.commit('p', move('undo', 1, 'another'))).toMatchObject({ status: 422 });
      expect(await server.commit('p', move('redo', 1, id))).toMatchObject({ status: 422 });
      expect(await server.commit('p', move('undo', 1, id))).toMatchObject({ revision: 2 });
      expect(await server.commit('p', move('undo', 2, id))).toMatchObject({ status: 422 });
      expect(await server.commit('p', move('redo', 2, id))).toMatchObject({ revision: 3 });
      expect(await opened()).toMatchObject({ position: 1, tiles: [['l/height', 0, tile.hash]] });
    });

    test('a document of version 3 is opened, painted and edited: fields that only a default gives can be set', async () => {
      const old = JSON.parse(JSON.stringify(contractPiece())) as Record<string, never> & { sheets: { layers: object[] }[] };
      const plain = { ...old, id: 'old', version: 3 } as Record<string, unknown>;
      for (const layer of old.sheets[0].layers as Record<string, unknown>[])
        for (const field of ['lock', 'tag', 'note', 'passThrough', 'filter', 'echo', 'source', 'placement', 'mask', 'parent'])
          delete layer[field];
      await server.add(plain);
      const tile = await packedTile(3);
      const [, bytes] = paintOperation(0, [['l/height', 0, null, tile.hash]], [tile]);
      expect(await server.commit('old', bytes)).toMatchObject({ revision: 1 });
      const piece = contractPiece();
      const edit = setLayerEdit(piece.sheets[0], piece.sheets[0].layers[1], { lock: 'all', note: 'done', tag: 3 });
      expect(await server.commit('old', paintOperation(1, [], [], edit)[1])).toMatchObject({ revision: 2 });
      expect(await server.open('old')).toMatchObject({
        document: { version: DOCUMENT_VERSION, sheets: [{ layers: [{}, { lock: 'all', tag: 3 }] }] },
      });
    });

    test('a deleted piece takes nothing, says so, and goes on where it was when it is brought back', async () => {
      const tile = await packedTile(1);
      const [, bytes] = paintOperation(0, [['l/height', 0, null, tile.hash]], [tile]);
      await server.remove('p', true);
      expect(await server.commit('p', bytes)).toMatchObject({ status: 410 });
      expect(await server.open('p')).toMatchObject({ status: 410 });
      await server.remove('p', false);
      expect(await server.commit('p', bytes)).toMatchObject({ revision: 1 });
      expect(await server.commit('nowhere', bytes)).toMatchObject({ status: 404 });
    });
  });
}
