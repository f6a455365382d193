/**
 * The keeper sends what was carried out to the server: in order, one at a time, until the server has said yes. It runs
 * by core/keeping/protocol.ts: a revision is counted and a tile is known only once the server said so.
 */
import { packOperation, type Operation, type StrokeRecord } from '../../core/keeping/operation';
import { inParts } from '../../core/keeping/parts';
import { KEEPING, pauseMs } from '../../core/keeping/protocol';
import type { TileRow } from '../../core/keeping/rules';
import type { Edit } from '../../core/document/edits';
import type { TileChange, TileVersion } from '../../core/tile/tiles';
import { NOT_OURS, ServerAnswer, unreachable, type OpenedPiece, type Remote, type Taken } from '../remote';
import { SentOperations, type Waiting } from './sentOperations';
import type { PackTiles } from '../tiles/tilePool';

export type Keepable =
  | { kind: 'edit'; edit: Edit; label: string; changes: readonly TileChange[]; stroke: StrokeRecord | null }
  | { kind: 'undo' | 'redo'; step: string };

/** The parts of the journal that the keeper writes. */
export interface KeeperJournal {
  packed(id: string, operation: Operation, blobs: [string, Uint8Array][]): Promise<void>;
  blobs(id: string): Promise<[string, Uint8Array][]>;
  taken(id: string, pieceId: string, revision: number): Promise<void>;
  note(id: string, step: string): Promise<void>;
}

/** `behind`: the server was set back to a revision that it had left. */
export type KeeperState = 'kept' | 'keeping' | 'offline' | 'conflict' | 'behind' | 'gone' | 'refused' | 'stopped';

export interface KeeperOptions {
  pieceId: string;
  /** As the piece was opened. */
  opened: Pick<OpenedPiece, 'server' | 'revision' | 'recent'>;
  remote: Remote;
  journal: KeeperJournal;
  pack: PackTiles;
  /** `why`: of what does not pass just now. */
  report: (state: KeeperState, waiting: number, why: string | null) => void;
  taken: (id: string, name?: string) => void;
  /** It can never be taken. The keeper rests until `restart`. */
  refused: (id: string, why: string) => void;
  /** Milliseconds before the first repetition. */
  retryMs?: number;
}

const RESTING: ReadonlySet<KeeperState> = new Set(['conflict', 'behind', 'gone', 'refused', 'stopped']);

export class Keeper {
  private revision: number;
  private packing: Promise<void> = Promise.resolve();
  private packingCount = 0;
  private queue: Waiting[] = [];
  private sending: Promise<void> | null = null;
  private state: KeeperState = 'kept';
  private tries = 0;
  private wake: (() => void) | null = null;
  /** Tiles that the server has, and tiles that an operation before brings. */
  private known = new Set<string>();
  private coming = new Set<string>();
  /** Of a generation before a restart: not put into the queue any more. */
  private generation = 0;

  /** Which operation made which revision, as far as this page knows. */
  private made: Map<number, string>;
  private server: string;
  /** What the server has taken from this page: what could be given back to it. */
  private readonly sent = new SentOperations();
  private why: string | null = null;
  /** Where the server stands that was set back. */
  private setBackTo: number | null = null;

  constructor(private options: KeeperOptions) {
    this.revision = options.opened.revision;
    this.server = options.opened.server;
    this.made = new Map(options.opened.recent);
  }

  /** The piece was deleted, and cannot be brought back. */
  goneForGood = false;

  /** How many kept revisions the server has lost. */
  get lost(): number {
    return this.setBackTo === null ? 0 : this.revision - this.setBackTo;
  }

  /** Gives back what the server has lost, operation by operation. false: not all of them are known here. */
  giveBack(): boolean {
    if (this.state !== 'behind' || this.setBackTo === null) return false;
    const lost = this.sent.after(this.setBackTo, this.revision);
    if (!lost) return false;
    // Their tiles may be lost too: the server names those that it lacks, and they are packed again.
    this.queue.unshift(...lost);
    this.revision = this.setBackTo;
    this.setBackTo = null;
    this.begin();
    return true;
  }

  get waiting(): number {
    return this.queue.length + this.packingCount;
  }

  /** Takes over an operation. Returns at once; pixels must not be changed any more. */
  keep(id: string, what: Keepable): void {
    this.packingCount++;
    if (this.state === 'kept') this.state = 'keeping';
    this.report();
    const { generation } = this;
    this.packing = this.packing
      .then(async () => {
        if (generation !== this.generation) return;
        const waiting = await this.pack(id, what);
        if (generation === this.generation) this.queue.push(waiting);
      })
      .finally(() => {
        if (generation === this.generation) this.packingCount--;
      })
      // Sending is not waited for: while the server is away, the next change must still be packed.
      .then(() => this.pump());
  }

  rememberKnown(hash: string): void {
    this.known.add(hash);
  }

  retryNow(): void {
    this.tries = 0;
    this.wake?.();
    if (this.state === 'gone') this.state = 'keeping';
    this.pump();
  }

  /** After a restart: what waits is complete. */
  begin(): void {
    this.state = 'keeping';
    this.pump();
  }

  /** Ends after what is being sent now. What is not packed yet is recorded. */
  async stop(): Promise<void> {
    this.state = 'stopped';
    this.wake?.();
    await this.sending;
  }

  /** On a new footing: what waited is kept anew by whoever carries it out again. */
  restart({ server, revision, recent }: KeeperOptions['opened']): void {
    this.generation++;
    Object.assign(this, { server, revision, made: new Map(recent), queue: [], packingCount: 0, tries: 0, setBackTo: null });
    // Begins to send when told to: until all that waited is here again.
    this.state = 'refused';
    this.coming.clear();
  }

  /** Sends nothing until the next restart: what it stands on is not sure. */
  rest(): void {
    this.state = 'refused';
  }

  /** For tests: everything so far is on the server, or cannot go there. */
  async settled(): Promise<void> {
    do {
      await this.packing;
      await this.sending;
      await new Promise((resolve) => setTimeout(resolve, 1));
    } while (this.sending || this.packingCount > 0);
  }

  // ── Packing ──────────────────────────────────────────────────────────────────────────────────────────────

  private async pack(id: string, what: Keepable): Promise<Waiting> {
    if (what.kind !== 'edit') {
      const operation: Operation = { kind: what.kind, id, baseRevision: 0, step: what.step };
      await this.options.journal.note(id, what.step).catch(() => undefined);
      return { id, operation, blobs: new Map(), versions: new Map() };
    }
    const versions = new Map<string, TileVersion>();
    const fresh = [...new Set(what.changes.flatMap((c) => (c.after && !this.isHere(c.after.hash) ? [c.after] : [])))];
    const blobs = new Map<string, Uint8Array>();
    const packed = await this.options.pack(fresh.map((v) => v.data!));
    packed.forEach(({ hash, blob }, n) => {
      fresh[n].hash = hash;
      if (!this.isHere(hash)) blobs.set(hash, blob);
    });
    for (const hash of blobs.keys()) this.coming.add(hash);
    for (const { after } of what.changes) if (after) versions.set(after.hash!, after);
    const operation: Operation = {
      kind: 'edit',
      id,
      baseRevision: 0,
      label: what.label.slice(0, 300),
      edit: what.edit,
      tiles: what.changes.map((c): TileRow => [c.plane, c.tile, c.before?.hash ?? null, c.after?.hash ?? null]),
      blobs: [],
      stroke: what.stroke,
    };
    const waiting: Waiting = { id, operation, blobs, versions };
    // Not waited for: the recording is safe already. Once the tiles are in the journal they leave this memory.
    void this.options.journal.packed(id, operation, [...blobs]).then(
      () => void (waiting.blobs = null),
      () => undefined,
    );
    return waiting;
  }

  private isHere = (hash: string | null): boolean => hash !== null && (this.known.has(hash) || this.coming.has(hash));

  // ── Sending ──────────────────────────────────────────────────────────────────────────────────────────────

  private get resting(): boolean {
    return RESTING.has(this.state);
  }

  private pump(): void {
    if (this.sending || this.resting) return this.report();
    this.sending = this.sendAll().finally(() => {
      this.sending = null;
      // Something may have come while the last answer was written down.
      if (this.queue.length > 0 && !this.resting) this.pump();
      else this.report();
    });
  }

  private async sendAll(): Promise<void> {
    while (this.queue.length > 0 && !this.resting) {
      const next = this.queue[0];
      const { generation } = this;
      try {
        const { revision, name } = this.heard(next, await this.send(next));
        if (generation !== this.generation) return;
        this.revision = revision;
        this.made.set(revision, next.id);
        this.sent.add(revision, next);
        this.queue.shift();
        this.tries = 0;
        this.failures = null;
        if (!this.resting) this.state = 'keeping';
        // A journal that cannot write this only offers it once more: the server knows its id.
        await this.options.journal.taken(next.id, this.options.pieceId, revision).catch(() => undefined);
        this.options.taken(next.id, name);
        this.report();
      } catch (error) {
        if (generation !== this.generation) return;
        await this.answered(next, error instanceof ServerAnswer ? error : unreachable((error as Error).message));
      }
    }
    if (this.queue.length === 0 && !this.resting) this.state = 'kept';
  }

  /** Only an answer that names this server and this operation is a yes. */
  private heard(next: Waiting, taken: Taken): Taken {
    const { server, operation, revision } = taken;
    if (server !== this.server || operation !== next.id || !Number.isInteger(revision) || revision < 1)
      throw unreachable(NOT_OURS);
    return taken;
  }

  private async answered(next: Waiting, answered: ServerAnswer): Promise<void> {
    const { answer, message, more } = answered;
    if (this.state === 'stopped') return;
    if (answer === 'again') {
      this.state = 'offline';
      this.why = message;
      this.report();
      if (await this.failsAlone(next, answered)) {
        this.state = 'refused';
        const times = `${KEEPING.mostFailures} times`;
        return this.options.refused(next.id, `The server failed over it ${times} while others pass (${message})`);
      }
      return this.pause();
    }
    this.state = answer === 'conflict' && this.isBehind(more) ? 'behind' : answer;
    this.goneForGood = answer === 'gone' && !more.deleted;
    this.report();
    if (answer === 'refused') this.options.refused(next.id, message);
  }

  private failures: { id: string; status: number; count: number } | null = null;

  /** This operation keeps failing with the same server error although the server can write. */
  private async failsAlone({ id }: Waiting, { more: { status } }: ServerAnswer): Promise<boolean> {
    if (status === undefined || status < 500) return false;
    const same = this.failures?.id === id && this.failures.status === status;
    this.failures = { id, status, count: same ? this.failures!.count + 1 : 1 };
    if (this.failures.count < KEEPING.mostFailures) return false;
    const { state } = this;
    return this.options.remote.tryToWrite().then(
      () => this.state === state,
      () => false,
    );
  }

  /** The server stands at an earlier revision that this page knows: the same operation made it. */
  private isBehind({ server, revision, last }: ServerAnswer['more']): boolean {
    if (server !== this.server || revision === undefined || revision >= this.revision) return false;
    if ((this.made.get(revision) ?? null) !== (last ?? null)) return false;
    this.setBackTo = revision;
    return true;
  }

  private async send(next: Waiting): Promise<Taken> {
    let blobs = next.blobs ?? (await this.blobsOf(next));
    for (let tries = 0; ; tries++) {
      try {
        return await this.commit(next, blobs);
      } catch (error) {
        const missing = error instanceof ServerAnswer ? error.more.missing : undefined;
        if (!missing?.length || tries > 0) throw error;
        blobs = await this.packedAgain(next, missing);
      }
    }
  }

  /** From the journal; if that fails, packed again from the pixels. */
  private blobsOf(next: Waiting): Promise<Map<string, Uint8Array>> {
    return this.options.journal.blobs(next.id).then(
      (blobs) => new Map(blobs),
      () => this.packedAgain(next, [...next.versions.keys()]),
    );
  }

  private async commit(next: Waiting, blobs: ReadonlyMap<string, Uint8Array>): Promise<Taken> {
    const { remote, pieceId } = this.options;
    let inline = [...blobs].filter(([hash]) => !this.known.has(hash));
    const parts = [...inParts(inline, KEEPING.partBytes)];
    if (parts.length > 1) {
      for (const part of parts) {
        await remote.putBlobs(part.map(([, blob]) => blob));
        for (const [hash] of part) this.learn(hash);
      }
      inline = [];
    }
    const operation = { ...next.operation, baseRevision: this.revision, after: this.made.get(this.revision) ?? null };
    if (operation.kind === 'edit') operation.blobs = inline.map(([hash, blob]) => ({ hash, length: blob.length }));
    const answer = await remote.commit(pieceId, packOperation(operation, new Map(inline)));
    for (const [hash] of inline) this.learn(hash);
    return answer;
  }

  private learn(hash: string): void {
    this.known.add(hash);
    this.coming.delete(hash);
  }

  /** Tiles that the server was thought to have, and has not: collected there, or never come. */
  private async packedAgain(next: Waiting, missing: readonly string[]): Promise<Map<string, Uint8Array>> {
    for (const hash of missing) this.known.delete(hash);
    const versions = missing.flatMap((hash) => {
      const version = next.versions.get(hash);
      return version?.data ? [version] : [];
    });
    const packed = await this.options.pack(versions.map((v) => v.data!));
    return new Map(packed.map(({ hash, blob }) => [hash, blob]));
  }

  private pause(): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, pauseMs(++this.tries, this.options.retryMs));
      this.wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  private report(): void {
    const { waiting } = this;
    const why = this.state === 'offline' ? this.why : null;
    this.options.report(this.state === 'kept' && waiting > 0 ? 'keeping' : this.state, waiting, why);
  }
}
