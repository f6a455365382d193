/**
 * The display planes of all sheets of a piece, and what of them is out of date: a tile whose signature is not the one that was rendered,
 * or that a running stroke has reached. Nothing is rendered here (sources/), and nothing is ordered here (queue.ts).
 */
import { findSheet, type Piece, type Sheet } from '../../core/document/schema';
import { mapInfo } from '../../core/kinds/maps';
import { PLANES, type PlaneId } from '../../core/kinds/shown';
import { dependenceOf, planeSignature } from '../../core/strata/depends';
import { FENCE_LOOK, maskOf, planesFor, renderPlane, type Look } from '../../core/strata/displayPlanes';
import { Evaluator } from '../../core/strata/evaluator';
import { programOf } from '../../core/strata/program';
import type { Signature } from '../../core/strata/signature';
import { TileCache } from '../../core/strata/tileCache';
import type { MipLevel, MipPatch, Rect } from '../../core/tile/mips';
import { tilesInBands, tilesOf, WHOLE_TILE, type TileIndex, type TileStore } from '../../core/tile/tiles';
import type { PixelPatch } from '../protocol';
import { markAround, markArea, markWhole, newPlane, WHOLE, type Area, type PlaneDisplay, type SheetDisplay } from './plane';
import { paste } from './tilePictures';

/** Beyond this many texels it is cheaper to compare signatures than to render everything within reach. */
const FAR_REACH = 512;
/** Longest side of the small picture of a sheet. */
const SMALL_SIDE = 256;

export class Planes {
  readonly cache = new TileCache();
  /** The document that is shown, since the last refresh. */
  piece: Piece | null = null;
  /** The sheet that is worked on. */
  focus: string | null = null;
  /** Texels of the sheet in focus that the flat pane shows. */
  visible: Rect | null = null;
  /** What is looked at by itself on the sheet in focus. */
  look: Look | null = null;
  /** Goes up with every change of tiles or of the layer at work: evaluators from before must not be used any more. */
  revision = 0;
  private sheets = new Map<string, SheetDisplay>();
  private evaluators = new Map<string, { sheet: Sheet; evaluator: Evaluator }>();
  private changes = 0;
  private hot: string | null = null;
  private textured = true;

  constructor(readonly store: TileStore) {}

  /** The layer at work: what lies below it is kept ready. */
  get workedOn(): string | null {
    return this.hot;
  }

  workOn(layerId: string | null): void {
    if (layerId !== this.hot) this.forgetEvaluators();
    this.hot = layerId;
  }

  /** Whether the store has texels. While it has none, evaluators only work out signatures. */
  set hasTexels(there: boolean) {
    this.textured = there;
    this.forgetEvaluators();
  }

  /** Some texels are lost, and count as unpainted: signatures are worked out again. */
  forgetWanted(): void {
    for (const { planes } of this.sheets.values()) for (const plane of planes.values()) plane.wantedFrom = null;
  }

  /** Tiles have other texels. A changed document needs no call: its sheets are other objects. */
  changed(): void {
    this.changes++;
    this.forgetEvaluators();
  }

  /** Tiles were changed since the piece was opened: their signatures hold for this visit only. */
  get changedHere(): boolean {
    return this.changes > 0;
  }

  private forgetEvaluators(): void {
    this.revision++;
    this.evaluators.clear();
  }

  evaluator(sheet: Sheet): Evaluator {
    const known = this.evaluators.get(sheet.id);
    if (known?.sheet === sheet) return known.evaluator;
    const lasting = this.textured ? undefined : { unkept: () => undefined };
    const evaluator = new Evaluator({ sheet, store: this.store, cache: this.cache, hot: this.hot, lasting });
    this.evaluators.set(sheet.id, { sheet, evaluator });
    return evaluator;
  }

  lookOf(sheetId: string): Look | null {
    return sheetId === this.focus ? this.look : null;
  }

  /** How a tile should look now. */
  signatureOf(sheet: Sheet, id: PlaneId, tile: TileIndex): Signature {
    return planeSignature(this.evaluator(sheet), sheet, id, tile, this.lookOf(sheet.id));
  }

  of(sheetId: string): SheetDisplay | undefined {
    return this.sheets.get(sheetId);
  }

  /** The sheets that are shown, that in focus first. */
  get inOrder(): Sheet[] {
    return (this.piece?.sheets ?? []).toSorted((a, b) => Number(b.id === this.focus) - Number(a.id === this.focus));
  }

  /** Takes over a document: makes planes, and marks every tile that does not look as it was rendered. */
  refresh(piece: Piece): void {
    this.piece = piece;
    for (const id of this.sheets.keys()) if (!piece.sheets.some((s) => s.id === id)) this.sheets.delete(id);
    for (const sheet of piece.sheets)
      for (const [id, plane] of this.planesOf(sheet).planes) {
        if (!this.knows(sheet, plane)) plane.wantedFrom = null;
        // While nothing is rendered, all of it is due: how it should look is asked tile by tile, as late as possible.
        if (plane.drawn.size === 0) for (const tile of tilesInBands(sheet.width, sheet.height)) markWhole(plane, tile, 'wanted');
        else
          for (const [tile, signature] of this.wanted(sheet, id, plane))
            if (plane.drawn.get(tile) !== signature) markWhole(plane, tile, 'wanted');
            else {
              // Back to what is shown already, such as a preview that was taken back in time.
              plane.whole.delete(tile);
              plane.stroke.delete(tile);
            }
      }
  }

  private planesOf(sheet: Sheet): SheetDisplay {
    let display = this.sheets.get(sheet.id);
    if (!display || display.width !== sheet.width || display.height !== sheet.height)
      this.sheets.set(sheet.id, (display = { width: sheet.width, height: sheet.height, planes: new Map() }));
    const needed = planesFor(sheet, this.lookOf(sheet.id));
    for (const id of needed) if (!display.planes.has(id)) display.planes.set(id, newPlane(sheet, id));
    for (const id of display.planes.keys()) if (!needed.includes(id)) display.planes.delete(id);
    return display;
  }

  /** Whether `wanted` of a plane was worked out for the sheet as it is. */
  private knows(sheet: Sheet, { wantedFrom: from }: PlaneDisplay): boolean {
    return from?.sheet === sheet && from.changes === this.changes && from.look === this.lookOf(sheet.id);
  }

  /** How the tiles of a plane should look as of the last refresh; what strokes have reached since may look different. */
  wanted(sheet: Sheet, id: PlaneId, plane: PlaneDisplay): ReadonlyMap<TileIndex, Signature> {
    if (plane.wantedFrom) return plane.wanted;
    for (const tile of tilesInBands(sheet.width, sheet.height)) plane.wanted.set(tile, this.signatureOf(sheet, id, tile));
    plane.wantedFrom = { sheet, changes: this.changes, look: this.lookOf(sheet.id) };
    return plane.wanted;
  }

  /** Marks everything that a change in part of a painted plane's tile can reach. */
  markPaint(sheetId: string, planeKey: string, tile: TileIndex, area: Area = WHOLE): void {
    const display = this.sheets.get(sheetId);
    if (!display || !this.piece) return;
    const sheet = findSheet(this.piece, sheetId);
    const look = this.lookOf(sheetId);
    for (const [id, plane] of display.planes) {
      const maps = id === 'view' && look?.kind === 'map' ? [look.map] : PLANES[id].maps;
      for (const map of maps) {
        const { planes, reach } = dependenceOf(programOf(sheet, map));
        if (planes.has(planeKey)) this.mark(sheet, id, plane, tile, area, reach + (mapInfo(map).relief ? PLANES[id].halo : 0));
      }
      const seen = id === 'fence' ? FENCE_LOOK : id === 'view' && look?.kind === 'mask' ? look : null;
      if (seen) {
        const use = maskOf(sheet, seen.maskId, seen.layerId);
        if (use?.painted?.plane === planeKey) markArea(plane, tile, area);
        else if (use && !use.painted) {
          const { planes, reach } = dependenceOf(use.scope);
          if (planes.has(planeKey)) this.mark(sheet, id, plane, tile, area, reach);
        }
      }
    }
  }

  /** Where a change may show far away (a shift), signatures say what has really changed. */
  private mark(sheet: Sheet, id: PlaneId, plane: PlaneDisplay, tile: TileIndex, area: Area, reach: number): void {
    if (reach < FAR_REACH) return markAround(sheet, plane, tile, area, reach);
    for (const t of tilesOf(sheet.width, sheet.height))
      if (plane.drawn.get(t) !== this.signatureOf(sheet, id, t)) markWhole(plane, t, 'changed');
  }

  /** How many tiles are due. */
  get pending(): number {
    let n = 0;
    for (const { planes } of this.sheets.values()) for (const { stroke, whole } of planes.values()) n += stroke.size + whole.size;
    return n;
  }

  /** Each plane's patches put together, into as few as is worth it: every patch costs the graphics card a dozen calls. */
  merged(patches: readonly PixelPatch[]): PixelPatch[] {
    return [...this.sheets].flatMap(([sheetId, { planes }]) =>
      [...planes].flatMap(([plane, { pyramid }]) =>
        pyramid
          .merged(patches.filter((p) => p.sheetId === sheetId && p.plane === plane))
          .map((patch) => ({ sheetId, plane, ...patch })),
      ),
    );
  }

  /** Base colour of a sheet as it is shown so far, 256 texels a side at most; null: nothing of it is shown. */
  smallPicture(sheetId: string): { width: number; height: number; data: Uint8ClampedArray<ArrayBuffer> } | null {
    const pyramid = this.sheets.get(sheetId)?.planes.get('colour')?.pyramid;
    const sheet = this.evaluators.get(sheetId)?.sheet;
    if (!pyramid || !sheet) return null;
    const n = pyramid.sizes.findIndex((l) => Math.max(l.width, l.height) <= SMALL_SIDE);
    if (n > 0) return ofBytes(pyramid.level(n));
    // A small sheet: the pyramid does not keep its largest level.
    const whole = { ...pyramid.sizes[0], data: new Uint8Array(pyramid.width * pyramid.height * 4) };
    for (const tile of tilesOf(sheet.width, sheet.height))
      paste(renderPlane(this.evaluator(sheet), sheet, 'colour', tile, WHOLE_TILE), tile, whole);
    return ofBytes(whole);
  }
}

const ofBytes = ({ width, height, data }: MipLevel) => ({ width, height, data: Uint8ClampedArray.from(data) });

/** A patch of a plane to the list, if there is one. */
export function send(patches: PixelPatch[], sheetId: string, plane: PlaneId, patch: MipPatch | null): void {
  if (patch) patches.push({ sheetId, plane, ...patch });
}
