/** Operations that the server has not taken yet, kept in the browser so that a crash loses nothing. */
import { openDB, type IDBPDatabase } from 'idb';

export interface JournalEntry {
  id: string;
  bytes: Uint8Array<ArrayBuffer>;
}

export interface Journal {
  /** Oldest first. */
  list(pieceId: string): Promise<JournalEntry[]>;
  add(pieceId: string, entry: JournalEntry): Promise<void>;
  remove(pieceId: string, id: string): Promise<void>;
}

interface Row extends JournalEntry {
  order?: number;
  pieceId: string;
}

export function browserJournal(): Journal {
  let opened: Promise<IDBPDatabase> | null = null;
  const db = () =>
    (opened ??= openDB('brindle-journal', 1, {
      upgrade(database) {
        const store = database.createObjectStore('operations', { keyPath: 'order', autoIncrement: true });
        store.createIndex('piece', 'pieceId');
        store.createIndex('id', 'id', { unique: true });
      },
    }));
  return {
    async list(pieceId) {
      const rows = (await (await db()).getAllFromIndex('operations', 'piece', pieceId)) as Row[];
      return rows.sort((a, b) => a.order! - b.order!).map(({ id, bytes }) => ({ id, bytes }));
    },
    async add(pieceId, entry) {
      // `strict`: on disk before the promise is kept, so that a power cut finds it there.
      const tx = (await db()).transaction('operations', 'readwrite', { durability: 'strict' });
      await tx.store.add({ ...entry, pieceId });
      await tx.done;
    },
    async remove(_pieceId, id) {
      const tx = (await db()).transaction('operations', 'readwrite');
      const key = await tx.store.index('id').getKey(id);
      if (key !== undefined) await tx.store.delete(key);
      await tx.done;
    },
  };
}

export function memoryJournal(entries = new Map<string, JournalEntry[]>()): Journal {
  return {
    list: async (pieceId) => [...(entries.get(pieceId) ?? [])],
    add: async (pieceId, entry) => void entries.set(pieceId, [...(entries.get(pieceId) ?? []), entry]),
    remove: async (pieceId, id) =>
      void entries.set(
        pieceId,
        (entries.get(pieceId) ?? []).filter((e) => e.id !== id),
      ),
  };
}
