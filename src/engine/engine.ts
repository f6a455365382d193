/**
 * The engine: one open piece, its pixels, its strokes. Runs in a worker of the page, and in Node for tests; it speaks
 * only through `post`, `remote` and `journal`. What is kept, and how, is the custody's matter (custody.ts).
 */
import { BLEND_LABELS } from '../core/colour/blend';
import { reachOfBlend } from '../core/colour/unblend';
import type { Stroke } from '../core/hand/stroke';
import { mapInfo } from '../core/kinds/maps';
import { applyEdit, describeEdit, invertEdit, type Edit } from '../core/document/edits';
import { parsePiece, pictureOf, type Piece } from '../core/document/schema';
import { TRIED_ID } from '../core/document/bake';
import { planeKey, planesOfSheet } from '../core/document/planes';
import { replaceEdit } from '../core/document/work/replace';
import { RECORDING_LIMITS } from '../core/hand/brush';
import type { Sample } from '../core/hand/sample';
import type { StrokeRecord } from '../core/keeping/operation';
import type { Intent } from '../core/keeping/entry';
import { lastingSurfaceStamp, type PieceSurfaces } from '../core/strata/pieceSurfaces';
import { invertChanges, tilesFromPicture, TileStore, type TileChange, type TileVersion } from '../core/tile/tiles';
import { validateTiles } from '../core/document/planes';
import { copyOfStore, giveSurfaces } from '../core/strata/surfaceUnder';
import { carryOutAgain, type Doer } from './again';
import { Custody, type Custodian, type CustodyJournal } from './custody';
import type { Display } from './display';
import { Drawing } from './drawing';
import type { DrawnElsewhere } from './drawnParts';
import { geometryOf } from './geometry';
import type { HelperPort } from './helper';
import { History, type Direction } from './history';
import { runJob } from './jobs';
import type { Recorded } from './journal/journal';
import { WorkError } from '../core/document/work/work';
import type { Lease } from './lease';
import { changesTo, fetchTiles, loadModel, lostPlanes, placeTexels } from './loading';
import type { Event, LayersRequest, Request } from './protocol';
import { Moves } from './moves';
import { Remembering } from './remembering';
import { answerTo } from './questions';
import type { BrowserShelves } from './shelf';
import { Strokes } from './strokes';
import { Tips } from './tips';
import type { Brush } from '../core/hand/brush';
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
  /** How long nothing happens before anything is kept for another day. */
  restMs?: number;
  /** Workers that pack and unpack tiles beside the engine; without them it does so itself. */
  tiles?: TilePool;
  /** Threads that draw beside the engine; without them it draws alone. */
  helpers?: () => HelperPort[];
  /** Where what can be made again is kept for another day. */
  keeping?: BrowserShelves;
  /** What other browsers have drawn. */
  elsewhere?: DrawnElsewhere;
}

const TRIED_PLANE = planeKey(TRIED_ID, 'picture');

const isChange = ({ type }: Request): boolean => type === 'edit' || type === 'layers' || type === 'undo' || type === 'redo';

export class Engine implements Custodian, Doer {
  piece!: Piece;
  store = new TileStore();
  surfaces: PieceSurfaces | null = null;
  readonly drawing: Drawing;
  private strokes: Strokes;
  readonly tips: Tips;
  history!: History;
  private custody: Custody;
  private remembering: Remembering;
  readonly tiles: TilePool;
  private modelGlb: Uint8Array | null = null;
  /** Fetched ahead of a renewal. */
  private ahead = new Map<string, Uint16Array>();
  private client = '';
  private moves: Moves;
  /** Goes up with everything that is done to the piece but undo and redo. */
  private changeCount = 0;
  private previewed: Edit | null = null;
  /** The page knows the piece: what is drawn finds it. */
  private opened = false;
  /** Texels are to come from the server. */
  private owed = false;
  /** All of the piece is at hand. */
  private ready = false;
  private cancelled = new Set<number>();
  private pieceId = '';
  /** Requests are carried out one after another. */
  private chain: Promise<void> = Promise.resolve();

  private readonly options: EngineOptions;

  constructor(given: EngineOptions) {
    const post: EngineOptions['post'] = (event, transfer) => {
      given.post(event, transfer);
      if ((event.type === 'kept' && event.kept.state === 'kept') || (event.type === 'pixels' && event.exact))
        this.remembering.soon();
    };
    const options = (this.options = { ...given, post });
    this.tiles = options.tiles ?? TILES_HERE;
    const { remote, journal, lease, now, later, retryMs } = options;
    this.tips = new Tips(options.remote);
    this.strokes = new Strokes(this);
    this.drawing = new Drawing({ store: this.store, post, now, later, flush: () => this.strokes.flush() });
    this.remembering = new Remembering({
      restMs: options.restMs,
      keeping: options.keeping,
      elsewhere: options.elsewhere,
      pieceId: () => this.pieceId,
      changes: () => this.changeCount,
      drawing: this.drawing,
      store: this.store,
      now,
      later,
      quiet: () => this.ready && this.custody.allKept && !this.previewed,
    });
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

  get display(): Display {
    return this.drawing.display;
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
    while (this.drawing.busy) await new Promise((resolve) => setTimeout(resolve, 1));
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
      const { now } = this.strokes;
      if (now && request.type.startsWith('stroke')) this.strokeFailed(now, message);
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
        return this.drawing.view(request.viewing) ? this.show() : undefined;
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
        return this.strokes.add(request.samples, request.at);
      case 'stroke-end':
        this.strokes.add(request.samples, request.at);
        return this.finishStroke();
      case 'stroke-cancel':
        return this.cancelStroke();
      case 'try-bake':
        return this.tryBake(request.tried);
      case 'question': {
        const answer = async () =>
          this.options.post({ type: 'answer', id: request.id, answer: await answerTo(this, request.question) });
        if (request.question.ask !== 'histogram' && request.question.ask !== 'thumbnails') return answer();
        // Not awaited: they take their time between other things, and what is under the pen is seen first.
        void this.drawing
          .penSeen()
          .then(answer)
          .catch((error: unknown) => this.fail(request, error));
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
    this.piece = parsed.value;
    const texels = this.fetchTexels(opened);
    // Until it is waited for, a failure is not unheard.
    texels.catch(() => undefined);
    const remembered = leftOver.length === 0 ? this.remembering.open(this.piece) : false;
    const loaded = this.piece.model ? await loadModel(this.piece, remote) : null;
    this.modelGlb = loaded?.glb ?? null;
    const focus = this.piece.sheets.find((s) => s.id === sheetId) ?? this.piece.sheets[0];
    this.history = new History(pieceId, opened.trail, opened.position, remote, this.store);
    this.custody.begin(opened);
    const show = () => {
      const geometry = loaded && geometryOf(loaded.model, this.piece);
      this.opened = true;
      post({ type: 'opened', document: this.piece, trail: this.history.state, geometry });
    };
    // What was drawn before is there before its texels are, unless there is more to be done upon them.
    const early = await remembered;
    if (early) {
      this.showKept(opened, focus.id, show);
      void this.remembering.fetchDrawn(this.piece, focus.id, texels);
    }
    if (!early) post({ type: 'opening', what: `Placing the texels of ${focus.name}`, done: 0, total: 1 });
    const placed = loaded && (await placeTexels(this.piece, loaded.model, this.store, focus, this.options));
    this.surfaces = placed?.surfaces ?? null;
    if (placed) this.remembering.surfacesToKeep(placed.toKeep);
    const pixels = await texels;
    this.store.apply(changesTo(this.store, opened.tiles, new Map(), pixels));
    const fault = validateTiles(this.store);
    if (fault) throw new Error(fault);
    this.sayLost(opened, pixels);
    this.surfaces?.query.hide(this.piece.hiddenParts, this.piece.hiddenFaces);
    const missing = lostPlanes(this.store);
    await this.custody.carryOutAgain(leftOver);
    if (!early) show();
    this.drawing.begin(this.options.helpers, focus.id, missing.length > 0);
    this.ready = true;
    post({ type: 'ready', missing });
    this.show();
    this.moves.fetchNext();
  }

  /** Shows the piece; and what was drawn of it before, unless its texels are here as soon. */
  private showKept(opened: OpenedPiece, focus: string, show: () => void): void {
    const { piece, store } = this;
    store.apply(changesTo(store, opened.tiles, new Map(), new Map()));
    const { model } = piece;
    if (model)
      giveSurfaces(
        store,
        () => null,
        (sheet) => lastingSurfaceStamp(model.blob, model.uvSet, sheet),
      );
    this.drawing.beginKept(focus);
    show();
    if (this.owed) this.show();
  }

  /** From what is kept in the browser as far as it goes, else from the server. */
  private async fetchTexels(opened: OpenedPiece): Promise<Map<string, Uint16Array>> {
    const hashes = [...new Set(opened.tiles.map((t) => t[2]))];
    const kept = await this.remembering.texelsOf(this.pieceId, hashes);
    const owed = hashes.filter((hash) => !kept.has(hash));
    this.owed = owed.length > 0;
    if (this.owed && this.display.onlyKept) this.show();
    const fetched = await fetchTiles(owed, this.options.remote, this.tiles.decode, (done, total) =>
      this.options.post({ type: 'opening', what: 'Fetching tiles', done, total }),
    );
    return new Map([...kept, ...fetched]);
  }

  private sayLost(opened: OpenedPiece, pixels: ReadonlyMap<string, Uint16Array>): void {
    const lost = opened.tiles.filter(([, , hash]) => !pixels.has(hash)).length;
    if (lost)
      this.say(
        `${lost} tile${lost === 1 ? '' : 's'} of this piece ${lost === 1 ? 'is' : 'are'} lost on the server; they count as unpainted, and the strata mark where.`,
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

  against(opened: OpenedPiece): { edit: Edit; label: string; changes: TileChange[] } {
    const { store, piece } = this;
    const changes = invertChanges(changesTo(store, opened.tiles, new Map(), new Map())).filter((c) => c.plane !== TRIED_PLANE);
    return { edit: replaceEdit(opened.document, piece), label: 'Given back after the server was set back', changes };
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
    this.drawing.changed(changes);
  }

  private adopt(): void {
    this.previewed = null;
    this.surfaces?.query.hide(this.piece.hiddenParts, this.piece.hiddenFaces);
    this.show();
  }

  /** Draws what differs from what is drawn: the document, with a passing edit and what is looked at alone. */
  private show(): void {
    if (this.opened) this.drawing.show(this.current);
  }

  /** A tile by its address: from memory, else from the server. */
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

  /** Under a name of its own beside the document's planes: it is looked at, and never kept. */
  private tryBake(tried: Extract<Request, { type: 'try-bake' }>['tried']): void {
    const after = tried ? tilesFromPicture(tried.data, tried.width, tried.height, 4) : new Map<number, Uint16Array>();
    const before = this.store.tilesOf(TRIED_PLANE);
    const tiles = new Set([...before.keys(), ...after.keys()]);
    this.apply(
      [...tiles].map((tile) => {
        const data = after.get(tile);
        return { plane: TRIED_PLANE, tile, before: before.get(tile) ?? null, after: data ? { data, hash: null } : null };
      }),
    );
    this.show();
  }

  // ── Strokes ──────────────────────────────────────────────────────────────────────────────────────────

  private async beginStroke(request: Extract<Request, { type: 'stroke-begin' }>): Promise<void> {
    this.finishStroke();
    await this.tipsOf(request.brush);
    if (!this.strokes.begin(request)) this.custody.nothing(request.id);
  }

  /** Pictures of a brush's tip are there before it paints. */
  private async tipsOf(brush: Brush): Promise<void> {
    const missing = this.tips.missing(brush);
    if (missing.length > 0 && !(await this.tips.fetch(missing)))
      this.say('The picture of this brush’s tip is lost on the server: it is painted with a round one.');
  }

  finishStroke(): void {
    if (this.strokes.finish()) this.postDocument(-1);
  }

  async strokeAgain({ id, samples }: Recorded, intent: Extract<Intent, { type: 'stroke' }>): Promise<string | null> {
    await this.tipsOf(intent.brush);
    return this.strokes.again(id, intent, samples);
  }

  strokeDone(id: string, record: StrokeRecord, changes: TileChange[]): void {
    if (changes.length === 0) return this.custody.nothing(id);
    const { sheet: sheetId, layer: layerId, samples } = record;
    const edit: Edit = { type: 'paint', sheetId, layerId };
    const label = describeEdit(edit, this.piece);
    this.changeCount++;
    this.history.push(id, label, edit, changes);
    const stroke = samples.length > 0 && samples.length <= RECORDING_LIMITS.maxSamples ? record : null;
    this.custody.keep(this.strokeEntry(id, record, label), { kind: 'edit', edit, label, changes, stroke });
  }

  fencedOut({ brush: { fence, stencil } }: StrokeRecord): void {
    const gone = stencil && typeof stencil.of === 'string' && !pictureOf(this.piece, stencil.of);
    this.say(
      gone
        ? 'The stencil’s picture is gone: choose another stencil, or switch it off.'
        : stencil
          ? 'The stencil lets nothing through there: move it, or switch it off.'
          : fence
            ? 'The fence lets nothing through there: paint where there is no hatch, or switch the fence off.'
            : 'What lies there is hidden: show it to paint on it.',
    );
  }

  unreached({ sheet, layer }: StrokeRecord, { map, blend }: NonNullable<Stroke['unreached']>): void {
    const name = this.piece.sheets.find((s) => s.id === sheet)?.layers.find((l) => l.id === layer)?.name ?? 'The layer';
    const { label } = mapInfo(map);
    if (blend === 'normal' || blend === 'through')
      return this.say(`“${name}” is too faint for this on ${label}: raise its opacity, or paint on another layer.`);
    this.say(
      `“${name}” joins by ${BLEND_LABELS[blend]} on ${label}, which ${reachOfBlend(blend)}: it is as near as that gets. A layer in Normal does all of it.`,
    );
  }

  private strokeEntry(id: string, record: StrokeRecord, label: string): Recorded {
    const { sheet: sheetId, layer: layerId, brush, seed, samples } = record;
    return this.recorded(id, { type: 'stroke', sheetId, layerId, brush, seed }, label, samples);
  }

  private strokeFailed({ id, record }: { id: string; record: StrokeRecord }, why: string): void {
    this.cancelStroke();
    void this.custody.setAside(this.strokeEntry(id, record, 'A stroke'), why);
  }

  private cancelStroke(): void {
    if (this.strokes.cancel()) this.show();
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
      pinned: (hash) => this.options.remote.pinned(hash),
      post: this.options.post,
      isCancelled: () => this.cancelled.has(request.id),
      breathe: () => new Promise((resolve) => this.options.later(resolve)),
    });
  }
}
