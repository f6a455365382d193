/**
 * The page's end of the engine and of the journal: starts the workers, sends requests by way of the desk, hands out
 * events, notices when a worker dies.
 */
import { proxy, transfer, wrap, type Remote as Far } from 'comlink';
import type { Piece } from '../core/document/schema';
import { Calls } from './calls';
import { Desk } from './keeping/desk';
import type { JournalState, Recorded } from './keeping/journal/journal';
import type { JournalDoor } from './keeping/journal/journal.worker';
import type { Answers, Event, PageRequest, Question, Request, TriesPort } from './protocol';
import { onUpdate } from './updates';
import { Signal } from './signal';
import { rescued, storeRescue, type Rescue } from './keeping/rescue';

/** One journal a page, whatever piece is open: what it could not write yet must outlive a change of pieces. */
let theJournal: { door: Far<JournalDoor>; told: Signal<JournalState>; failed: Signal } | null = null;

export function pageJournal() {
  if (theJournal) return theJournal;
  const worker = new Worker(new URL('./keeping/journal/journal.worker.ts', import.meta.url), { type: 'module' });
  const door = wrap<JournalDoor>(worker);
  const journal = { door, told: new Signal<JournalState>(), failed: new Signal() };
  worker.onerror = worker.onmessageerror = () => journal.failed.tell();
  void door.listen(proxy((state: JournalState) => journal.told.tell(state)));
  return (theJournal = journal);
}

const startEngine = (): Worker => new Worker(new URL('./engine.worker.ts', import.meta.url), { type: 'module' });

/** On a piece's own page its workers load while the page itself does. */
const isBench = typeof location !== 'undefined' && /^\/pieces\/[^/]+\/?$/.test(location.pathname);
let early = isBench ? startEngine() : null;
// One that could not be loaded is no use to anybody: another is begun when a piece is opened.
if (early) early.onerror = () => (early = null);
if (isBench) pageJournal();

/** A file that the engine made. `warning`: what is not in it, though it should be. */
export interface Delivered {
  bytes: Uint8Array<ArrayBuffer>;
  name: string;
  warning: string | null;
}

/** What the engine says unasked. */
export type Told = Exclude<Event, { type: 'answer' | 'no-answer' | 'job-done' | 'job-failed' }>;

export interface ClientEvents {
  onEvent: (event: Told) => void;
  /** What is not on disk yet, and why not where writing fails. */
  onJournal: (state: { pending: number; asked: number; failing: string | null }) => void;
  document: () => Piece | null;
}

export class EngineClient {
  private worker: Worker;
  private desk: Desk;
  private calls = new Calls();
  private journal = pageJournal();
  private failing: string | null = null;
  private opened = false;
  private ended: (() => void)[] = [];

  constructor(
    private pieceId: string,
    private events: ClientEvents,
  ) {
    const { door } = this.journal;
    this.worker = early ?? startEngine();
    early = null;
    const { port1, port2 } = new MessageChannel();
    void door.connect(transfer(port1, [port1]));
    // The first message of the engine carries its end.
    this.worker.postMessage(port2, [port2]);
    this.desk = new Desk({
      pieceId,
      client: crypto.randomUUID().slice(0, 13),
      journal: {
        begin: (entry, samples) => door.begin(entry, samples),
        add: (id, samples) => void door.add(id, samples),
        finish: async (id, samples) => this.measured(await door.finishAt(id, samples)),
        drop: (ids) => door.drop(ids),
      },
      post: (request) => this.worker.postMessage(request),
      newId: () => crypto.randomUUID(),
      newSeed: () => crypto.getRandomValues(new Uint32Array(1))[0] >>> 1,
      now: () => Date.now(),
      document: events.document,
      report: (state) => events.onJournal({ ...state, failing: this.failing }),
    });
    this.worker.onmessage = (message: MessageEvent<Event>) => this.take(message.data);
    this.worker.onerror = (error) => this.die(error.message || 'unknown cause');
    this.worker.onmessageerror = () => this.die('a message could not be read');
    this.watch();
  }

  private watch(): void {
    const { told, failed } = this.journal;
    const listen = (state: JournalState) => {
      this.failing = state.failing;
      this.desk.journalSays(state);
    };
    const broken = () => {
      this.failing = 'its journal stopped';
      if (!this.opened) this.die('its journal did not start');
      this.desk.report();
    };
    const leaving = (e: BeforeUnloadEvent) => {
      if (this.desk.busy) e.preventDefault();
    };
    const hidden = () => {
      const left = this.desk.rescue();
      // Another tab may have left something there.
      if (left.length) storeRescue([...rescued().filter((r) => !left.some((l) => l.entry.id === r.entry.id)), ...left]);
    };
    const online = () => this.worker.postMessage({ type: 'retry' } satisfies Request);
    window.addEventListener('beforeunload', leaving);
    window.addEventListener('pagehide', hidden);
    window.addEventListener('online', online);
    this.ended = [
      told.listen(listen),
      failed.listen(broken),
      // The server is back: what waits need not wait for its next attempt.
      onUpdate('connected', online),
      () => window.removeEventListener('beforeunload', leaving),
      () => window.removeEventListener('pagehide', hidden),
      () => window.removeEventListener('online', online),
    ];
  }

  /** Begins with what an earlier page could only put into the local store. */
  async open(takeOver = false): Promise<void> {
    const rest: Rescue[] = [];
    for (const rescue of rescued())
      await this.journal.door.revive(rescue.entry, rescue.samples).catch(() => void rest.push(rescue));
    storeRescue(rest);
    this.send({ type: 'open', pieceId: this.pieceId, client: this.desk.client, takeOver });
  }

  send(request: PageRequest): void {
    this.desk.send(request);
  }

  /** Rejects with what went wrong, also when the engine stops or the piece is closed. */
  ask<Q extends Question>(question: Q): Promise<Answers[Q['ask']]> {
    const id = this.calls.freshId();
    return this.calls.make(id, () => this.send({ type: 'question', id, question }));
  }

  /** Number of a job (dispatch, export): its progress comes as an event. */
  freshId(): number {
    return this.calls.freshId();
  }

  /** What a job delivers; null if it was cancelled. Rejects as `ask` does. */
  deliver(id: number, request: PageRequest): Promise<Delivered | null> {
    return this.calls.make(id, () => this.send(request));
  }

  /** Everything that waits or was set aside for this piece in this browser. */
  entries(): Promise<Recorded[]> {
    return this.journal.door.list(this.pieceId);
  }

  /** First tries of bakes go from the thread that makes them to the engine directly. */
  connectTries(port: MessagePort): void {
    this.worker.postMessage({ type: 'tries', port } satisfies TriesPort, [port]);
  }

  close(): void {
    this.calls.end('The piece was closed.');
    this.ended.forEach((end) => end());
    this.worker.terminate();
  }

  private take(event: Event): void {
    if (event.type === 'opened') this.opened = true;
    switch (event.type) {
      case 'answer':
        return this.calls.answer(event.id, event.answer);
      case 'no-answer':
        return this.calls.fail(event.id, event.message);
      case 'job-done':
        return this.calls.answer(event.id, { bytes: event.bytes, name: event.name, warning: event.warning } satisfies Delivered);
      case 'job-failed':
        return event.cancelled ? this.calls.answer(event.id, null) : this.calls.fail(event.id, event.message);
      default:
        return this.events.onEvent(event);
    }
  }

  private die(why: string): void {
    const message = `The painting engine stopped (${why}): reload the page. What you did is in this browser’s journal, and comes back.`;
    this.worker.terminate();
    this.calls.end(message);
    this.events.onEvent({ type: 'failed', message });
  }

  private penUpAt = 0;
  /** A pen was lifted: how long until its stroke is on disk is measured from here. */
  penUp(at: number): void {
    this.penUpAt = at;
  }

  private measured(onDiskAt: number): void {
    if (!this.penUpAt) return;
    const end = onDiskAt - performance.timeOrigin;
    performance.measure('brindle:pen-up-to-journal', { start: Math.min(this.penUpAt, end), end });
    this.penUpAt = 0;
  }
}
