/**
 * The engine: one open piece, its pixels, its strokes, its keeping. Runs in a worker of the page, and in Node
 * for tests; it speaks only through `post`, `remote` and `journal`.
 */
import { Stroke } from '../core/brush/stroke';
import { applyEdit, describeEdit, invertEdit, type Edit } from '../core/document/edits';
import { findLayer, findSheet, parsePiece, planeKey, type Piece } from '../core/document/schema';
import { readModel } from '../core/mesh/readModel';
import { PieceSurfaces } from '../core/piece/surfaces';
import { invertChanges, TileStore, validateTiles, type TileChange, type TileVersion } from '../core/raster/tiles';
import { planesOfMap, type PlaneId } from '../core/strata/displayPlanes';
import { valueAt } from '../core/strata/evaluate';
import type { DecodeTiles } from './decodePool';
import { dirtyPlanesOf } from './dirtyPlanes';
import { Display } from './display';
import { geometryOf } from './geometry';
import { History } from './history';
import type { Journal } from './journal';
import { runJob } from './jobs';
import { Keeper, moveJournalToCopy, sendJournal } from './keeper';
import type { Event, PickPlace, PickedValues, Request } from './protocol';
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
}

/** A slice of drawing: short enough that a pen at 120 Hz never waits two events. */
const SLICE_MS = 10;

export class Engine {
  piece!: Piece;
  /** The document with a passing edit on it; what is drawn. */
  private shown!: Piece;
  store = new TileStore();
  surfaces: PieceSurfaces | null = null;
  private display = new Display(this.store);
  private history!: History;
  private keeper: Keeper | null = null;
  private modelGlb: Uint8Array | null = null;
  private stroke: { run: Stroke; sheetId: string; layerId: string; planes: PlaneId[]; at: number; dirty: boolean } | null = null;
  private pumping = false;
  private strokeAt: number | null = null;
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

  /** For tests: all that was asked is done, drawn and kept. */
  async settled(): Promise<void> {
    await this.chain;
    while (this.display.pending > 0) await new Promise((resolve) => setTimeout(resolve, 1));
    await this.keeper?.settled();
  }

  private fail(request: Request, error: unknown): void {
    const message = error instanceof Error ? error.message : String(error);
    if (request.type === 'open') this.options.post({ type: 'failed', message });
    else if (request.type === 'dispatch' || request.type === 'export-piece')
      this.options.post({ type: 'job-failed', id: request.id, message, cancelled: false });
    else {
      if ('serial' in request) this.postDocument(request.serial);
      const away = error instanceof Unreachable;
      this.options.post({
        type: 'notice',
        message: away ? `${message} Try again when it is back.` : `That did not work: ${message}.`,
      });
    }
  }

  private async carryOut(request: Request): Promise<void> {
    switch (request.type) {
      case 'open':
        return this.open(request.pieceId, request.sheetId);
      case 'focus':
        this.display.focus = request.sheetId;
        return;
      case 'edit':
        this.finishStroke();
        this.commit(request.edit, request.label, []);
        return this.postDocument(request.serial);
      case 'preview':
        return this.preview(request.edit);
      case 'duplicate-layer':
        this.duplicateLayer(request);
        return this.postDocument(request.serial);
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
      case 'pick':
        return this.options.post({ type: 'picked', id: request.id, picked: this.pick(request.sheetId, request.place) });
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
    post({ type: 'opened', document: this.piece, trail: this.history.state, geometry });
    post({ type: 'kept', kept: { state: 'kept', waiting: 0 } });
    this.display.focus = focus.id;
    this.display.adopt(this.piece);
    this.pump();
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
    for (const [plane, tile] of lost) this.store.set(plane, tile, null);
    if (lost.length)
      post({ type: 'notice', message: `${lost.length} tiles of this piece are missing in the house; they show as unpainted.` });
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
  }

  // ── Edits ────────────────────────────────────────────────────────────────────────────────────────────

  private commit(edit: Edit, label: string, changes: TileChange[]): void {
    const before = this.shown;
    this.piece = applyEdit(this.piece, edit);
    this.store.apply(changes);
    this.history.push(label, edit, changes);
    this.keeper!.keep({ kind: 'edit', edit, label, changes });
    this.adopt(before, changes);
  }

  private preview(edit: Edit | null): void {
    const before = this.shown;
    this.shown = edit ? applyEdit(this.piece, edit) : this.piece;
    this.refresh(before, this.shown, []);
  }

  private async step(direction: 'undo' | 'redo'): Promise<void> {
    this.finishStroke();
    if (direction === 'undo' ? !this.history.canUndo() : !this.history.canRedo()) return;
    const { edit, changes } = await this.history.load(direction);
    const before = this.shown;
    const applied = direction === 'undo' ? invertChanges(changes) : changes;
    this.piece = applyEdit(this.piece, direction === 'undo' ? invertEdit(edit) : edit);
    this.store.apply(applied);
    this.history.moved(direction);
    this.keeper!.keep({ kind: direction });
    this.adopt(before, applied);
  }

  private adopt(before: Piece, changes: readonly TileChange[]): void {
    this.shown = this.piece;
    this.surfaces?.query.hideParts(this.piece.hiddenParts);
    this.refresh(before, this.piece, changes);
  }

  private refresh(before: Piece, after: Piece, changes: readonly TileChange[]): void {
    this.display.adopt(after);
    for (const { sheetId, planes, tiles } of dirtyPlanesOf(before, after, changes, this.store)) {
      if (tiles === 'all') this.display.markAll(after, sheetId, planes);
      else for (const tile of tiles) this.display.mark(after, sheetId, planes, tile);
    }
    this.pump();
  }

  private duplicateLayer(request: Extract<Request, { type: 'duplicate-layer' }>): void {
    const sheet = findSheet(this.piece, request.sheetId);
    const at = sheet.layers.findIndex((l) => l.id === request.layerId);
    if (at < 0) return;
    const layer = { ...structuredClone(sheet.layers[at]), id: request.newId, name: request.name };
    const changes: TileChange[] = sheet.maps.flatMap((map) =>
      [...this.store.tilesOf(planeKey(request.layerId, map))].map(([tile, version]) => ({
        plane: planeKey(request.newId, map),
        tile,
        before: null,
        after: version,
      })),
    );
    const edit: Edit = { type: 'add-layer', sheetId: sheet.id, index: at + 1, layer };
    this.commit(edit, `Duplicate ${sheet.layers[at].name}`, changes);
  }

  private postDocument(serial: number): void {
    this.options.post({ type: 'document', document: this.piece, trail: this.history.state, serial });
  }

  // ── Strokes ──────────────────────────────────────────────────────────────────────────────────────────

  private beginStroke(request: Extract<Request, { type: 'stroke-begin' }>): void {
    this.finishStroke();
    const sheet = findSheet(this.piece, request.sheetId);
    const layer = findLayer(sheet, request.layerId);
    if (layer?.kind !== 'painted') return;
    const surface = this.surfaces?.forSheet(sheet) ?? null;
    const run = new Stroke({ sheet, layerId: layer.id, store: this.store, surface }, request.brush);
    const planes = new Set<PlaneId>();
    for (const map of sheet.maps) if (request.brush.writes[map]?.on) planesOfMap(map).forEach((p) => planes.add(p));
    this.stroke = { run, sheetId: sheet.id, layerId: layer.id, planes: [...planes], at: request.at, dirty: false };
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
    for (const rect of stroke.run.flush()) this.display.mark(this.shown, stroke.sheetId, stroke.planes, rect.tile, rect);
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
    const edit: Edit = { type: 'paint', sheetId: stroke.sheetId, layerId: stroke.layerId };
    const label = describeEdit(edit, this.piece);
    this.history.push(label, edit, changes);
    this.keeper!.keep({ kind: 'edit', edit, label, changes });
    this.postDocument(-1);
  }

  private cancelStroke(): void {
    const stroke = this.stroke;
    if (!stroke) return;
    const changes = stroke.run.changes();
    stroke.run.cancel();
    this.stroke = null;
    for (const c of changes) this.display.mark(this.shown, stroke.sheetId, stroke.planes, c.tile);
    this.pump();
  }

  private pick(sheetId: string, place: PickPlace): PickedValues | null {
    let sheet = findSheet(this.piece, sheetId);
    let { x, y } = place.pane === 'flat' ? place : { x: -1, y: -1 };
    if (place.pane === 'model') {
      const hit = this.surfaces?.query.raycast(place.origin, place.direction);
      if (!hit) return null;
      const { model } = this.surfaces!;
      const owner = this.piece.sheets.find((s) => s.materialIndex === model.faceMaterial[hit.face]);
      if (!owner) return null;
      sheet = owner;
      const corners = this.surfaces!.forSheet(sheet)!.map.cornersTexels;
      [x, y] = [0, 1].map((k) => hit.barycentric.reduce((sum, w, c) => sum + w * corners[hit.face * 6 + c * 2 + k], 0));
    }
    if (sheet.wrapU) x -= Math.floor(x / sheet.width) * sheet.width;
    if (sheet.wrapV) y -= Math.floor(y / sheet.height) * sheet.height;
    if (!(x >= 0 && y >= 0 && x < sheet.width && y < sheet.height)) return null;
    const values: PickedValues['values'] = {};
    for (const map of sheet.maps) values[map] = valueAt({ sheet, store: this.store }, map, Math.floor(x), Math.floor(y));
    return { sheetId: sheet.id, x: Math.floor(x), y: Math.floor(y), values };
  }

  // ── Drawing ──────────────────────────────────────────────────────────────────────────────────────────

  private pump(): void {
    if (this.pumping) return;
    this.pumping = true;
    this.options.later(() => {
      this.pumping = false;
      this.flushStroke();
      const end = this.options.now() + SLICE_MS;
      const patches = this.display.work(this.shown, () => this.options.now() > end);
      if (patches.length) {
        const strokeAt = this.display.pending === 0 || this.stroke ? this.strokeAt : null;
        this.options.post(
          { type: 'pixels', patches, strokeAt },
          patches.map((p) => p.data.buffer),
        );
        if (strokeAt !== null) this.strokeAt = null;
      }
      if (this.display.pending > 0 || this.stroke?.dirty) this.pump();
    });
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
