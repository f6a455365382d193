/**
 * The engine's side of keeping: which entries are carried out and not yet taken, what a crash or another tab left in the
 * journal, what becomes of refusals and conflicts. It runs by core/keeping/protocol.ts.
 */
import type { Edit } from '../../core/document/edits';
import type { ChangeRecord, Entry } from '../../core/keeping/entry';
import type { Operation } from '../../core/keeping/operation';
import type { TileChange } from '../../core/tile/tiles';
import { packOperation } from '../../core/keeping/operation';
import { inParts } from '../../core/keeping/parts';
import { KEEPING, pauseMs } from '../../core/keeping/protocol';
import type { Recorded } from './journal/journal';
import { Keeper, type Keepable, type KeeperJournal, type KeeperState } from './keeper';
import type { InOrder } from '../inOrder';
import type { Lease } from './lease';
import type { Event, NamedEntry } from '../protocol';
import { ServerAnswer, type OpenedPiece, type Remote } from '../remote';
import type { PackTiles } from '../tiles/tilePool';

/** What is asked of the journal beside what the keeper writes. */
export interface CustodyJournal extends KeeperJournal {
  list(pieceId: string): Promise<Recorded[]>;
  head(pieceId: string): Promise<number | null>;
  setHead(pieceId: string, revision: number): Promise<void>;
  aside(id: string, why: string): Promise<void>;
  again(id: string): Promise<void>;
  drop(ids: readonly string[]): Promise<void>;
  move(ids: readonly string[], pieceId: string, revision: number): Promise<void>;
  settled(): Promise<void>;
}

/** What custody has done to the open piece. */
export interface Custodian {
  /** Ends a stroke that is under the pen. */
  finishStroke(): void;
  /** Pixels of a state of the piece, ahead of `renew`. */
  prefetch(opened: OpenedPiece): Promise<void>;
  /** The piece as the server has it takes the place of the one at hand. */
  renew(opened: OpenedPiece): Promise<void>;
  /** Carries an entry out once more, upon what is there now. Says why that cannot be. */
  carryOutAgain(change: ChangeRecord): Promise<string | null>;
  /** What turns another state of the piece into the one at hand. */
  against(opened: OpenedPiece): { edit: Edit; label: string; changes: TileChange[] };
  /** After a renewal: the page is told all of it. */
  renewed(): void;
  named(name: string): void;
}

export interface CustodyOptions {
  remote: Remote;
  journal: CustodyJournal;
  lease?: Lease;
  pack: PackTiles;
  /** Requests of the page: custody changes the piece between two of them. */
  requests: InOrder;
  post: (event: Event) => void;
  retryMs?: number;
}

export class Custody {
  private pieceId = '';
  private client = '';
  private keeper: Keeper | null = null;
  /** Carried out, and not taken by the server yet; in order. */
  private waiting = new Map<string, ChangeRecord>();
  private asides: NamedEntry[] = [];
  private conflicted: Recorded[] | null = null;
  private state: KeeperState = 'kept';
  private why: string | null = null;
  private handedOver = false;
  private reached = 0;
  private wake: (() => void) | null = null;
  /** The server has all there is. */
  get allKept(): boolean {
    return this.state === 'kept' && this.waiting.size === 0;
  }

  private under: Promise<void> = Promise.resolve();

  /** Set before a piece is opened. */
  engine!: Custodian;

  constructor(private options: CustodyOptions) {}

  // ── Opening ──────────────────────────────────────────────────────────────────────────────────────────────

  /**
   * The piece as the server has it once everything that was packed is there; null where it cannot be opened now, which
   * the page has been told. `leftOver`: entries that are to be carried out again.
   */
  async open(pieceId: string, client: string, takeOver: boolean): Promise<{ opened: OpenedPiece; leftOver: Recorded[] } | null> {
    const { remote, journal, lease, post } = this.options;
    this.pieceId = pieceId;
    this.client = client;
    if ((await lease?.take(pieceId, () => this.letGo(), takeOver)) === 'busy') {
      post({ type: 'taken-elsewhere' });
      return null;
    }
    const all = await journal.list(pieceId);
    this.asides = all.filter((e) => e.aside).map((e) => this.name(e));
    let entries = all.filter((e) => !e.aside && e.client !== client);
    let head = await journal.head(pieceId).catch(() => null);
    if (entries.length) {
      const done = new Map(
        await remote.done(
          pieceId,
          entries.map((e) => e.id),
        ),
      );
      for (const [id, revision] of done) await this.taken(id, (head = Math.max(head ?? 0, revision)));
      entries = entries.filter((e) => !done.has(e.id));
      const sent = await this.sendPacked(entries, head);
      if (sent.conflict) return this.conflictAt(entries.slice(sent.count));
      if (sent.count) head = sent.head;
      entries = entries.slice(sent.count);
    }
    const opened = await remote.open(pieceId);
    const setBack = head !== null && head > opened.revision;
    if (entries.length && head !== null && head < opened.revision) return this.conflictAt(entries);
    if (setBack)
      post({
        type: 'notice',
        message: `The server was set back to an older state since this browser was here: ${
          entries.length ? 'what waited in this browser is carried out upon that' : 'what it had kept since then is lost there'
        }.`,
      });
    if (!entries.length) await journal.setHead(pieceId, opened.revision).catch(() => undefined);
    const others = new Set(entries.map((e) => e.client)).size;
    if (entries.length)
      post({
        type: 'notice',
        message: `${count(entries.length)} that ${others > 1 ? 'other tabs' : 'another tab or an earlier visit'} left in this browser ${entries.length === 1 ? 'is' : 'are'} part of the piece again.`,
      });
    return { opened, leftOver: entries };
  }

  /** Entries at the front that lie there packed. The rest, from the first that is recorded only, is carried out again. */
  private async sendPacked(entries: readonly Recorded[], head: number | null) {
    const { remote, journal } = this.options;
    let sent = 0;
    for (const { id, packed } of entries) {
      if (!packed || head === null) break;
      const blobs = await journal.blobs(id);
      try {
        for (const part of inParts(blobs, KEEPING.partBytes)) await remote.putBlobs(part.map(([, blob]) => blob));
        const operation = { ...packed, baseRevision: head } as Operation;
        ({ revision: head } = await remote.commit(this.pieceId, packOperation(operation, new Map())));
      } catch (error) {
        if (!(error instanceof ServerAnswer) || error.answer === 'gone') throw error;
        // The server answered with an error: the piece opens all the same. The keeper retries the operation, and sets it aside if need be.
        if (error.answer === 'again' && error.more.status === undefined) throw error;
        const setBack = error.more.revision !== undefined && error.more.revision < head;
        if (setBack) return { count: sent, head, conflict: false };
        // What is refused is tried once more from its recording; that says why, and what hangs on it.
        return { count: sent, head, conflict: error.answer === 'conflict' };
      }
      await this.taken(id, head);
      sent++;
    }
    return { count: sent, head, conflict: false };
  }

  /** A journal that cannot write it now does so later; the piece opens all the same. */
  private taken(id: string, revision: number): Promise<void> {
    return this.options.journal.taken(id, this.pieceId, revision).catch(() => undefined);
  }

  private conflictAt(entries: Recorded[]): null {
    this.conflicted = entries;
    this.state = 'conflict';
    this.report(entries.length);
    return null;
  }

  /** From now on what is done is kept. */
  begin(opened: OpenedPiece): void {
    const { remote, journal, pack, retryMs, post } = this.options;
    this.keeper = new Keeper({
      pieceId: this.pieceId,
      opened,
      remote,
      journal,
      pack,
      retryMs,
      report: (state, waiting, why) => {
        this.state = state;
        this.why = why;
        this.report(waiting);
      },
      taken: (id, name) => {
        this.waiting.delete(id);
        if (id === this.givenBack?.id) void this.wasGivenBack();
        if (name !== undefined) this.engine.named(name);
      },
      refused: (id, why) => {
        this.under = this.refused(id, why).catch((error: unknown) => post({ type: 'notice', message: (error as Error).message }));
      },
    });
    for (const [, , hash] of opened.tiles) this.keeper.rememberKnown(hash);
    this.report(0);
  }

  async carryOutAgain(entries: readonly Recorded[]): Promise<void> {
    for (const [n, entry] of entries.entries()) {
      this.options.post({ type: 'opening', what: 'Painting again what was not kept', done: n, total: entries.length });
      const why = await this.engine.carryOutAgain(entry);
      if (why) await this.setAside(entry, why);
    }
  }

  // ── At work ──────────────────────────────────────────────────────────────────────────────────────────────

  keep(entry: ChangeRecord, what: Keepable): void {
    if (this.handedOver) return;
    this.waiting.set(entry.id, what.kind === 'edit' ? entry : { ...entry, step: what.step });
    this.keeper!.keep(entry.id, what);
  }

  /** It was asked for and changed nothing. */
  nothing(id: string): void {
    void this.options.journal.drop([id]).catch(() => undefined);
  }

  /** A change of the page has been carried out, or came to nothing. */
  cameTo(): void {
    this.reached++;
    this.report();
  }

  rememberKnown(hash: string): void {
    this.keeper?.rememberKnown(hash);
  }

  retry(): void {
    this.wake?.();
    this.keeper?.retryNow();
  }

  async settled(): Promise<void> {
    for (let under: Promise<void> | null = null; under !== this.under;) {
      await this.keeper?.settled();
      under = this.under;
      await under;
      await this.keeper?.settled();
    }
  }

  /** Refused for good: it goes aside, and the piece is as if it had never been asked for. */
  private async refused(id: string, why: string): Promise<void> {
    const entry = this.waiting.get(id);
    if (entry) await this.setAside(entry, why);
    // Until it works: the server may be away again, or the piece deleted by now and brought back later.
    for (let tries = 1; !this.handedOver; tries++)
      try {
        const opened = await this.options.remote.open(this.pieceId);
        await this.engine.prefetch(opened);
        return await this.inTurn(() => this.takeOut(opened));
      } catch (error) {
        if (error instanceof ServerAnswer && error.answer === 'gone') {
          this.state = 'gone';
          this.report();
        }
        await this.pause(tries);
      }
  }

  /** After what the engine does now, and before what is asked next. */
  private inTurn(work: () => Promise<void>): Promise<void> {
    return this.options.requests.add(work);
  }

  private pause(tries: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, pauseMs(tries, this.options.retryMs));
      this.wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }

  /** The piece as the server has it, and upon it everything that waits. If it does not work out, all of it waits on. */
  private async takeOut(opened: OpenedPiece): Promise<void> {
    this.engine.finishStroke();
    const before = new Map(this.waiting);
    this.waiting.clear();
    try {
      await this.engine.renew(opened);
      this.keeper!.restart(opened);
      for (const next of before.values()) {
        const cannot = await this.engine.carryOutAgain(next);
        if (cannot) await this.setAside(next, `It hangs on what was refused: ${cannot}`);
        before.delete(next.id);
      }
    } catch (error) {
      this.keeper!.rest();
      this.waiting = new Map([...this.waiting, ...before]);
      throw error;
    }
    this.state = 'keeping';
    this.engine.renewed();
    this.keeper!.begin();
  }

  async setAside(entry: ChangeRecord, why: string): Promise<void> {
    this.waiting.delete(entry.id);
    this.asides.push({ ...this.name(entry), why });
    await this.options.journal.aside(entry.id, why).catch(() => undefined);
    this.report();
    this.options.post({ type: 'notice', message: `"${entry.label}" could not be kept and was set aside: ${why}` });
  }

  // ── What the artist decides ──────────────────────────────────────────────────────────────────────────────

  async asideAction(id: string, action: 'again' | 'drop'): Promise<void> {
    const { journal } = this.options;
    const entry = (await journal.list(this.pieceId)).find((e) => e.id === id && e.aside);
    if (!entry) return;
    if (action === 'drop') await journal.drop([id]);
    else {
      await journal.again(id);
      const why = await this.engine.carryOutAgain({ ...entry, step: null });
      if (why) {
        await journal.aside(id, why);
        return this.options.post({ type: 'notice', message: `"${entry.label}" cannot be carried out here: ${why}` });
      }
      this.engine.renewed();
    }
    this.asides = this.asides.filter((e) => e.id !== id);
    this.report();
  }

  async resolveConflict(choice: { choice: 'copy' | 'give-back' } | { choice: 'drop'; ids: string[] }): Promise<void> {
    const { remote, journal, post } = this.options;
    if (choice.choice === 'give-back') return this.giveBack();
    const mine = this.conflicted ?? [...this.waiting.values()];
    if (choice.choice === 'drop') {
      await journal.drop(choice.ids);
      return post({ type: 'goto', pieceId: this.pieceId });
    }
    // What the server has taken after all is in the copy already.
    const ids = mine.map((e) => e.id);
    const done = new Set((await remote.done(this.pieceId, ids)).map(([id]) => id));
    const copy = await remote.duplicate(this.pieceId);
    if (done.size) await journal.drop([...done]);
    await journal.move(
      ids.filter((id) => !done.has(id)),
      copy.id,
      copy.revision,
    );
    post({ type: 'goto', pieceId: copy.id });
  }

  /** What was given back as one operation, and the entries that are in it. */
  private givenBack: { id: string; entries: string[] } | null = null;

  /**
   * To a server that was set back: operation by operation as far as this page knows them, else all that differs as one. Then the trails of
   * page and server are not alike any more, and the piece is opened anew.
   */
  private async giveBack(): Promise<void> {
    if (this.keeper!.giveBack()) return;
    const opened = await this.options.remote.open(this.pieceId);
    const what = this.engine.against(opened);
    const id = `back-${this.client}-${opened.revision}`.slice(0, 60);
    this.givenBack = { id, entries: [...this.waiting.keys()] };
    this.keeper!.restart(opened);
    this.keeper!.keep(id, { kind: 'edit', stroke: null, ...what });
    this.keeper!.begin();
  }

  private async wasGivenBack(): Promise<void> {
    await this.options.journal.drop(this.givenBack!.entries).catch(() => undefined);
    this.givenBack = null;
    this.options.post({ type: 'goto', pieceId: this.pieceId });
  }

  async restore(): Promise<void> {
    await this.options.remote.restore(this.pieceId);
    this.retry();
  }

  /** Another tab asks for the piece: what is under way is ended, and nothing is sent any more. */
  private letGo(): Promise<void> {
    return this.inTurn(async () => {
      if (this.handedOver) return;
      this.engine.finishStroke();
      this.handedOver = true;
      await this.keeper?.stop();
      // What was asked for in the last moments must be found there.
      await this.options.journal.settled().catch(() => undefined);
      this.options.post({ type: 'handed-over' });
    });
  }

  // ── Saying ───────────────────────────────────────────────────────────────────────────────────────────────

  private name = (e: ChangeRecord & { aside?: Entry['aside'] }): NamedEntry => ({
    id: e.id,
    label: e.label,
    at: e.at,
    own: e.client === this.client,
    why: e.aside?.why ?? null,
  });

  private report(waiting = this.keeper?.waiting ?? this.conflicted?.length ?? 0): void {
    if (this.handedOver) return;
    const state = this.state === 'refused' || this.state === 'stopped' ? 'keeping' : this.state;
    const listed =
      state === 'conflict' || state === 'behind' || state === 'gone' ? (this.conflicted ?? [...this.waiting.values()]) : null;
    this.options.post({
      type: 'kept',
      kept: {
        ...{ state, waiting, why: this.why, lost: this.keeper?.lost ?? 0, forGood: this.keeper?.goneForGood ?? false },
        ...{ entries: listed?.map(this.name), aside: [...this.asides], reached: this.reached },
      },
    });
  }
}

const count = (n: number) => `${n} change${n === 1 ? '' : 's'}`;
