/**
 * The journal: what was asked for and the server has not taken yet, on this machine's disk, so that a crash loses
 * nothing. Runs in a worker of its own, which is never busy with anything else, for the page and its engine alike.
 * What it promises stands in core/keeping/protocol.ts.
 */
import type { Sample } from '../../../core/hand/sample';
import type { Entry } from '../../../core/keeping/entry';
import type { Operation } from '../../../core/keeping/operation';
import { inParts } from '../../../core/keeping/parts';
import { KEEPING } from '../../../core/keeping/protocol';
import { openJournalDatabase, type EntryRow, type JournalDatabase } from './database';

/** An entry with its stroke's samples. */
export type Recorded = Entry & { samples: Sample[] };
export type NewEntry = Pick<Entry, 'id' | 'pieceId' | 'client' | 'at' | 'label' | 'intent' | 'whole'>;

export interface JournalState {
  /** Why writing fails, or null. */
  failing: string | null;
  /** Ids of entries that are in memory only. */
  unwritten: string[];
}

export interface JournalOptions {
  open?: typeof openJournalDatabase;
  /** Milliseconds since 1970. */
  now?: () => number;
  later?: (callback: () => void, ms: number) => void;
  /** No answer of the browser's storage for so long counts as none. */
  silentMs?: number;
}

/** Tiles of a packed entry go in writes of at most so much: a recording never waits behind more. */
const BLOB_WRITE_BYTES = 1024 * 1024;
/** What could not be written is tried again so often. */
const AGAIN_MS = 4000;
/** A write takes milliseconds, under the worst load a second. */
const SILENT_MS = 3000;
/** While the storage does not answer, further calls wait for this share of the time only. */
const STILL_SILENT_SHARE = 0.1;

interface Held {
  row: EntryRow;
  samples: Sample[];
  /** How many of the samples are on disk or on their way there, and in how many rows. */
  written: number;
  rows: number;
  /** The entry itself is on disk. */
  there: boolean;
  /** Of an earlier page: written once, and not held. */
  revived?: true;
}

export class Journal {
  private db: Promise<JournalDatabase> | null = null;
  private held = new Map<string, Held>();
  /** Gone before they came: the engine may be quicker than the page's message. */
  private gone = new Set<string>();
  private inFlight = new Set<Promise<void>>();
  /** What could not be removed or set aside yet. Until then an opening would ask the server, and nothing happens twice. */
  private owed: (() => Promise<void>)[] = [];
  private lastOrder = 0;
  private failing: string | null = null;
  private timers = new Set<string>();
  private retrying = false;
  private resting: Promise<void> | null = null;
  private listener: ((state: JournalState) => void) | null = null;

  constructor(private options: JournalOptions = {}) {}

  listen(listener: (state: JournalState) => void): void {
    this.listener = listener;
  }

  // ── Recording ────────────────────────────────────────────────────────────────────────────────────────────

  /** Resolves when it is on disk; rejects when it could not be written: it is tried again then, and said by `listen`. */
  async begin(entry: NewEntry, samples: Sample[] = []): Promise<void> {
    if (this.gone.delete(entry.id)) return;
    const row: EntryRow = { ...entry, order: this.nextOrder(), step: null, packed: null, aside: null };
    const held: Held = { row, samples: [...samples], written: 0, rows: 0, there: false };
    this.held.set(entry.id, held);
    await this.attempt(() => this.writeWhole(held, entry.whole ? 'strict' : 'relaxed'));
  }

  /** As `begin`, for what an earlier page had no time to write: it may be there in part. */
  async revive(entry: NewEntry, samples: Sample[]): Promise<void> {
    const db = await this.database();
    const there = await this.answered(db.getFromIndex('entries', 'id', entry.id));
    const row: EntryRow = { ...entry, order: there?.order ?? this.nextOrder(), step: null, packed: null, aside: null };
    const held: Held = { row, samples, written: 0, rows: 0, there: false, revived: true };
    await this.writeWhole(held, 'strict');
  }

  /** More samples of a stroke; written together with what comes in the next moments. */
  add(id: string, samples: Sample[]): void {
    const held = this.held.get(id);
    if (!held || held.row.whole) return;
    held.samples.push(...samples);
    if (this.timers.has(id)) return;
    this.timers.add(id);
    this.later(() => {
      this.timers.delete(id);
      if (this.held.get(id) === held && !held.row.whole) void this.attempt(() => this.writeSamples(held)).catch(() => undefined);
    }, KEEPING.penJournalMs);
  }

  /** The pen is lifted: the stroke is whole. Resolves when all of it is on disk. */
  async finish(id: string, samples: Sample[]): Promise<void> {
    const held = this.held.get(id);
    if (!held || held.row.whole) return;
    held.samples.push(...samples);
    held.row.whole = true;
    await this.attempt(() => this.writeWhole(held, 'strict'));
  }

  // ── What comes of it ─────────────────────────────────────────────────────────────────────────────────────

  /** The operation of an entry and its tiles: from now on it can be sent without computing anything. */
  async packed(id: string, operation: Operation, blobs: [hash: string, bytes: Uint8Array][]): Promise<void> {
    const db = await this.database();
    let n = 0;
    // In a store of their own: recordings do not wait behind them.
    for (const part of inParts(blobs, BLOB_WRITE_BYTES)) await this.answered(db.put('blobs', { id, n: n++, blobs: part }));
    await this.change(id, (row) => ({ ...row, packed: operation }));
  }

  async blobs(id: string): Promise<[hash: string, bytes: Uint8Array][]> {
    const db = await this.database();
    return (await this.answered(db.getAll('blobs', range(id)))).flatMap((r) => r.blobs);
  }

  /** Which step an undo or redo concerned. */
  async note(id: string, step: string): Promise<void> {
    await this.change(id, (row) => ({ ...row, step }));
  }

  /** The server said yes: the entry goes and the head moves, in one write. */
  async taken(id: string, pieceId: string, revision: number): Promise<void> {
    await this.remove([id], pieceId, revision);
  }

  /** Named by the artist, let go in mid-stroke, or without any effect. */
  async drop(ids: readonly string[]): Promise<void> {
    await this.remove(ids);
  }

  async aside(id: string, why: string): Promise<void> {
    await this.orLater(async () => {
      await this.change(id, (row) => ({ ...row, packed: null, aside: { why } }));
      await this.clearBlobs([id]);
    });
  }

  /** Once more, after all that waits. */
  async again(id: string): Promise<void> {
    const db = await this.database();
    const held = this.held.get(id);
    const row = held?.row ?? (await this.answered(db.getFromIndex('entries', 'id', id)));
    if (!row) return;
    const next: EntryRow = { ...row, order: this.nextOrder(), packed: null, step: null, aside: null };
    const tx = db.transaction('entries', 'readwrite', { durability: 'strict' });
    await this.answered(Promise.all([tx.store.delete(row.order), tx.store.put(next), tx.done]));
    if (held) held.row = next;
  }

  /** Entries become those of another piece, to be carried out there anew. */
  async move(ids: readonly string[], pieceId: string, revision: number): Promise<void> {
    const db = await this.database();
    await this.answered(this.moveIn(db, ids, pieceId, revision));
    await this.clearBlobs(ids);
  }

  private async moveIn(db: JournalDatabase, ids: readonly string[], pieceId: string, revision: number): Promise<void> {
    const tx = db.transaction(['entries', 'heads'], 'readwrite', { durability: 'strict' });
    const entries = tx.objectStore('entries');
    for (const id of ids) {
      const row = this.held.get(id)?.row ?? (await entries.index('id').get(id));
      if (!row) continue;
      const next = { ...row, pieceId, packed: null, step: null };
      await entries.put(next);
      const held = this.held.get(id);
      if (held) held.row = next;
    }
    await tx.objectStore('heads').put({ pieceId, revision });
    await tx.done;
  }

  // ── Asking ───────────────────────────────────────────────────────────────────────────────────────────────

  /** All entries of a piece in order, those set aside among them. */
  async list(pieceId: string): Promise<Recorded[]> {
    const found = new Map<string, { row: EntryRow; samples: Sample[] }>();
    try {
      const db = await this.database();
      for (const row of await this.answered(db.getAllFromIndex('entries', 'piece', pieceId))) {
        const parts = row.intent.type === 'stroke' ? await this.answered(db.getAll('samples', range(row.id))) : [];
        found.set(row.id, { row, samples: parts.flatMap((p) => p.samples) });
      }
    } catch (error) {
      this.fail(error);
    }
    for (const [id, { row, samples }] of this.held) if (row.pieceId === pieceId) found.set(id, { row, samples: [...samples] });
    return [...found.values()]
      .toSorted((a, b) => a.row.order - b.row.order)
      .map(({ row: { order: _, ...entry }, samples }) => ({ ...entry, samples }));
  }

  /** How much waits for each piece in this browser. */
  async summary(): Promise<{ pieceId: string; waiting: number; aside: number }[]> {
    const db = await this.database();
    const out = new Map<string, { pieceId: string; waiting: number; aside: number }>();
    for (const { pieceId, aside } of await this.answered(db.getAll('entries'))) {
      const sum = out.get(pieceId) ?? { pieceId, waiting: 0, aside: 0 };
      sum[aside ? 'aside' : 'waiting']++;
      out.set(pieceId, sum);
    }
    return [...out.values()];
  }

  async head(pieceId: string): Promise<number | null> {
    const db = await this.database();
    return (await this.answered(db.get('heads', pieceId)))?.revision ?? null;
  }

  /** Said when a piece opens and nothing waits for it. */
  async setHead(pieceId: string, revision: number): Promise<void> {
    await this.attempt(async () => {
      await this.answered((await this.database()).put('heads', { pieceId, revision }));
    });
  }

  // ── Writing ──────────────────────────────────────────────────────────────────────────────────────────────

  private nextOrder(): number {
    this.lastOrder = Math.max(this.lastOrder + 1, (this.options.now ?? Date.now)() * 1000);
    return this.lastOrder;
  }

  private later(callback: () => void, ms: number): void {
    (this.options.later ?? setTimeout)(callback, ms);
  }

  private database(): Promise<JournalDatabase> {
    const open = this.options.open ?? openJournalDatabase;
    if (!this.db) {
      this.opened = false;
      this.db = open({ closed: () => this.lost() }).then(
        (db) => {
          this.opened = true;
          return db;
        },
        (error: unknown) => {
          this.db = null;
          throw error;
        },
      );
    }
    const opening = this.db;
    return this.answered(opening).catch((error: unknown) => {
      // The next attempt opens a new connection. If this one opens later, it is closed unused.
      if (this.db === opening && !this.opened) {
        this.db = null;
        opening.then(
          (late) => late.close(),
          () => undefined,
        );
      }
      throw error;
    });
  }

  /** The database at hand has been opened. */
  private opened = false;

  private silent = false;

  /** Rejects when the storage does not answer in time. A write that completes after that is harmless: it will be written again. */
  private async answered<T>(work: Promise<T>): Promise<T> {
    const ms = (this.options.silentMs ?? SILENT_MS) * (this.silent ? STILL_SILENT_SHARE : 1);
    let timer: ReturnType<typeof setTimeout> | undefined;
    const silence = new Promise<never>((_, reject) => {
      timer = setTimeout(() => {
        this.silent = true;
        reject(new Error('this browser’s storage does not answer'));
      }, ms);
    });
    try {
      const result = await Promise.race([work, silence]);
      this.silent = false;
      return result;
    } finally {
      clearTimeout(timer);
    }
  }

  /** The database is not there any more (site data cleared, a newer version): all that is held goes into the next one. */
  private lost(): void {
    this.db = null;
    for (const held of this.held.values()) Object.assign(held, { there: false, written: 0, rows: 0 });
    if (this.held.size) this.fail(new Error('its data was cleared'));
  }

  /** When all that was asked so far is written, or could not be: before another tab looks. */
  async settled(): Promise<void> {
    await Promise.allSettled(this.inFlight);
  }

  private async attempt(write: () => Promise<void>): Promise<void> {
    const writing = write();
    this.inFlight.add(writing);
    try {
      await writing;
    } catch (error) {
      // A connection that was closed from outside says so only now.
      if ((error as Error).name === 'InvalidStateError') this.lost();
      this.fail(error);
      throw error;
    } finally {
      this.inFlight.delete(writing);
    }
    if (this.failing) await this.writeRest();
  }

  private fail(error: unknown): void {
    this.failing = reason(error);
    this.report();
    if (this.retrying) return;
    this.retrying = true;
    this.later(() => {
      this.retrying = false;
      void this.writeRest();
    }, AGAIN_MS);
  }

  /** Writes what is in memory only; one at a time. */
  private writeRest(): Promise<void> {
    this.resting ??= this.writeRestNow().finally(() => (this.resting = null));
    return this.resting;
  }

  private async writeRestNow(): Promise<void> {
    try {
      for (let next = this.owed[0]; next; next = this.owed[0]) {
        await this.answered(next());
        this.owed.shift();
      }
      for (const held of this.held.values()) if (this.behind(held)) await this.writeWhole(held, 'strict');
      this.failing = null;
      this.report();
    } catch (error) {
      this.fail(error);
    }
  }

  private behind = (held: Held): boolean => !held.there || held.written < held.samples.length;

  private report(): void {
    const unwritten = [...this.held.values()].filter(this.behind).map((h) => h.row.id);
    this.listener?.({ failing: this.failing, unwritten });
  }

  /** The entry, and all samples anew where it was not there. */
  private async writeWhole(held: Held, durability: IDBTransactionDurability): Promise<void> {
    const db = await this.database();
    // Taken or dropped in the meantime: it must not come back.
    if (!held.revived && this.held.get(held.row.id) !== held) return;
    const tx = db.transaction(['entries', 'samples'], 'readwrite', { durability });
    const work: Promise<unknown>[] = [tx.objectStore('entries').put(held.row)];
    if (!held.there) {
      Object.assign(held, { written: 0, rows: 0 });
      work.push(tx.objectStore('samples').delete(range(held.row.id)));
    }
    const part = this.nextPart(held);
    if (part) work.push(tx.objectStore('samples').put(part));
    held.there = true;
    await this.ended(held, tx, work);
  }

  private async writeSamples(held: Held): Promise<void> {
    if (!held.there) return this.writeWhole(held, 'relaxed');
    const db = await this.database();
    if (this.held.get(held.row.id) !== held) return;
    const part = this.nextPart(held);
    if (!part) return;
    const tx = db.transaction('samples', 'readwrite', { durability: 'relaxed' });
    await this.ended(held, tx, [tx.store.put(part)]);
  }

  /** Samples count as written as soon as they are on their way: the next write takes those after them. */
  private nextPart(held: Held) {
    if (held.samples.length === held.written) return null;
    const part = { id: held.row.id, n: held.rows++, samples: held.samples.slice(held.written) };
    held.written = held.samples.length;
    return part;
  }

  private async ended(held: Held, tx: { commit: () => void; done: Promise<void> }, work: Promise<unknown>[]): Promise<void> {
    try {
      // Sent off now, whatever this thread does next.
      tx.commit();
      await this.answered(Promise.all([...work, tx.done]));
    } catch (error) {
      // Whatever is on disk of it: next time all of it is written.
      held.there = false;
      throw error;
    }
  }

  private change(id: string, make: (row: EntryRow) => EntryRow): Promise<void> {
    return this.database().then((db) => this.answered(this.changeIn(db, id, make)));
  }

  private async changeIn(db: JournalDatabase, id: string, make: (row: EntryRow) => EntryRow): Promise<void> {
    const held = this.held.get(id);
    const tx = db.transaction('entries', 'readwrite', { durability: 'strict' });
    // What is gone from the disk was taken, here or in another tab: it does not come back.
    const row = (await tx.store.index('id').get(id)) ?? (held && !held.there ? held.row : undefined);
    if (row) {
      const next = make(row);
      await tx.store.put(next);
      if (held) held.row = { ...make(held.row), whole: held.row.whole };
    }
    await tx.done;
  }

  private async remove(ids: readonly string[], pieceId?: string, revision?: number): Promise<void> {
    await this.orLater(() => this.removeNow(ids, pieceId, revision));
  }

  private async orLater(work: () => Promise<void>): Promise<void> {
    try {
      await this.answered(work());
    } catch (error) {
      this.owed.push(work);
      this.fail(error);
      throw error;
    }
  }

  private async removeNow(ids: readonly string[], pieceId?: string, revision?: number): Promise<void> {
    const known = ids.map((id) => this.held.get(id)?.row.order);
    for (const id of ids) if (!this.held.delete(id)) this.gone.add(id);
    if (this.failing) this.report();
    const db = await this.database();
    const tx = db.transaction(['entries', 'heads'], 'readwrite', { durability: 'relaxed' });
    const entries = tx.objectStore('entries');
    for (const [n, id] of ids.entries()) {
      const order = known[n] ?? (await entries.index('id').getKey(id));
      if (order !== undefined) {
        await entries.delete(order);
        this.gone.delete(id);
      }
    }
    if (pieceId !== undefined) await tx.objectStore('heads').put({ pieceId, revision: revision! });
    await tx.done;
    await this.clearBlobs(ids);
    const tidy = db.transaction('samples', 'readwrite', { durability: 'relaxed' });
    for (const id of ids) await tidy.store.delete(range(id));
    await tidy.done;
  }

  private async clearBlobs(ids: readonly string[]): Promise<void> {
    const tx = (await this.database()).transaction('blobs', 'readwrite', { durability: 'relaxed' });
    for (const id of ids) await tx.store.delete(range(id));
    await tx.done;
  }
}

const range = (id: string) => IDBKeyRange.bound([id, 0], [id, Infinity]);

function reason(error: unknown): string {
  const { name, message } = error as Error;
  if (name === 'QuotaExceededError' || /quota|disk|space/i.test(message)) return 'this browser’s room is full';
  if (name === 'InvalidStateError') return 'its data was cleared';
  return message || 'this browser refuses to write';
}
