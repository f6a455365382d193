/**
 * The engine: one open piece, its pixels, its strokes, its keeping. Runs in a worker of the page, and in Node
 * for tests; it speaks only through `post`, `remote` and `journal`.
 */
import { Stroke } from '../core/brush/stroke';
import { applyEdit, describeEdit, invertEdit, type Edit } from '../core/document/edits';
import type { PlaneMap } from '../core/document/maps';
import { findLayer, findSheet, maskOfStep, parsePiece, planeKey, type Piece } from '../core/document/schema';
import { readModel } from '../core/mesh/readModel';
import { attachSurfaces, PieceSurfaces } from '../core/piece/surfaces';
import { invertChanges, TileStore, validateTiles, type TileChange, type TileVersion } from '../core/raster/tiles';
import type { DecodeTiles } from './decodePool';
import { Display } from './display';
import { geometryOf } from './geometry';
import type { HelperPort } from './helper';
import { History } from './history';
import type { Journal } from './journal';
import { runJob } from './jobs';
import { WorkError } from './layerWork';
import { Keeper, moveJournalToCopy, sendJournal } from './keeper';
import type { Event, PixelPatch, Request, Viewing } from './protocol';
import { Pool } from './pool';
import { answerTo } from './questions';
import { soloed } from './solo';
import { workOn } from './workOn';
import { Unreachable, type Remote } from './remote';
import { decodeTile } from './tileCodec';

export interface EngineOptions {
  remote: Remote;
  journal: Journal;
  post: (event: Event, transfer?: Transferable[]) => void;
  newId: () => string;
  now: () => number;
  /** Runs a callback after the messages that wait now. */
  later: (callback: () => void) => void;
  retryMs?: number;
  /** Workers that unpack tiles beside the engine; without them it does so itself. */
  decodePool?: () => { decode: DecodeTiles; close: () => void };
  /** Threads that draw beside the engine; without them it draws alone. */
  helpers?: () => HelperPort[];
}

/** A slice of drawing: short enough that a pen at 120 Hz never waits two events. */
const SLICE_MS = 10;
/** How long texels that nobody waits for are held. */
const HOLD_MS = 250;
/** Drawing that is expected to take longer than this is shown coarsely first. */
const COARSE_FROM_MS = 120;

export class Engine {
  piece!: Piece;
  /** The document with a passing edit on it; what is drawn. */
  private shown!: Piece;
  store = new TileStore();
  surfaces: PieceSurfaces | null = null;
  readonly display = new Display(this.store);
  private history!: History;
  private keeper: Keeper | null = null;
  private modelGlb: Uint8Array | null = null;
  private previewed: Edit | null = null;
  private viewing: Viewing = { look: null, solo: [], hot: null, visible: null };
  private stroke: { run: Stroke; sheetId: string; targetId: string; keys: string[]; at: number; dirty: boolean } | null = null;
  private pumping = false;
  private strokeAt: number | null = null;
  private held: PixelPatch[] = [];
  private deliveredAt = 0;
  private coarsened = false;
  /** Everything has been drawn exactly since the piece was opened. */
  private exactOnce = false;
  /** What a tile of a plane takes to draw; a guess to begin with. */
  private msPerTile = 4;
  private pool: Pool | null = null;
  private cancelled = new Set<number>();
  private pieceId = '';
  /** Requests are carried out one after another: undo may wait for pixels, and what follows waits for it. */
  private chain: Promise<void> = Promise.resolve();

  constructor(private options: EngineOptions) {}

  receive(request: Request): Promise<void> {
    // Strokes, picks and cancels never wait behind an export or an undo's download … unless an undo is under
    // way, which they must not overtake.
    if (request.type === 'cancel') {
      this.cancelled.add(request.id);
      return Promise.resolve();
    }
    if (request.type === 'retry') {
      this.keeper?.retryNow();
      return Promise.resolve();
    }
    this.chain = this.chain.then(() => this.carryOut(request)).catch((error: unknown) => this.fail(request, error));
    return this.chain;
  }

  /** The document with a passing edit on it, all layers as they are. */
  get current(): Piece {
    return this.previewed ? applyEdit(this.piece, this.previewed) : this.piece;
  }

  /** For tests: all that was asked is done, drawn and kept. */
  async settled(): Promise<void> {
    await this.chain;
    while (this.display.pending > 0 || this.pool?.busy) await new Promise((resolve) => setTimeout(resolve, 1));
    await this.keeper?.settled();
  }

  private fail(request: Request, error: unknown): void {
    const message = error instanceof Error ? error.message : String(error);
    if (request.type === 'open') this.options.post({ type: 'failed', message });
    else if (request.type === 'dispatch' || request.type === 'export-piece')
      this.options.post({ type: 'job-failed', id: request.id, message, cancelled: false });
    else if (request.type === 'question') this.options.post({ type: 'no-answer', id: request.id, message });
    else {
      if ('serial' in request) this.postDocument(request.serial);
      const away = error instanceof Unreachable;
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
        return this.open(request.pieceId, request.sheetId);
      case 'focus':
        this.display.focus = request.sheetId;
        return this.show();
      case 'viewing':
        return this.view(request.viewing);
      case 'edit':
        this.finishStroke();
        this.commit(request.edit, request.label, []);
        return this.postDocument(request.serial);
      case 'preview':
        this.previewed = request.edit;
        return this.show();
      case 'layers': {
        this.finishStroke();
        const work = await workOn(this, request.what, this.options);
        this.commit(work.edit, work.label, work.changes);
        return this.postDocument(request.serial, work.select);
      }
      case 'undo':
      case 'redo':
        await this.step(request.type);
        return this.postDocument(request.serial);
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
        return this.resolveConflict(request.choice);
      case 'cancel':
      case 'retry':
        return;
    }
  }

  // ── Opening ──────────────────────────────────────────────────────────────────────────────────────────

  private async open(pieceId: string, sheetId?: string): Promise<void> {
    const { remote, journal, post } = this.options;
    this.pieceId = pieceId;
    post({ type: 'opening', what: 'Looking for strokes that were not kept yet', done: 0, total: 1 });
    if ((await sendJournal(pieceId, journal, remote)) === 'conflict') {
      const waiting = (await journal.list(pieceId)).length;
      return post({ type: 'kept', kept: { state: 'conflict', waiting } });
    }
    const opened = await remote.open(pieceId);
    const parsed = parsePiece(opened.document);
    if (!parsed.ok) throw new Error(parsed.message);
    this.piece = this.shown = parsed.value;
    await Promise.all([this.loadTiles(opened.tiles), this.piece.model ? this.loadModel(this.piece.model.blob) : null]);
    this.surfaces?.query.hideParts(this.piece.hiddenParts);
    this.history = new History(
      pieceId,
      opened.trail.map((t) => t.label),
      opened.position,
      remote,
      this.store,
    );
    this.keeper = new Keeper({
      pieceId,
      revision: opened.revision,
      remote,
      journal,
      newId: this.options.newId,
      retryMs: this.options.retryMs,
      report: (kept) => post({ type: 'kept', kept }),
      notice: (message) => post({ type: 'notice', message }),
    });
    for (const [, , hash] of opened.tiles) this.keeper.rememberKnown(hash);
    const focus = this.piece.sheets.find((s) => s.id === sheetId) ?? this.piece.sheets[0];
    post({ type: 'opening', what: `Placing the texels of ${focus.name}`, done: 0, total: 1 });
    const geometry = this.surfaces ? geometryOf(this.surfaces, this.piece) : null;
    const missing = [
      ...new Set(opened.tiles.filter(([plane, tile]) => !this.store.get(plane, tile)?.data).map(([plane]) => plane)),
    ];
    post({ type: 'opened', document: this.piece, trail: this.history.state, geometry, missing });
    post({ type: 'kept', kept: { state: 'kept', waiting: 0 } });
    const helpers = this.options.helpers?.();
    if (helpers) {
      this.pool = new Pool(helpers, this.store, (patches) => this.deliver(patches, null), this.display);
      this.pool.tellAll();
    }
    this.display.focus = focus.id;
    this.show();
  }

  private async loadTiles(rows: readonly [string, number, string][]): Promise<void> {
    const { remote, post } = this.options;
    const versions = new Map<string, TileVersion>();
    for (const [plane, tile, hash] of rows) {
      let version = versions.get(hash);
      if (!version) versions.set(hash, (version = { data: null, hash }));
      this.store.set(plane, tile, version);
    }
    const hashes = [...versions.keys()];
    const pool = this.options.decodePool?.();
    const decode: DecodeTiles = pool?.decode ?? ((blobs) => Promise.all(blobs.map((blob) => decodeTile(blob).catch(() => null))));
    let done = 0;
    const decoding: Promise<void>[] = [];
    for (let i = 0; i < hashes.length; i += 128) {
      const found = [...(await remote.blobs(hashes.slice(i, i + 128)))];
      decoding.push(
        decode(found.map(([, blob]) => blob)).then((tiles) => {
          found.forEach(([hash], n) => (versions.get(hash)!.data = tiles[n]));
          post({ type: 'opening', what: 'Fetching tiles', done: (done += found.length), total: hashes.length });
        }),
      );
    }
    await Promise.all(decoding);
    pool?.close();
    const lost = rows.filter(([, , hash]) => !versions.get(hash)!.data);
    if (lost.length)
      post({
        type: 'notice',
        message: `${lost.length} tiles of this piece are missing in the house; they count as unpainted, and the strata mark where.`,
      });
    const fault = validateTiles(this.store);
    if (fault) throw new Error(fault);
  }

  private async loadModel(hash: string): Promise<void> {
    const glb = (await this.options.remote.blobs([hash])).get(hash);
    if (!glb) throw new Error('The model of this piece is missing in the house: import the piece file again.');
    this.modelGlb = glb.slice();
    const model = await readModel(new Map([['model.glb', glb]]));
    this.surfaces = new PieceSurfaces(model, this.piece.model!.uvSet);
    for (const sheet of this.piece.sheets) this.surfaces.forSheet(sheet);
    attachSurfaces(this.store, model, this.piece.model!.uvSet, this.surfaces);
  }

  // ── Edits ────────────────────────────────────────────────────────────────────────────────────────────

  private commit(edit: Edit, label: string, changes: TileChange[]): void {
    this.piece = applyEdit(this.piece, edit);
    this.apply(changes);
    this.history.push(label, edit, changes);
    this.keeper!.keep({ kind: 'edit', edit, label, changes });
    this.adopt();
  }

  private async step(direction: 'undo' | 'redo'): Promise<void> {
    this.finishStroke();
    if (direction === 'undo' ? !this.history.canUndo() : !this.history.canRedo()) return;
    const { edit, changes } = await this.history.load(direction);
    this.piece = applyEdit(this.piece, direction === 'undo' ? invertEdit(edit) : edit);
    this.apply(direction === 'undo' ? invertChanges(changes) : changes);
    this.history.moved(direction);
    this.keeper!.keep({ kind: direction });
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
    for (const [hash, blob] of await this.options.remote.blobs(wanted)) {
      out.set(hash, { data: await decodeTile(blob), hash });
      this.keeper!.rememberKnown(hash);
    }
    return out;
  }

  private postDocument(serial: number, select?: string[]): void {
    this.options.post({ type: 'document', document: this.piece, trail: this.history.state, serial, select });
  }

  // ── Strokes ──────────────────────────────────────────────────────────────────────────────────────────

  private beginStroke(request: Extract<Request, { type: 'stroke-begin' }>): void {
    this.finishStroke();
    const sheet = findSheet(this.piece, request.sheetId);
    const layer = findLayer(sheet, request.layerId);
    if (layer ? layer.kind !== 'painted' || layer.lock !== 'none' : !maskOfStep(sheet, request.layerId)) return;
    const surface = this.surfaces?.forSheet(sheet) ?? null;
    const run = new Stroke({ sheet, layerId: request.layerId, store: this.store, surface }, request.brush);
    const maps = (Object.keys(request.brush.writes) as PlaneMap[]).filter((m) => request.brush.writes[m]!.on);
    const keys = maps.map((m) => planeKey(request.layerId, m));
    this.stroke = { run, sheetId: sheet.id, targetId: request.layerId, keys, at: request.at, dirty: false };
    this.addToStroke(request.samples, request.at);
  }

  private addToStroke(samples: Extract<Request, { type: 'stroke-add' }>['samples'], at: number): void {
    if (!this.stroke) return;
    this.stroke.run.add(samples);
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
        this.display.markPaint(this.shown, stroke.sheetId, key, rect.tile, rect);
      }
  }

  private finishStroke(): void {
    const stroke = this.stroke;
    if (!stroke) return;
    stroke.run.end();
    stroke.dirty = true;
    this.flushStroke();
    this.stroke = null;
    const changes = stroke.run.changes();
    this.pump();
    if (changes.length === 0) return;
    const edit: Edit = { type: 'paint', sheetId: stroke.sheetId, layerId: stroke.targetId };
    const label = describeEdit(edit, this.piece);
    this.history.push(label, edit, changes);
    this.keeper!.keep({ kind: 'edit', edit, label, changes });
    this.postDocument(-1);
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
        store: this.store.clone(),
        model: this.surfaces?.model ?? null,
        surfaces: this.surfaces?.mapsBySheet(this.piece),
      },
      modelGlb: this.modelGlb,
      post: this.options.post,
      isCancelled: () => this.cancelled.has(request.id),
      breathe: () => new Promise((resolve) => this.options.later(resolve)),
    });
  }

  private async resolveConflict(choice: 'copy' | 'discard'): Promise<void> {
    const { remote, journal, post, newId } = this.options;
    await this.keeper?.settled();
    if (choice === 'copy') {
      const { id, left } = await moveJournalToCopy(this.pieceId, journal, remote, newId);
      if (left > 0) post({ type: 'notice', message: `${left} changes no longer fit the piece and were left out.` });
      return post({ type: 'goto', pieceId: id });
    }
    for (const entry of await journal.list(this.pieceId)) await journal.remove(this.pieceId, entry.id);
    post({ type: 'goto', pieceId: this.pieceId });
  }
}
