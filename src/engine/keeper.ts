/**
 * The keeping of edits. Each operation goes: packed → journal (in the browser) → server → out of the journal.
 * Operations go in order, one at a time; a server that is away is asked again until it answers.
 */
import { packOperation, rebaseOperation, type Operation } from '../core/keeping/operation';
import type { Edit } from '../core/document/edits';
import type { TileChange, TileVersion } from '../core/raster/tiles';
import type { Journal, JournalEntry } from './journal';
import type { KeptState } from './protocol';
import { Refused, Unreachable, type Remote } from './remote';
import { encodeTile } from './tileCodec';

export type Keepable =
  { kind: 'edit'; edit: Edit; label: string; changes: readonly TileChange[] } | { kind: 'undo' } | { kind: 'redo' };

export interface KeeperOptions {
  pieceId: string;
  revision: number;
  remote: Remote;
  journal: Journal;
  newId: () => string;
  report: (kept: KeptState) => void;
  notice: (message: string) => void;
  /** Milliseconds between tries while the server is away. */
  retryMs?: number;
}

export class Keeper {
  private revision: number;
  private packing: Promise<void> = Promise.resolve();
  private packingCount = 0;
  private queue: JournalEntry[] = [];
  private sending = false;
  private state: KeptState['state'] = 'kept';
  private wake: (() => void) | null = null;
  /** Hashes that the server surely has: not sent again. */
  private known = new Set<string>();

  constructor(private options: KeeperOptions) {
    this.revision = options.revision;
  }

  /** Takes over an operation. Returns at once; pixels must not be changed any more. */
  keep(what: Keepable): void {
    this.packingCount++;
    this.state = this.state === 'kept' ? 'keeping' : this.state;
    this.report();
    this.packing = this.packing
      .then(() => this.pack(what))
      .catch((error) => this.options.notice(`A change could not be put into the journal: ${(error as Error).message}`))
      .finally(() => this.packingCount--)
      // Sending is not waited for: while the server is away, the next change must still reach the journal.
      .then(() => void this.pump());
  }

  rememberKnown(hash: string): void {
    this.known.add(hash);
  }

  /** Everything shown so far is on the server (or, in a conflict, waiting). */
  async settled(): Promise<void> {
    await this.packing;
    while (this.sending) await new Promise((resolve) => setTimeout(resolve, 5));
  }

  retryNow(): void {
    this.wake?.();
  }

  private async pack(what: Keepable): Promise<void> {
    const id = this.options.newId();
    const baseRevision = this.revision++;
    let bytes: Uint8Array<ArrayBuffer>;
    if (what.kind === 'edit') {
      const blobs = new Map<string, Uint8Array>();
      for (const { after } of what.changes) if (after) await this.encode(after, blobs);
      const operation: Operation = {
        kind: 'edit',
        id,
        baseRevision,
        label: what.label.slice(0, 300),
        edit: what.edit,
        tiles: what.changes.map((c) => [c.plane, c.tile, c.before?.hash ?? null, c.after?.hash ?? null]),
        blobs: [...blobs].map(([hash, blob]) => ({ hash, length: blob.length })),
      };
      bytes = packOperation(operation, blobs);
    } else bytes = packOperation({ kind: what.kind, id, baseRevision }, new Map());
    const entry = { id, bytes };
    await this.options.journal.add(this.options.pieceId, entry);
    this.queue.push(entry);
  }

  private async encode(version: TileVersion, blobs: Map<string, Uint8Array>): Promise<void> {
    if (version.hash && this.known.has(version.hash)) return;
    const { hash, blob } = await encodeTile(version.data!);
    version.hash = hash;
    if (!this.known.has(hash)) blobs.set(hash, blob);
    this.known.add(hash);
  }

  private async pump(): Promise<void> {
    if (this.sending || this.state === 'conflict') return this.report();
    this.sending = true;
    try {
      while (this.queue.length > 0) {
        const next = this.queue[0];
        try {
          await this.options.remote.commit(this.options.pieceId, next.bytes);
        } catch (error) {
          if (error instanceof Unreachable) {
            this.state = 'offline';
            this.report();
            await this.pause();
            continue;
          }
          if (!(error instanceof Refused)) throw error;
          if (error.status !== 409) this.options.notice(error.message);
          this.state = 'conflict';
          return;
        }
        await this.options.journal.remove(this.options.pieceId, next.id);
        this.queue.shift();
        this.state = 'keeping';
        this.report();
      }
      this.state = 'kept';
    } finally {
      this.sending = false;
      this.report();
    }
  }

  private pause(): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, this.options.retryMs ?? 2000);
      this.wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  private report(): void {
    const waiting = this.queue.length + this.packingCount;
    const state = this.state === 'kept' && waiting > 0 ? 'keeping' : this.state;
    this.options.report({ state, waiting });
  }
}

/** Sends what a crash left in the journal. Answers what stood in the way, if anything did. */
export async function sendJournal(pieceId: string, journal: Journal, remote: Remote): Promise<'clear' | 'conflict'> {
  for (const entry of await journal.list(pieceId)) {
    try {
      await remote.commit(pieceId, entry.bytes);
    } catch (error) {
      if (error instanceof Refused) return 'conflict';
      throw error;
    }
    await journal.remove(pieceId, entry.id);
  }
  return 'clear';
}

/**
 * Lays waiting operations on a copy of the piece as it is on the server. What no longer fits there (a stroke
 * on a layer that is gone) is counted as left.
 */
export async function moveJournalToCopy(
  pieceId: string,
  journal: Journal,
  remote: Remote,
  newId: () => string,
): Promise<{ id: string; moved: number; left: number }> {
  const copy = await remote.duplicate(pieceId);
  let { revision } = copy;
  let moved = 0;
  let left = 0;
  for (const entry of await journal.list(pieceId)) {
    try {
      ({ revision } = await remote.commit(copy.id, rebaseOperation(entry.bytes, revision, newId())));
      moved++;
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      left++;
    }
  }
  for (const entry of await journal.list(pieceId)) await journal.remove(pieceId, entry.id);
  return { id: copy.id, moved, left };
}
