import { serverContract } from '../../testing/serverContract';
import { MemoryServer } from '../../testing/memoryServer';

serverContract('in memory', async () => {
  const server = new MemoryServer();
  return {
    add: async (document) => server.add(document),
    open: async (id) => server.openPiece(id),
    commit: (id, bytes) => server.commitBytes(id, bytes),
    putBlobs: (blobs) => server.takeBlobs(blobs),
    done: async (id, ids) => server.doneOf(id, ids),
    remove: async (id, deleted) => void (server.pieces.get(id)!.deleted = deleted),
  };
});
