/**
 * The engine: one open piece, its pixels, its strokes. Runs in a worker of the page, and in Node for tests; it speaks
 * only through `post`, `remote` and `journal`. What is kept, and how, is the custody's matter (custody.ts).
 */
import { Stroke } from '../core/hand/stroke';
import { applyEdit, describeEdit, invertEdit, type Edit } from '../core/document/edits';
import { LAYERS } from '../core/kinds/layers';
import type { PlaneMap } from '../core/kinds/maps';
import { findLayer, maskOfStep, parsePiece, type Piece, type Sheet } from '../core/document/schema';
import { planeKey, planesOfSheet } from '../core/document/planes';
import { RECORDING_LIMITS, type Sample } from '../core/hand/brush';
import type { StrokeRecord } from '../core/keeping/operation';
import type { Intent } from '../core/keeping/entry';
import type { PieceSurfaces } from '../core/strata/pieceSurfaces';
import { invertChanges, TileStore, type TileChange, type TileVersion } from '../core/tile/tiles';
import { validateTiles } from '../core/document/planes';
import { copyOfStore } from '../core/strata/surface';
import { carryOutAgain, type Doer } from './again';
import { Custody, type Custodian, type CustodyJournal } from './custody';
import { Display } from './display';
import { geometryOf } from './geometry';
import type { HelperPort } from './helper';
import { History, type Direction } from './history';
import { runJob } from './jobs';
import type { Recorded } from './journal/journal';
import { WorkError } from '../core/document/work/work';
import type { Lease } from './lease';
import { changesTo, fetchTiles, loadModel, lostPlanes } from './loading';
import type { Event, LayersRequest, PixelPatch, Request, Viewing } from './protocol';
import { Moves } from './moves';
import { Pool } from './pool';
import { answerTo } from './questions';
import { soloed } from './solo';
import { workOn } from './workOn';
import { ServerAnswer, type OpenedPiece, type Remote } from './remote';
import { TILES_HERE, type TilePool } from './tilePool';

export interface EngineOptions {
  remote: Remote;
  journal: CustodyJournal;
  lease?: Lease;
  post: (event: Event, transfer?: Transferable[]) => void;
  now: () => number;
  /** Runs a callback after the messages that wait now. */
  later: (callback: () => void) => void;
  retryMs?: number;
  /** Workers that pack and unpack tiles beside the engine; without them it does so itself. */
  tiles?: TilePool;
  /** Threads that draw beside the engine; without them it draws alone. */
  helpers?: () => HelperPort[];
}

/** A slice of drawing: short enough that a pen at 120 Hz never waits two events. */
const SLICE_MS = 10;
/** How long texels that nobody waits for are held. */
const HOLD_MS = 250;
/** Drawing that is expected to take longer than this is shown coarsely first. */
const COARSE_FROM_MS = 120;

const isChange = ({ type }: Request): boolean => type === 'edit' || type === 'layers' || type === 'undo' || type === 'redo';

interface RunningStroke {
  run: Stroke;
  id: string;
  record: StrokeRecord;
  keys: string[];
  at: number;
  dirty: boolean;
}
export class Engine implements Custodian, Doer {
  piece!: Piece;
  /** The document with a passing edit on it; what is drawn. */
  private shown!: Piece;
  store = new TileStore();
  surfaces: PieceSurfaces | null = null;
  readonly display = new Display(this.store);
  history!: History;
  private custody: Custody;
  readonly tiles: TilePool;
  private modelGlb: Uint8Array | null = null;
  /** Fetched ahead of a renewal. */
  private ahead = new Map<string, Uint16Array>();
  private client = '';
  private moves: Moves;
  /** Goes up with everything that is done to the piece but undo and redo. */
  private changeCount = 0;
  private previewed: Edit | null = null;
  private viewing: Viewing = { look: null, solo: [], hot: null, visible: null };
  private stroke: RunningStroke | null = null;
  private pumping = false;
  private strokeAt: number | null = null;
  private held: PixelPatch[] = [];
  private deliveredAt = 0;
  private coarsened = false;
  /** The page knows the piece: what is drawn finds it. */
  private opened = false;
  /** Everything has been drawn exactly since the piece was opened. */
  private exactOnce = false;
  /** What a tile of a plane takes to draw; a guess to begin with. */
  private msPerTile = 4;
  private pool: Pool | null = null;
  private cancelled = new Set<number>();
  private pieceId = '';
  /** Requests are carried out one after another. */
  private chain: Promise<void> = Promise.resolve();

  constructor(private options: EngineOptions) {
    this.tiles = options.tiles ?? TILES_HERE;
    const { remote, journal, lease, post, retryMs } = options;
    this.custody = new Custody(this, { remote, journal, lease, post, retryMs, pack: (tiles) => this.tiles.pack(tiles) });
    this.moves = new Moves({
      history: () => this.history,
      changeCount: () => this.changeCount,
      step: (direction, id) => this.step(direction, id),
      enqueue: (work) => this.enqueue(work),
      nothing: (id) => this.custody.nothing(id),
      say: (message) => this.say(message),
      done: (serial) => this.postDocument(serial),
      failed: ({ direction, id, serial }, error) => this.fail({ type: direction, id, serial }, error),
    });
  }

  receive(request: Request): Promise<void> {
    if (request.type === 'cancel') {
      this.cancelled.add(request.id);
      return Promise.resolve();
    }
    if (request.type === 'retry') {
      this.custody.retry();
      return Promise.resolve();
    }
    this.chain = this.chain
      .then(() => this.carryOut(request))
      .catch((error: unknown) => this.fail(request, error))
      .then(() => {
        // Strokes count once they are ended, by whatever ends them.
        if (request.type === 'stroke-end' || request.type === 'stroke-cancel' || isChange(request)) this.custody.cameTo();
      });
    return this.chain;
  }

  /** The document with a passing edit on it, all layers as they are. */
  get current(): Piece {
    return this.previewed ? applyEdit(this.piece, this.previewed) : this.piece;
  }

  /** For tests: all that was asked is done, drawn and kept. */
  async settled(): Promise<void> {
    await this.chain;
    while (this.moves.moving) await this.moves.moving;
    await this.custody.settled();
    await this.chain;
    while (this.display.pending > 0 || this.pool?.busy) await new Promise((resolve) => setTimeout(resolve, 1));
  }

  enqueue(work: () => Promise<void>): void {
    this.chain = this.chain.then(work).catch((error: unknown) => this.say((error as Error).message));
  }

  private say(message: string): void {
    this.options.post({ type: 'notice', message });
  }

  private fail(request: Request, error: unknown): void {
    const message = error instanceof Error ? error.message : String(error);
    if (request.type === 'open') {
      const deleted = error instanceof ServerAnswer && error.more.deleted;
      void this.options.journal.list(request.pieceId).then(
        (left) => this.options.post({ type: 'failed', message, deleted, waiting: left.length }),
        () => this.options.post({ type: 'failed', message, deleted, waiting: 0 }),
      );
    } else if (request.type === 'dispatch' || request.type === 'export-piece')
      this.options.post({ type: 'job-failed', id: request.id, message, cancelled: false });
    else if (request.type === 'question') this.options.post({ type: 'no-answer', id: request.id, message });
    else {
      // A stroke at which the engine failed is set aside; anything else did not come about, and the artist is told.
      if (this.stroke && request.type.startsWith('stroke')) this.strokeFailed(this.stroke, message);
      else if ('id' in request && typeof request.id === 'string') this.custody.nothing(request.id);
      if ('serial' in request) this.postDocument(request.serial);
      const away = error instanceof ServerAnswer && error.answer === 'again';
      this.options.post({
        type: 'notice',
        message: away
          ? `${message} Try again when it is back.`
          : error instanceof WorkError
            ? `${message}.`
            : `That did not work: ${message}.`,
      });
    }
  }

  private async carryOut(request: Request): Promise<void> {
    switch (request.type) {
      case 'open':
        return this.open(request);
      case 'focus':
        this.display.focus = request.sheetId;
        return this.show();
      case 'viewing':
        return this.view(request.viewing);
      case 'edit':
        this.finishStroke();
        this.carryOutEdit(this.recorded(request.id, { type: 'edit', edit: request.edit, label: request.label }, request.label));
        return this.postDocument(request.serial);
      case 'preview':
        this.previewed = request.edit;
        return this.show();
      case 'layers': {
        this.finishStroke();
        const select = await this.carryOutLayers(this.recorded(request.id, { type: 'layers', what: request.what }));
        return this.postDocument(request.serial, select);
      }
      case 'undo':
      case 'redo':
        this.finishStroke();
        return this.moves.ask({ direction: request.type, id: request.id, serial: request.serial });
      case 'stroke-begin':
        return this.beginStroke(request);
      case 'stroke-add':
        return this.addToStroke(request.samples, request.at);
      case 'stroke-end':
        this.addToStroke(request.samples, request.at);
        return this.finishStroke();
      case 'stroke-cancel':
        return this.cancelStroke();
      case 'question': {
        const answer = async () =>
          this.options.post({ type: 'answer', id: request.id, answer: await answerTo(this, request.question) });
        if (request.question.ask !== 'histogram') return answer();
        // Not awaited: it takes its time between other things.
        void answer().catch((error: unknown) => this.fail(request, error));
        return;
      }
      case 'dispatch':
      case 'export-piece':
        // Not awaited: long work goes on in slices while painting continues on a snapshot.
        void this.job(request).catch((error: unknown) => this.fail(request, error));
        return;
      case 'resolve-conflict':
        this.finishStroke();
        return this.custody.resolveConflict(request);
      case 'aside':
        this.finishStroke();
        return this.custody.asideAction(request.id, request.do);
      case 'restore':
        return this.custody.restore();
      case 'cancel':
      case 'retry':
        return;
    }
  }

  // ── Opening ──────────────────────────────────────────────────────────────────────────────────────────

  private async open({ pieceId, sheetId, client, takeOver }: Extract<Request, { type: 'open' }>): Promise<void> {
    const { remote, post } = this.options;
    this.pieceId = pieceId;
    this.client = client;
    post({ type: 'opening', what: 'Looking for strokes that were not kept yet', done: 0, total: 1 });
    const found = await this.custody.open(pieceId, client, takeOver ?? false);
    if (!found) return;
    const { opened, leftOver } = found;
    const parsed = parsePiece(opened.document);
    if (!parsed.ok) throw new Error(parsed.message);
    this.piece = this.shown = parsed.value;
    const [, model] = await Promise.all([
      this.loadTiles(opened),
      this.piece.model ? loadModel(this.piece, this.store, remote) : null,
    ]);
    if (model) [this.modelGlb, this.surfaces] = [model.glb, model.surfaces];
    this.surfaces?.query.hideParts(this.piece.hiddenParts);
    this.history = new History(pieceId, opened.trail, opened.position, remote, this.store);
    this.custody.begin(opened);
    const lost = lostPlanes(this.store);
    await this.custody.carryOutAgain(leftOver);
    const focus = this.piece.sheets.find((s) => s.id === sheetId) ?? this.piece.sheets[0];
    post({ type: 'opening', what: `Placing the texels of ${focus.name}`, done: 0, total: 1 });
    const geometry = this.surfaces ? geometryOf(this.surfaces, this.piece) : null;
    this.opened = true;
    post({ type: 'opened', document: this.piece, trail: this.history.state, geometry, missing: lost });
    const helpers = this.options.helpers?.();
    if (helpers) {
      this.pool = new Pool(helpers, this.store, (patches) => this.deliver(patches, null), this.display);
      this.pool.tellAll();
    }
    this.display.focus = focus.id;
    this.show();
    this.moves.fetchNext();
  }

  private async loadTiles(opened: OpenedPiece): Promise<void> {
    const hashes = [...new Set(opened.tiles.map((t) => t[2]))];
    const pixels = await fetchTiles(hashes, this.options.remote, this.tiles.decode, (done, total) =>
      this.options.post({ type: 'opening', what: 'Fetching tiles', done, total }),
    );
    this.store.apply(changesTo(this.store, opened.tiles, new Map(), pixels));
    const fault = validateTiles(this.store);
    if (fault) throw new Error(fault);
    const lost = opened.tiles.filter(([, , hash]) => !pixels.has(hash)).length;
    if (lost)
      this.say(
        `${lost} tile${lost === 1 ? '' : 's'} of this piece ${lost === 1 ? 'is' : 'are'} lost in the house; they count as unpainted, and the strata mark where.`,
      );
  }

  async prefetch(opened: OpenedPiece): Promise<void> {
    const known = this.versionsByHash();
    const wanted = [...new Set(opened.tiles.map((t) => t[2]))].filter((h) => !known.has(h));
    this.ahead = await fetchTiles(wanted, this.options.remote, this.tiles.decode);
  }

  async renew(opened: OpenedPiece): Promise<void> {
    this.piece = opened.document;
    const known = this.versionsByHash();
    const changes = changesTo(this.store, opened.tiles, known, this.ahead);
    this.ahead.clear();
    this.apply(changes);
    this.history = new History(this.pieceId, opened.trail, opened.position, this.options.remote, this.store);
    this.moves.clear();
  }

  renewed(): void {
    this.options.post({ type: 'renewed', document: this.piece, trail: this.history.state });
    this.adopt();
  }

  named(name: string): void {
    if (name === this.piece.name) return;
    this.piece = { ...this.piece, name };
    this.options.post({ type: 'renewed', document: this.piece, trail: this.history.state });
  }

  /** States with their pixels, by address: those on show and those of the trail. */
  private versionsByHash(): Map<string, TileVersion> {
    const out = new Map<string, TileVersion>();
    for (const version of this.history?.held() ?? []) out.set(version.hash!, version);
    for (const plane of this.store.planeKeys())
      for (const version of this.store.tilesOf(plane).values()) if (version.hash && version.data) out.set(version.hash, version);
    return out;
  }

  // ── Edits ────────────────────────────────────────────────────────────────────────────────────────────

  private recorded(id: string, intent: Intent<LayersRequest>, label = '', samples: Sample[] = []): Recorded {
    const { pieceId, client } = this;
    return { id, pieceId, client, at: 0, label, intent, whole: true, step: null, packed: null, aside: null, samples };
  }

  commit(entry: Recorded, edit: Edit, label: string, changes: TileChange[], stroke: StrokeRecord | null = null): void {
    const next = applyEdit(this.piece, edit);
    const all = [...changes, ...this.freed(next, changes)];
    this.changeCount++;
    this.piece = next;
    this.apply(all);
    this.history.push(entry.id, label, edit, all);
    this.custody.keep({ ...entry, label: entry.label || label }, { kind: 'edit', edit, label, changes: all, stroke });
    this.adopt();
  }

  /** Tiles of what is no longer in the document: they go with it, and come back with it by undo. */
  private freed(next: Piece, changes: readonly TileChange[]): TileChange[] {
    if (next.sheets === this.piece.sheets) return [];
    const planes = (piece: Piece) => new Set(piece.sheets.flatMap((s) => planesOfSheet(s).map((p) => p.key)));
    const [before, after] = [planes(this.piece), planes(next)];
    const done = new Set(changes.map((c) => `${c.plane} ${c.tile}`));
    return [...before]
      .filter((plane) => !after.has(plane))
      .flatMap((plane) =>
        [...this.store.tilesOf(plane)].map(([tile, version]) => ({ plane, tile, before: version, after: null })),
      )
      .filter((c) => !done.has(`${c.plane} ${c.tile}`));
  }

  carryOutEdit(entry: Recorded): void {
    const { edit, label } = entry.intent as Extract<Intent, { type: 'edit' }>;
    this.commit(entry, edit, label, []);
  }

  async carryOutLayers(entry: Recorded): Promise<string[] | undefined> {
    const { what } = entry.intent as Extract<Intent<LayersRequest>, { type: 'layers' }>;
    // Ids come from the entry's own: carried out again, they are the same.
    let n = 0;
    const stem = entry.id.replaceAll('-', '').slice(0, 10);
    const work = await workOn(this, what, { newId: () => `${stem}${(n++).toString(36).padStart(3, '0')}` });
    this.commit(entry, work.edit, work.label, work.changes);
    return work.select;
  }

  carryOutAgain(entry: Recorded): Promise<string | null> {
    return carryOutAgain(this, entry);
  }

  // ── Undo and redo ────────────────────────────────────────────────────────────────────────────────────────

  step(direction: Direction, id: string): void {
    const { edit, changes } = this.history.ready(direction)!;
    const step = this.history.next(direction)!;
    const undo = direction === 'undo';
    this.piece = applyEdit(this.piece, undo ? invertEdit(edit) : edit);
    this.apply(undo ? invertChanges(changes) : changes);
    this.history.moved(direction);
    this.custody.keep(this.recorded(id, { type: direction }, undo ? 'Undo' : 'Redo'), { kind: direction, step });
    this.adopt();
  }

  private apply(changes: readonly TileChange[]): void {
    this.store.apply(changes);
    this.display.changed();
    for (const c of changes) this.pool?.tell(c.plane, c.tile);
  }

  private adopt(): void {
    this.previewed = null;
    this.surfaces?.query.hideParts(this.piece.hiddenParts);
    this.show();
  }

  private view(viewing: Viewing): void {
    const shows = ({ look, solo }: Viewing) => JSON.stringify([look, solo]);
    const same = shows(viewing) === shows(this.viewing);
    this.viewing = viewing;
    this.display.look = viewing.look;
    this.display.visible = viewing.visible;
    this.display.workOn(viewing.hot);
    // What lies where in the pane, and which layer is at work, changes only what is drawn first.
    if (!same) this.show();
  }

  /** Draws what differs from what is drawn: the document, with a passing edit and what is looked at alone. */
  private show(): void {
    this.shown = soloed(this.current, this.viewing.solo);
    if (!this.opened) return;
    this.display.refresh(this.shown);
    this.coarsened = false;
    this.pump();
  }

  /** What will take long is shown coarsely first: all of it when a piece opens, what is seen while something is dragged. */
  private coarsen(): void {
    if (this.coarsened || this.stroke) return;
    this.coarsened = true;
    const seen = this.exactOnce;
    if (this.display.wholePending(seen) * this.msPerTile < COARSE_FROM_MS) return;
    this.deliver(this.display.coarse(this.shown, seen), null, true);
  }

  /** A tile by its address: from memory, else from the house. */
  async versionsOf(hashes: ReadonlySet<string>): Promise<Map<string, TileVersion>> {
    const out = new Map<string, TileVersion>();
    for (const plane of this.store.planeKeys())
      for (const version of this.store.tilesOf(plane).values())
        if (version.hash && version.data && hashes.has(version.hash)) out.set(version.hash, version);
    const wanted = [...hashes].filter((h) => !out.has(h));
    for (const [hash, data] of await fetchTiles(wanted, this.options.remote, this.tiles.decode)) {
      out.set(hash, { data, hash });
      this.custody.rememberKnown(hash);
    }
    return out;
  }

  private postDocument(serial: number, select?: string[]): void {
    this.options.post({ type: 'document', document: this.piece, trail: this.history.state, serial, select });
  }

  // ── Strokes ──────────────────────────────────────────────────────────────────────────────────────────

  private beginStroke(request: Extract<Request, { type: 'stroke-begin' }>): void {
    this.finishStroke();
    const { id, sheetId, layerId, brush, seed } = request;
    const run = this.strokeOn(sheetId, layerId, brush);
    if (!run) return this.custody.nothing(id);
    const maps = (Object.keys(brush.writes) as PlaneMap[]).filter((m) => brush.writes[m]!.on);
    const keys = maps.map((m) => planeKey(layerId, m));
    const record = { sheet: sheetId, layer: layerId, seed, hidden: this.piece.hiddenParts, brush, samples: [] };
    this.stroke = { run, id, record, keys, at: request.at, dirty: false };
    this.addToStroke(request.samples, request.at);
  }

  /** null: what it would paint on is not there, or not to be painted on. */
  private strokeOn(sheetId: string, layerId: string, brush: StrokeRecord['brush']): Stroke | null {
    const sheet: Sheet | undefined = this.piece.sheets.find((s) => s.id === sheetId);
    const layer = sheet && findLayer(sheet, layerId);
    if (!sheet || (layer ? !LAYERS[layer.kind].byHand || layer.lock !== 'none' : !maskOfStep(sheet, layerId))) return null;
    const surface = this.surfaces?.forSheet(sheet) ?? null;
    return new Stroke({ sheet, layerId, store: this.store, surface }, brush);
  }

  strokeAgain(entry: Recorded, intent: Extract<Intent, { type: 'stroke' }>): string | null {
    const { sheetId, layerId, brush, seed } = intent;
    const { samples } = entry;
    const run = this.strokeOn(sheetId, layerId, brush);
    if (!run) return 'The layer that it was painted on is not there any more, or is locked.';
    run.add(samples);
    run.end();
    run.flush();
    const changes = run.changes();
    for (const c of changes) this.pool?.tell(c.plane, c.tile);
    this.display.changed();
    if (changes.length === 0) {
      this.custody.nothing(entry.id);
      return null;
    }
    const record = { sheet: sheetId, layer: layerId, seed, hidden: this.piece.hiddenParts, brush, samples };
    this.strokeDone(entry.id, record, changes);
    return null;
  }

  private addToStroke(samples: Extract<Request, { type: 'stroke-add' }>['samples'], at: number): void {
    if (!this.stroke) return;
    this.stroke.run.add(samples);
    this.stroke.record.samples.push(...samples);
    this.stroke.at = at;
    this.stroke.dirty = true;
    this.pump();
  }

  /** Lays what the dabs have reached onto the tiles and marks it for drawing. */
  private flushStroke(): void {
    const stroke = this.stroke;
    if (!stroke?.dirty) return;
    stroke.dirty = false;
    this.strokeAt = stroke.at;
    const rects = stroke.run.flush();
    this.display.changed();
    for (const rect of rects)
      for (const key of stroke.keys) {
        this.pool?.tell(key, rect.tile);
        this.display.markPaint(this.shown, stroke.record.sheet, key, rect.tile, rect);
      }
  }

  finishStroke(): void {
    const stroke = this.stroke;
    if (!stroke) return;
    stroke.run.end();
    stroke.dirty = true;
    this.flushStroke();
    this.stroke = null;
    const changes = stroke.run.changes();
    this.pump();
    if (changes.length === 0) return this.custody.nothing(stroke.id);
    this.strokeDone(stroke.id, stroke.record, changes);
    this.postDocument(-1);
  }

  private strokeDone(id: string, record: StrokeRecord, changes: TileChange[]): void {
    const { sheet: sheetId, layer: layerId, samples } = record;
    const edit: Edit = { type: 'paint', sheetId, layerId };
    const label = describeEdit(edit, this.piece);
    this.changeCount++;
    this.history.push(id, label, edit, changes);
    const stroke = samples.length > 0 && samples.length <= RECORDING_LIMITS.maxSamples ? record : null;
    this.custody.keep(this.strokeEntry(id, record, label), { kind: 'edit', edit, label, changes, stroke });
  }

  private strokeEntry(id: string, record: StrokeRecord, label: string): Recorded {
    const { sheet: sheetId, layer: layerId, brush, seed, samples } = record;
    return this.recorded(id, { type: 'stroke', sheetId, layerId, brush, seed }, label, samples);
  }

  private strokeFailed({ id, record }: RunningStroke, why: string): void {
    this.cancelStroke();
    void this.custody.setAside(this.strokeEntry(id, record, 'A stroke'), why);
  }

  private cancelStroke(): void {
    const stroke = this.stroke;
    if (!stroke) return;
    for (const c of stroke.run.changes()) this.pool?.tell(c.plane, c.tile);
    stroke.run.cancel();
    this.display.changed();
    this.stroke = null;
    this.show();
  }

  // ── Drawing ──────────────────────────────────────────────────────────────────────────────────────────

  private pump(): void {
    if (this.pumping) return;
    this.pumping = true;
    this.options.later(() => {
      this.pumping = false;
      this.flushStroke();
      this.pool?.handOut(this.shown);
      this.coarsen();
      const start = this.options.now();
      const patches = this.display.work(this.shown, () => this.options.now() > start + SLICE_MS);
      // A running mean over the last tiles or so.
      if (patches.length && !this.stroke)
        this.msPerTile += ((this.options.now() - start) / patches.length - this.msPerTile) * 0.2;
      if (this.display.pending === 0) this.exactOnce = true;
      const strokeAt = this.display.pending === 0 || this.stroke ? this.strokeAt : null;
      this.deliver(patches, strokeAt);
      if (patches.length && strokeAt !== null) this.strokeAt = null;
      if (this.display.pending > 0 || this.stroke?.dirty) this.pump();
    });
  }

  /**
   * Hands texels to the page. A stroke's go at once; what is filled in behind goes a few times a second, since the page
   * draws a whole frame for each batch.
   */
  private deliver(patches: PixelPatch[], strokeAt: number | null, now = false): void {
    this.held.push(...patches);
    const rest = this.display.pending > 0 || this.pool?.busy;
    const due = now || this.stroke || strokeAt !== null || !rest || this.options.now() - this.deliveredAt > HOLD_MS;
    if (due && this.held.length) {
      const all = this.held;
      this.held = [];
      this.deliveredAt = this.options.now();
      this.options.post(
        { type: 'pixels', patches: all, strokeAt },
        all.map((p) => p.data.buffer),
      );
    }
    // A helper that comes back may find more to do.
    if (this.display.pending > 0) this.pump();
  }

  // ── Out ──────────────────────────────────────────────────────────────────────────────────────────────

  private async job(request: Extract<Request, { type: 'dispatch' | 'export-piece' }>): Promise<void> {
    await runJob(request, {
      context: {
        piece: this.piece,
        store: copyOfStore(this.store),
        model: this.surfaces?.model ?? null,
        surfaces: this.surfaces?.mapsBySheet(this.piece),
      },
      modelGlb: this.modelGlb,
      strokes: () => this.options.remote.strokes(this.pieceId),
      post: this.options.post,
      isCancelled: () => this.cancelled.has(request.id),
      breathe: () => new Promise((resolve) => this.options.later(resolve)),
    });
  }
}
