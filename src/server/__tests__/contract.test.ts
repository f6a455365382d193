import { unpackOperation } from '../../core/keeping/operation';
import { serverContract } from '../../core/testing/serverContract';
import { commitOperation } from '../commit';
import { database } from '../db';
import { doneOperations, openPiece, setDeleted, takeBlobs } from '../pieces';
import { blobs, operations, pieces, pieceTiles, strokes, trail } from '../schema';
import { freshDatabase } from '../testing';

let end: () => Promise<void>;
beforeAll(async () => {
  end = await freshDatabase('contract');
});
afterAll(() => end());

serverContract('PostgreSQL', async () => {
  for (const table of [pieces, blobs, pieceTiles, trail, operations, strokes]) await database().delete(table);
  return {
    add: async (document) => {
      const { id, name } = document as { id: string; name: string };
      await database()
        .insert(pieces)
        .values({ id, name, document: document as never });
    },
    open: async (id) => {
      const found = await openPiece(id);
      return found === null ? { status: 404 } : 'deleted' in found ? { status: 410 } : found;
    },
    commit: async (id, bytes) => {
      const unpacked = unpackOperation(bytes);
      return unpacked.ok ? commitOperation(id, unpacked.value) : { status: 400, message: unpacked.message };
    },
    putBlobs: async (list) => void (await takeBlobs(list)),
    done: (id, ids) => doneOperations(id, ids),
    remove: async (id, deleted) => void (await setDeleted(id, deleted)),
  };
});
