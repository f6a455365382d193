/**
 * The page's desk: every request that changes the piece goes through it. It gets an id, is written into the journal, and
 * goes to the engine. What the journal has not written yet is counted, and can be handed out when the page is left.
 */
import type { Sample } from '../../core/hand/sample';
import { describeIntent, type Intent } from '../../core/keeping/entry';
import type { Piece } from '../../core/document/schema';
import type { JournalState, NewEntry } from './journal/journal';
import type { Changing, LayersRequest, PageRequest, Request } from '../protocol';

/** What the desk asks of the journal: the journal itself, or its worker from afar. */
export interface DeskJournal {
  begin(entry: NewEntry, samples?: Sample[]): Promise<void>;
  add(id: string, samples: Sample[]): void | Promise<void>;
  finish(id: string, samples: Sample[]): Promise<void>;
  drop(ids: readonly string[]): Promise<void>;
}

export interface DeskOptions {
  pieceId: string;
  client: string;
  journal: DeskJournal;
  post: (request: Request) => void;
  newId: () => string;
  /** What the chance in a stroke is drawn from, 0 … 2³¹ − 1. It is recorded with the stroke. */
  newSeed: () => number;
  now: () => number;
  /** The document as the page has it, for what entries are called. */
  document: () => Piece | null;
  /** `asked`: changes sent to the engine so far (protocol.ts: `reached`). */
  report: (state: { pending: number; asked: number }) => void;
}

const INTENTS = ['edit', 'layers', 'undo', 'redo'] as const;

export class Desk {
  /** Not on disk yet. */
  private pending = new Map<string, { entry: NewEntry; samples: Sample[]; failed?: boolean }>();
  private stroke: string | null = null;
  private asked = 0;

  constructor(private options: DeskOptions) {}

  get client(): string {
    return this.options.client;
  }

  get unwritten(): number {
    return this.pending.size;
  }

  /** A stroke under the pen, or something that is not on disk yet. */
  get busy(): boolean {
    return this.stroke !== null || this.pending.size > 0;
  }

  send(request: PageRequest): void {
    const { journal, post } = this.options;
    switch (request.type) {
      case 'stroke-begin': {
        this.endStroke(request.at);
        const id = this.options.newId();
        const seed = this.options.newSeed();
        const { sheetId, layerId, brush, samples } = request;
        this.stroke = id;
        this.record(id, { type: 'stroke', sheetId, layerId, brush, seed }, samples, false);
        return post({ ...request, id, seed });
      }
      case 'stroke-add':
        if (!this.stroke) return;
        this.pending.get(this.stroke)?.samples.push(...request.samples);
        void journal.add(this.stroke, request.samples);
        return post(request);
      case 'stroke-end':
        return this.endStroke(request.at, request.samples);
      case 'stroke-cancel': {
        const id = this.stroke;
        if (!id) return;
        this.stroke = null;
        void this.forget(id);
        return post(request);
      }
    }
    if (!(INTENTS as readonly string[]).includes(request.type)) return post(request as Request);
    this.endStroke(0);
    const id = this.options.newId();
    const changing = request as Extract<PageRequest, { type: Changing }>;
    this.record(id, intentOf(changing), [], true);
    post({ ...changing, id } as Request);
  }

  /** What is not on disk, as plain data (so without pictures): for the moment in which the page goes. */
  rescue(): { entry: NewEntry; samples: Sample[] }[] {
    return [...this.pending.values()]
      .filter(({ entry: { intent } }) => intent.type !== 'layers' || (intent.what as LayersRequest).do !== 'pictures')
      .map(({ entry, samples }) => ({ entry: { ...entry, whole: true }, samples }));
  }

  private endStroke(at: number, samples: Sample[] = []): void {
    const id = this.stroke;
    if (!id) return;
    this.stroke = null;
    this.pending.get(id)?.samples.push(...samples);
    // The journal first: the engine may take its time.
    this.watch(id, this.options.journal.finish(id, samples));
    this.options.post({ type: 'stroke-end', samples, at });
  }

  private record(id: string, intent: Intent<LayersRequest>, samples: Sample[], whole: boolean): void {
    const { journal, pieceId, client, now, document } = this.options;
    const entry: NewEntry = { id, pieceId, client, at: now(), label: describeIntent(intent, document()), intent, whole };
    this.pending.set(id, { entry, samples: [...samples] });
    this.asked++;
    this.report();
    this.watch(id, journal.begin(entry, samples), whole);
  }

  /** `last`: after this nothing more of the entry is to be written. A stroke counts until its pen is up and all is there. */
  private watch(id: string, written: Promise<void>, last = true): void {
    written.then(
      () => {
        if (!last) return;
        this.pending.delete(id);
        this.report();
      },
      // The journal says why by itself, and goes on trying.
      () => {
        const entry = this.pending.get(id);
        if (entry) entry.failed = true;
        this.report();
      },
    );
  }

  /** What could not be written at first is on disk by now, or the server has it. */
  journalSays({ unwritten }: JournalState): void {
    for (const [id, { failed }] of this.pending) if (failed && !unwritten.includes(id)) this.pending.delete(id);
    this.report();
  }

  private async forget(id: string): Promise<void> {
    this.pending.delete(id);
    this.report();
    await this.options.journal.drop([id]).catch(() => undefined);
  }

  report(): void {
    this.options.report({ pending: this.pending.size, asked: this.asked });
  }
}

function intentOf(request: Extract<PageRequest, { type: Changing }>): Intent<LayersRequest> {
  switch (request.type) {
    case 'edit':
      return { type: 'edit', edit: request.edit, label: request.label };
    case 'layers':
      return { type: 'layers', what: request.what };
    default:
      return { type: request.type };
  }
}
