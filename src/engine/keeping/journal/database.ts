/** The journal's database in the browser: its stores, and how older versions of them are migrated. */
import { openDB, type DBSchema, type IDBPDatabase } from 'idb';
import type { Sample } from '../../../core/hand/sample';
import type { Entry } from '../../../core/keeping/entry';
import { unpackOperation } from '../../../core/keeping/operation';

/** `order`: entries are carried out in this order. Microseconds since 1970, or one more than the last. */
export type EntryRow = Entry & { order: number };

export interface JournalSchema extends DBSchema {
  entries: { key: number; value: EntryRow; indexes: { piece: string; id: string } };
  /** Samples of strokes in the order in which they came. Key: [entry, n]. */
  samples: { key: [string, number]; value: { id: string; n: number; samples: Sample[] } };
  /** Tiles of packed entries, some at a time. Key: [entry, n]. */
  blobs: { key: [string, number]; value: { id: string; n: number; blobs: [hash: string, bytes: Uint8Array][] } };
  /** The revision that the entries of a piece build on. */
  heads: { key: string; value: { pieceId: string; revision: number } };
}
export type JournalDatabase = IDBPDatabase<JournalSchema>;

export const JOURNAL_NAME = 'brindle-journal';

export function openJournalDatabase(events: { closed: () => void }): Promise<JournalDatabase> {
  return openDB<JournalSchema>(JOURNAL_NAME, 2, {
    upgrade(db, oldVersion, _newVersion, tx) {
      const entries = db.createObjectStore('entries', { keyPath: 'order' });
      entries.createIndex('piece', 'pieceId');
      entries.createIndex('id', 'id', { unique: true });
      db.createObjectStore('samples', { keyPath: ['id', 'n'] });
      db.createObjectStore('blobs', { keyPath: ['id', 'n'] });
      db.createObjectStore('heads', { keyPath: 'pieceId' });
      if (oldVersion === 1) void takeOver(db, tx as never);
    },
    // Another tab brings a newer Brindle: this one must let go, and writes into what comes next.
    blocking(_current, _blocked, event) {
      (event.target as IDBDatabase).close();
      events.closed();
    },
    terminated: events.closed,
  });
}

interface OldRow {
  order: number;
  pieceId: string;
  id: string;
  bytes: Uint8Array<ArrayBuffer>;
}

/** Version 1 had operations as bytes only. They keep their places, and the first one says what they build on. */
async function takeOver(db: JournalDatabase, tx: { objectStore: (name: string) => never }): Promise<void> {
  const store = (name: string) =>
    tx.objectStore(name) as { getAll: () => Promise<OldRow[]>; add: (row: unknown) => Promise<unknown> };
  const heads = new Set<string>();
  for (const { order, pieceId, id, bytes } of await store('operations').getAll()) {
    const unpacked = unpackOperation(bytes);
    const row: EntryRow = {
      order,
      id,
      pieceId,
      client: 'before',
      at: 0,
      label: unpacked.ok && unpacked.value.operation.kind === 'edit' ? unpacked.value.operation.label : 'A change',
      intent: { type: 'bytes', bytes },
      whole: true,
      step: null,
      packed: null,
      aside: null,
    };
    await store('entries').add(row);
    if (!unpacked.ok || heads.has(pieceId)) continue;
    heads.add(pieceId);
    await store('heads').add({ pieceId, revision: unpacked.value.operation.baseRevision });
  }
  db.deleteObjectStore('operations' as never);
}
