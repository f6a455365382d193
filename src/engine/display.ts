/**
 * The display planes of all sheets and what of them is out of date. Work is done in slices so that pointer
 * events never wait long; what the flat pane shows of the sheet in focus comes first; only the newest state is
 * ever drawn. Out of date is a tile whose signature is not the one that was drawn; a running stroke marks the
 * rectangles that it touched.
 */
import { findSheet, type Piece, type Sheet } from '../core/document/schema';
import { miniatureOf } from '../core/piece/miniature';
import { cropped, evenTexel, type MipLevel, type MipPatch, type Rect } from '../core/tile/mips';
import { TILE, tileIndex, tilesInBands, tilesOf, WHOLE_TILE, type TileIndex, type TileStore } from '../core/tile/tiles';
import { dependenceOf, planeSignature } from '../core/strata/depends';
import { FENCE_LOOK, maskOf, planesFor, renderPlane, type Look } from '../core/strata/displayPlanes';
import { mapInfo } from '../core/kinds/maps';
import { PLANES, type PlaneId } from '../core/kinds/shown';
import { Evaluator } from '../core/strata/evaluator';
import { programOf } from '../core/strata/program';
import type { Signature } from '../core/strata/signature';
import { TileCache } from '../core/strata/tileCache';
import { ALL_OF_IT, mark, newPlane, touch, WHOLE, type Area, type PlaneDisplay, type SheetDisplay } from './planeDisplay';
import type { PixelPatch } from './protocol';
import { readRun, type Shelf } from './shelf';
import { evenTile, onSheet, paste, runsOf, within } from './tilePictures';

/** A tile of a plane to be drawn, and what it will be made from. */
export interface DrawJob {
  sheetId: string;
  plane: PlaneId;
  tile: TileIndex;
  signature: Signature;
  look: Look | null;
}

/** Longer side of the coarse picture. */
const COARSE_SIDE = 256;

/** Beyond this many texels it is cheaper to ask the signatures than to draw all within reach. */
const FAR_REACH = 512;

export class Display {
  private sheets = new Map<string, SheetDisplay>();
  private evaluators = new Map<string, { sheet: Sheet; evaluator: Evaluator }>();
  readonly cache = new TileCache();
  focus: string | null = null;
  /** Texels of the sheet in focus that the flat pane shows. */
  visible: Rect | null = null;
  /** What is looked at by itself on the sheet in focus. */
  look: Look | null = null;
  /** Goes up with every change of tiles: evaluators from before must not be used any more. */
  revision = 0;
  /** What was drawn before, by sheet. */
  shelves = new Map<string, Shelf>();
  /** Texels are not at hand yet: only what was drawn before is shown. */
  onlyKept = false;
  /** What was kept has not been looked through since the last refresh. */
  keptDue = false;
  /**
   * What others have drawn is on its way: until all of it is there, only what strokes have reached, and what is looked at by
   * itself, is drawn here.
   */
  awaited = false;
  /** Tiles were changed since the piece was opened: signatures are those of this day only. */
  private get changedHere(): boolean {
    return this.changes > 0;
  }
  private changes = 0;
  /** The layer at work: what lies below it is kept ready. */
  private hot: string | null = null;

  constructor(private store: TileStore) {}

  /** A tile changed: signatures are computed anew. Another document needs no telling, its sheets are other objects. */
  changed(): void {
    this.changes++;
    this.renew();
  }

  get anythingKept(): boolean {
    return [...this.shelves.values()].some((shelf) => !shelf.empty);
  }

  private renew(): void {
    this.revision++;
    this.evaluators.clear();
  }

  /** From now on texels are at hand; `lost`: some of them are not, and count as unpainted. */
  filled(lost: boolean): void {
    this.onlyKept = false;
    if (lost) for (const { planes } of this.sheets.values()) for (const plane of planes.values()) plane.wantedFrom = null;
    this.renew();
  }

  workOn(layerId: string | null): void {
    if (layerId !== this.hot) this.renew();
    this.hot = layerId;
  }

  get workedOn(): string | null {
    return this.hot;
  }

  evaluator(sheet: Sheet): Evaluator {
    const known = this.evaluators.get(sheet.id);
    if (known?.sheet === sheet) return known.evaluator;
    const lasting = this.onlyKept ? { unkept: () => undefined } : undefined;
    const evaluator = new Evaluator({ sheet, store: this.store, cache: this.cache, hot: this.hot, lasting });
    this.evaluators.set(sheet.id, { sheet, evaluator });
    return evaluator;
  }

  private lookOf(sheetId: string): Look | null {
    return sheetId === this.focus ? this.look : null;
  }

  /** Takes over a document: makes planes, and marks every tile that does not look as it was drawn. */
  refresh(piece: Piece): void {
    this.keptDue = this.anythingKept;
    for (const id of this.sheets.keys()) if (!piece.sheets.some((s) => s.id === id)) this.sheets.delete(id);
    for (const sheet of piece.sheets) {
      const display = this.planes(sheet);
      for (const [id, plane] of display.planes) {
        if (!this.knows(sheet, plane)) plane.wantedFrom = null;
        // Nothing is drawn yet: how it should look is asked tile by tile, after what a pen may have reached by then.
        if (plane.drawn.size === 0) for (const tile of tilesInBands(sheet.width, sheet.height)) plane.dirty.set(tile, WHOLE);
        else
          for (const [tile, signature] of this.want(sheet, id, plane))
            if (plane.drawn.get(tile) !== signature) plane.dirty.set(tile, WHOLE);
            // Back to what is drawn already (a preview that was taken back in time).
            else plane.dirty.delete(tile);
      }
    }
  }

  /** How the tiles of a plane should look is worked out for the sheet as it is. */
  private knows(sheet: Sheet, { wantedFrom: from }: PlaneDisplay): boolean {
    return from?.sheet === sheet && from.changes === this.changes && from.look === this.lookOf(sheet.id);
  }

  /** How the tiles of a plane should look; what strokes have reached since it was worked out may look different. */
  private want(sheet: Sheet, id: PlaneId, plane: PlaneDisplay): ReadonlyMap<TileIndex, Signature> {
    if (plane.wantedFrom) return plane.wanted;
    const look = this.lookOf(sheet.id);
    const evaluator = this.evaluator(sheet);
    for (const tile of tilesInBands(sheet.width, sheet.height))
      plane.wanted.set(tile, planeSignature(evaluator, sheet, id, tile, look));
    plane.wantedFrom = { sheet, changes: this.changes, look };
    return plane.wanted;
  }

  private planes(sheet: Sheet): SheetDisplay {
    let display = this.sheets.get(sheet.id);
    if (!display || display.width !== sheet.width || display.height !== sheet.height)
      this.sheets.set(sheet.id, (display = { width: sheet.width, height: sheet.height, planes: new Map() }));
    const wanted = planesFor(sheet, this.lookOf(sheet.id));
    for (const id of wanted) if (!display.planes.has(id)) display.planes.set(id, newPlane(sheet, id));
    for (const id of display.planes.keys()) if (!wanted.includes(id)) display.planes.delete(id);
    return display;
  }

  /** Marks what a change in part of a painted plane's tile can reach. */
  markPaint(piece: Piece, sheetId: string, planeKey: string, tile: TileIndex, area: Area = WHOLE): void {
    const sheet = findSheet(piece, sheetId);
    const display = this.sheets.get(sheetId);
    if (!display) return;
    const look = this.lookOf(sheetId);
    for (const [id, plane] of display.planes) {
      const maps = id === 'view' && look?.kind === 'map' ? [look.map] : PLANES[id].maps;
      for (const map of maps) {
        const { planes, reach } = dependenceOf(programOf(sheet, map));
        if (planes.has(planeKey))
          this.markAround(sheet, id, plane, tile, area, reach + (mapInfo(map).relief ? PLANES[id].halo : 0));
      }
      const seen = id === 'fence' ? FENCE_LOOK : id === 'view' && look?.kind === 'mask' ? look : null;
      if (seen) {
        const use = maskOf(sheet, seen.maskId, seen.layerId);
        if (use?.painted?.plane === planeKey) touch(plane, tile, area);
        else if (use && !use.painted) {
          const { planes, reach } = dependenceOf(use.scope);
          if (planes.has(planeKey)) this.markAround(sheet, id, plane, tile, area, reach);
        }
      }
    }
  }

  /** Where a change may come out far away (a shift), signatures say what really changed. */
  private markAround(sheet: Sheet, id: PlaneId, plane: PlaneDisplay, tile: TileIndex, area: Area, reach: number): void {
    if (reach < FAR_REACH) return mark(sheet, plane, tile, area, reach);
    const evaluator = this.evaluator(sheet);
    const look = this.lookOf(sheet.id);
    for (const t of tilesOf(sheet.width, sheet.height))
      if (plane.drawn.get(t) !== planeSignature(evaluator, sheet, id, t, look)) plane.dirty.set(t, ALL_OF_IT);
  }

  /** Colour as it is drawn so far, 256 a side at most. */
  smallPicture(sheetId: string): { width: number; height: number; data: Uint8ClampedArray<ArrayBuffer> } | null {
    const pyramid = this.sheets.get(sheetId)?.planes.get('colour')?.pyramid;
    const sheet = this.evaluators.get(sheetId)?.sheet;
    if (!pyramid || !sheet) return null;
    const n = pyramid.sizes.findIndex((l) => Math.max(l.width, l.height) <= 256);
    if (n > 0) return ofBytes(pyramid.level(n));
    // It is small by itself, and its own texels are not kept.
    const whole = { ...pyramid.sizes[0], data: new Uint8Array(pyramid.width * pyramid.height * 4) };
    for (const tile of tilesOf(sheet.width, sheet.height))
      paste(renderPlane(this.evaluator(sheet), sheet, 'colour', tile, WHOLE_TILE), tile, whole);
    return ofBytes(whole);
  }

  get pending(): number {
    let n = 0;
    for (const display of this.sheets.values()) for (const plane of display.planes.values()) n += plane.dirty.size;
    return n;
  }

  private focusFirst(piece: Piece): Sheet[] {
    return [...piece.sheets].sort((a, b) => Number(b.id === this.focus) - Number(a.id === this.focus));
  }

  /**
   * Draws what was kept, until `until` says stop: tiles side by side go as one, since each patch costs the card some dozen calls. What
   * was not kept stays to be drawn.
   */
  private workKept(piece: Piece, until: () => boolean): PixelPatch[] {
    const patches: PixelPatch[] = [];
    for (const sheet of this.focusFirst(piece)) {
      const shelf = this.shelves.get(sheet.id);
      if (!shelf) continue;
      for (const [id, plane] of this.sheets.get(sheet.id)?.planes ?? []) {
        if (id === 'view') continue;
        // What strokes have reached since is not to be drawn as a whole any more.
        const wanted = this.want(sheet, id, plane);
        const signatureOf = (tile: TileIndex) => wanted.get(tile)!;
        const there = [...plane.dirty]
          .filter(([tile, area]) => area === WHOLE && shelf.signatureOf(id, tile) === signatureOf(tile))
          .map(([tile]) => tile);
        for (const rect of runsOf(there, sheet)) {
          const texels = readRun(shelf, id, rect, signatureOf);
          // It could not be read: it is drawn when texels are at hand.
          if (!texels) continue;
          for (let x = rect.x; x < rect.x + rect.width; x += TILE) {
            const tile = tileIndex(x / TILE, rect.y / TILE);
            plane.dirty.delete(tile);
            plane.drawn.set(tile, signatureOf(tile));
          }
          send(patches, sheet.id, id, plane.pyramid.lay(rect, texels));
          if (until()) return patches;
        }
      }
    }
    this.keptDue = false;
    return patches;
  }

  /** The last work drew what a stroke has reached. */
  drewTouched = false;

  /** Draws what strokes have reached, until `until` says stop. */
  private workTouched(piece: Piece, until: () => boolean): PixelPatch[] {
    const patches: PixelPatch[] = [];
    for (const sheet of this.focusFirst(piece))
      for (const [id, plane] of this.sheets.get(sheet.id)?.planes ?? [])
        for (const tile of plane.touched) {
          plane.touched.delete(tile);
          const area = plane.dirty.get(tile);
          if (!area) continue;
          plane.dirty.delete(tile);
          this.draw(sheet, id, plane, tile, area, patches);
          if (until()) return patches;
        }
    return patches;
  }

  /**
   * Works out a tile in the middle of what is seen, and forgets it: the first one takes four times as long as any other, since all
   * that is needed for it is made and compiled. Then none under a pen is the first.
   */
  warmUp(piece: Piece): void {
    const sheet = this.focusFirst(piece)[0];
    const { x, y, width, height } = (sheet.id === this.focus && this.visible) || { x: 0, y: 0, ...sheet };
    const tile = tileIndex(Math.floor((x + width / 2) / TILE), Math.floor((y + height / 2) / TILE));
    if (onSheet(tile, WHOLE_TILE, sheet).width > 0) renderPlane(this.evaluator(sheet), sheet, 'colour', tile, WHOLE_TILE);
  }

  /** Draws until `until` says stop; returns the new texels. */
  work(piece: Piece, until: () => boolean): PixelPatch[] {
    const touched = this.onlyKept ? [] : this.workTouched(piece, until);
    this.drewTouched = touched.length > 0;
    if (this.drewTouched) return this.merged(touched);
    if (this.onlyKept || this.keptDue) {
      const kept = this.workKept(piece, until);
      if (this.onlyKept || this.keptDue || kept.length > 0) return kept;
    }
    const patches: PixelPatch[] = [];
    const order = this.focusFirst(piece);
    const turns = this.visible && order[0]?.id === this.focus ? [{ sheet: order[0], near: this.visible }] : [];
    for (const { sheet, near } of [...turns, ...order.map((sheet) => ({ sheet, near: null }))])
      for (const [id, plane, tile, area] of this.due(sheet)) {
        if (near && !within(tile, near)) continue;
        // What is looked at by itself nobody has drawn.
        if (this.awaited && id !== 'view') continue;
        plane.dirty.delete(tile);
        this.draw(sheet, id, plane, tile, area, patches);
        if (until()) return this.merged(patches);
      }
    return this.merged(patches);
  }

  /** Each plane's, in as few as is worth it. */
  private merged(patches: PixelPatch[]): PixelPatch[] {
    return [...this.sheets].flatMap(([sheetId, { planes }]) =>
      [...planes].flatMap(([plane, { pyramid }]) =>
        pyramid
          .merged(patches.filter((p) => p.sheetId === sheetId && p.plane === plane))
          .map((patch) => ({ sheetId, plane, ...patch })),
      ),
    );
  }

  /** What is to be drawn, tile by tile: sources and masks that several planes share are still at hand for the next. */
  private *due(sheet: Sheet): Generator<[PlaneId, PlaneDisplay, TileIndex, Area]> {
    const planes = [...(this.sheets.get(sheet.id)?.planes ?? [])];
    for (const tile of new Set(planes.flatMap(([, plane]) => [...plane.dirty.keys()])))
      for (const [id, plane] of planes) {
        const area = plane.dirty.get(tile);
        if (area) yield [id, plane, tile, area];
      }
  }

  /**
   * A first, coarse picture of what is to be drawn: from a miniature, made larger. The tiles stay to be drawn exactly.
   * `seen`: only what the flat pane shows.
   */
  coarse(piece: Piece, seen: boolean): PixelPatch[] {
    const patches: PixelPatch[] = [];
    for (const sheet of this.focusFirst(piece)) {
      if (seen && sheet.id !== this.focus) continue;
      const planes = [...(this.sheets.get(sheet.id)?.planes ?? [])].filter(([, p]) => p.dirty.size > 0);
      if (planes.length === 0) continue;
      const mini = miniatureOf(sheet, this.store, COARSE_SIDE);
      const evaluator = new Evaluator(mini);
      const { width, height } = mini.sheet;
      // What the pane shows of the miniature, and the texel next to it.
      const scale = width / sheet.width;
      const near = seen ? this.visible : null;
      const shown = near && {
        x: near.x * scale - 1,
        y: near.y * scale - 1,
        width: near.width * scale + 2,
        height: near.height * scale + 2,
      };
      for (const [id, plane] of planes) {
        const small = { width, height, data: new Uint8Array(width * height * 4) };
        for (const tile of tilesOf(width, height))
          if (!shown || within(tile, shown))
            paste(renderPlane(evaluator, mini.sheet, id, tile, WHOLE_TILE, this.lookOf(sheet.id)), tile, small);
        const whole = [...plane.dirty].filter(
          ([tile, area]) => area.x1 - area.x0 === TILE && area.y1 - area.y0 === TILE && (!near || within(tile, near)),
        );
        for (const [tile] of whole) plane.drawn.delete(tile);
        for (const rect of runsOf(
          whole.map(([tile]) => tile),
          sheet,
        ))
          send(patches, sheet.id, id, plane.pyramid.enlarge(small, rect));
      }
    }
    return patches;
  }

  /** Whole tiles that are to be drawn, of those that the flat pane shows or of all. */
  wholePending(seen: boolean): number {
    let n = 0;
    for (const [id, display] of this.sheets)
      if (!seen || id === this.focus)
        for (const plane of display.planes.values())
          for (const [tile, area] of plane.dirty)
            if (
              area.x1 - area.x0 === TILE &&
              area.y1 - area.y0 === TILE &&
              (!seen || !this.visible || within(tile, this.visible))
            )
              n++;
    return n;
  }

  /** Hands out up to `most` tiles to be drawn elsewhere; `accept` takes them back. */
  take(piece: Piece, most: number): DrawJob[] {
    const jobs: DrawJob[] = [];
    for (const sheet of this.focusFirst(piece))
      // From the other end: two that draw towards each other have few neighbours in common.
      for (const [id, plane, tile, area] of [...this.due(sheet)].reverse()) {
        if (jobs.length >= most) return jobs;
        // Small rectangles are a stroke's: they are quicker drawn here.
        if (plane.touched.has(tile) || area.x1 - area.x0 < TILE || area.y1 - area.y0 < TILE) continue;
        const look = this.lookOf(sheet.id);
        const signature = planeSignature(this.evaluator(sheet), sheet, id, tile, look);
        // So are tiles of one texel, and those that were kept.
        if (this.evenTiles.has(id + signature) || this.shelves.get(sheet.id)?.signatureOf(id, tile) === signature) continue;
        plane.dirty.delete(tile);
        plane.drawn.set(tile, signature);
        jobs.push({ sheetId: sheet.id, plane: id, tile, signature, look });
      }
    return jobs;
  }

  /** A tile that was handed out never comes back. */
  drawAgain({ sheetId, plane, tile }: DrawJob): void {
    this.sheets.get(sheetId)?.planes.get(plane)?.dirty.set(tile, ALL_OF_IT);
  }

  /** A drawn tile comes back: RGBA of 128 × 128. If the tile has changed in the meantime, all of it is to be drawn anew. */
  accept(job: DrawJob, rgba: Uint8Array): PixelPatch | null {
    const display = this.sheets.get(job.sheetId);
    const plane = display?.planes.get(job.plane);
    if (!display || !plane) return null;
    if (plane.drawn.get(job.tile) !== job.signature) {
      plane.dirty.set(job.tile, ALL_OF_IT);
      return null;
    }
    const rect = onSheet(job.tile, WHOLE_TILE, display);
    const patches: PixelPatch[] = [];
    const texels = cropped(rgba, TILE, rect);
    this.offer(job.sheetId, job.plane, job.tile, job.signature, evenTexel(texels, rect.width * rect.height) ?? rgba);
    send(patches, job.sheetId, job.plane, plane.pyramid.lay(rect, texels));
    return patches[0] ?? null;
  }

  private draw(sheet: Sheet, id: PlaneId, plane: PlaneDisplay, tile: TileIndex, area: Area, patches: PixelPatch[]): void {
    const evaluator = this.evaluator(sheet);
    const look = this.lookOf(sheet.id);
    const signature = planeSignature(evaluator, sheet, id, tile, look);
    plane.drawn.set(tile, signature);
    // In fours for the evaluation, in pairs for the levels below: what is too much comes out as it was.
    const x = area.x0 & ~3;
    const y = area.y0 & ~1;
    const within = { x, y, width: Math.min(TILE, (area.x1 + 3) & ~3) - x, height: Math.min(TILE, (area.y1 + 1) & ~1) - y };
    const rect = onSheet(tile, within, sheet);
    if (rect.width <= 0 || rect.height <= 0) return;
    const kept = area === WHOLE && id !== 'view' ? (this.shelves.get(sheet.id)?.read(id, tile, signature) ?? null) : null;
    const even = typeof kept === 'number' ? kept : this.evenTiles.get(id + signature);
    if (even !== undefined) {
      const patch = plane.pyramid.layEven(even);
      if (patch !== undefined) return send(patches, sheet.id, id, patch);
    }
    const drawn =
      even !== undefined
        ? evenTile(even)
        : ((kept as Uint8Array | null) ?? renderPlane(evaluator, sheet, id, tile, within, look));
    const texels = cropped(drawn, within.width, rect);
    if (area === WHOLE) {
      const one = evenTexel(texels, rect.width * rect.height);
      this.rememberEven(id + signature, one);
      if (kept === null) this.offer(sheet.id, id, tile, signature, one ?? drawn);
    }
    send(patches, sheet.id, id, plane.pyramid.lay(rect, texels));
  }

  /** A whole tile was drawn: it is kept for another day, unless its signature hangs on what has no address yet. */
  private offer(sheetId: string, id: PlaneId, tile: TileIndex, signature: Signature, texels: Uint8Array | number): void {
    if (!this.changedHere && id !== 'view') this.shelves.get(sheetId)?.put(id, tile, signature, texels);
  }

  /**
   * Puts tiles that look different from what is kept onto the shelves, until `until` says stop; whether all is done.
   */
  keep(piece: Piece, until: () => boolean): boolean {
    for (const sheet of piece.sheets) {
      const shelf = this.shelves.get(sheet.id);
      if (!shelf) continue;
      let unkept = false;
      const lasting = new Evaluator({ sheet, store: this.store, lasting: { unkept: () => (unkept = true) } });
      for (const id of planesFor(sheet, null))
        for (const tile of tilesOf(sheet.width, sheet.height)) {
          const signature = planeSignature(lasting, sheet, id, tile, null);
          // A tile of the sheet has no address yet: another time.
          if (unkept) return true;
          if (shelf.signatureOf(id, tile) === signature) continue;
          const drawn = renderPlane(this.evaluator(sheet), sheet, id, tile, WHOLE_TILE);
          shelf.put(id, tile, signature, evenTexel(drawn, TILE * TILE) ?? drawn);
          if (until()) return false;
        }
      shelf.flush();
    }
    return true;
  }

  /** Tiles of one texel by plane and signature: large sheets are ground nearly everywhere, and all of that has the same few. */
  private evenTiles = new Map<string, number>();

  private rememberEven(key: string, texel: number | null): void {
    if (texel === null) return;
    if (this.evenTiles.size >= MOST_EVEN) this.evenTiles.clear();
    this.evenTiles.set(key, texel);
  }
}

const ofBytes = ({ width, height, data }: MipLevel) => ({ width, height, data: Uint8ClampedArray.from(data) });

/** Some hundred bytes each. */
const MOST_EVEN = 4096;

function send(patches: PixelPatch[], sheetId: string, plane: PlaneId, patch: MipPatch | null): void {
  if (patch) patches.push({ sheetId, plane, ...patch });
}
