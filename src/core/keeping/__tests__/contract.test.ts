import { houseContract } from '../../testing/houseContract';
import { MemoryHouse } from '../../testing/memoryHouse';

houseContract('in memory', async () => {
  const house = new MemoryHouse();
  return {
    add: async (document) => house.add(document),
    open: async (id) => house.openPiece(id),
    commit: (id, bytes) => house.commitBytes(id, bytes),
    putBlobs: (blobs) => house.takeBlobs(blobs),
    done: async (id, ids) => house.doneOf(id, ids),
    remove: async (id, deleted) => void (house.pieces.get(id)!.deleted = deleted),
  };
});
