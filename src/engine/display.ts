/**
 * The display planes of all sheets and what of them is out of date. Work is done in slices so that pointer
 * events never wait long; the sheet in focus comes first; only the newest state is ever drawn.
 */
import { findSheet, type Piece } from '../core/document/schema';
import { MipPyramid, type Rect } from '../core/raster/mips';
import { TILE, tileIndex, tilesAcross, tilesOf, tileX, tileY, type TileIndex, type TileStore } from '../core/raster/tiles';
import { PLANE_IDS, PLANES, renderPlane, type PlaneId } from '../core/strata/displayPlanes';
import type { PixelPatch } from './protocol';

interface Area {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

const WHOLE: Area = { x0: 0, y0: 0, x1: TILE, y1: TILE };

interface SheetDisplay {
  pyramids: Record<PlaneId, MipPyramid>;
  dirty: Record<PlaneId, Map<TileIndex, Area>>;
}

export class Display {
  private sheets = new Map<string, SheetDisplay>();
  focus: string | null = null;

  constructor(private store: TileStore) {}

  /** Makes planes for the sheets of a document; new or resized ones start out of date. */
  adopt(piece: Piece): void {
    for (const sheet of piece.sheets) {
      const existing = this.sheets.get(sheet.id);
      if (existing && existing.pyramids.colour.width === sheet.width && existing.pyramids.colour.height === sheet.height)
        continue;
      const pyramids = {} as SheetDisplay['pyramids'];
      const dirty = {} as SheetDisplay['dirty'];
      for (const plane of PLANE_IDS) {
        pyramids[plane] = new MipPyramid(sheet.width, sheet.height, PLANES[plane].encoding);
        dirty[plane] = new Map();
      }
      this.sheets.set(sheet.id, { pyramids, dirty });
      this.markAll(piece, sheet.id, PLANE_IDS);
    }
  }

  markAll(piece: Piece, sheetId: string, planes: readonly PlaneId[]): void {
    const sheet = findSheet(piece, sheetId);
    for (const tile of tilesOf(sheet.width, sheet.height)) this.mark(piece, sheetId, planes, tile, WHOLE);
  }

  /** Marks part of a tile, and for planes that look around also what lies next to it. */
  mark(piece: Piece, sheetId: string, planes: readonly PlaneId[], tile: TileIndex, area: Area = WHOLE): void {
    const display = this.sheets.get(sheetId);
    if (!display) return;
    for (const plane of planes) {
      const { halo } = PLANES[plane];
      if (halo === 0) extend(display.dirty[plane], tile, area);
      else this.markWithHalo(piece, sheetId, display.dirty[plane], tile, area, halo);
    }
  }

  private markWithHalo(
    piece: Piece,
    sheetId: string,
    dirty: Map<TileIndex, Area>,
    tile: TileIndex,
    area: Area,
    halo: number,
  ): void {
    const sheet = findSheet(piece, sheetId);
    const across = tilesAcross(sheet.width);
    const down = tilesAcross(sheet.height);
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++) {
        // The grown area as the neighbour sees it.
        const seen = {
          x0: Math.max(0, area.x0 - halo - dx * TILE),
          y0: Math.max(0, area.y0 - halo - dy * TILE),
          x1: Math.min(TILE, area.x1 + halo - dx * TILE),
          y1: Math.min(TILE, area.y1 + halo - dy * TILE),
        };
        if (seen.x0 >= seen.x1 || seen.y0 >= seen.y1) continue;
        let tx = tileX(tile) + dx;
        let ty = tileY(tile) + dy;
        if (sheet.wrapU) tx = (tx + across) % across;
        if (sheet.wrapV) ty = (ty + down) % down;
        if (tx < 0 || ty < 0 || tx >= across || ty >= down) continue;
        extend(dirty, tileIndex(tx, ty), seen);
      }
    // A sheet whose side is no multiple of a tile wraps within its last tile: take the whole opposite border.
    if ((sheet.wrapU && sheet.width % TILE) || (sheet.wrapV && sheet.height % TILE))
      for (const border of tilesOf(sheet.width, sheet.height))
        if (tileX(border) === 0 || tileY(border) === 0 || tileX(border) === across - 1 || tileY(border) === down - 1)
          extend(dirty, border, WHOLE);
  }

  get pending(): number {
    let n = 0;
    for (const { dirty } of this.sheets.values()) for (const plane of PLANE_IDS) n += dirty[plane].size;
    return n;
  }

  /** Draws what is out of date until `until` says stop; returns the new texels. */
  work(piece: Piece, until: () => boolean): PixelPatch[] {
    const patches: PixelPatch[] = [];
    const order = [...piece.sheets].sort((a, b) => Number(b.id === this.focus) - Number(a.id === this.focus));
    for (const sheet of order) {
      const display = this.sheets.get(sheet.id);
      if (!display) continue;
      for (const plane of PLANE_IDS)
        for (const [tile, area] of display.dirty[plane]) {
          display.dirty[plane].delete(tile);
          const x = tileX(tile) * TILE + area.x0;
          const y = tileY(tile) * TILE + area.y0;
          const width = Math.min(tileX(tile) * TILE + area.x1, sheet.width) - x;
          const height = Math.min(tileY(tile) * TILE + area.y1, sheet.height) - y;
          if (width <= 0 || height <= 0) continue;
          const pyramid = display.pyramids[plane];
          renderPlane({ sheet, store: this.store }, plane, { x, y, width, height }, pyramid);
          patches.push(patchOf(sheet.id, plane, pyramid, { x, y, width, height }));
          if (until()) return patches;
        }
    }
    return patches;
  }
}

function extend(dirty: Map<TileIndex, Area>, tile: TileIndex, area: Area): void {
  const old = dirty.get(tile);
  dirty.set(
    tile,
    old
      ? {
          x0: Math.min(old.x0, area.x0),
          y0: Math.min(old.y0, area.y0),
          x1: Math.max(old.x1, area.x1),
          y1: Math.max(old.y1, area.y1),
        }
      : { ...area },
  );
}

function patchOf(sheetId: string, plane: PlaneId, pyramid: MipPyramid, rect: Rect): PixelPatch {
  const rects = pyramid.refresh(rect);
  const data = new Uint8Array(rects.reduce((n, r) => n + r.width * r.height * 4, 0));
  let at = 0;
  rects.forEach((r, level) => {
    pyramid.copyRect(level, r, data, at);
    at += r.width * r.height * 4;
  });
  return { sheetId, plane, rects, data };
}
