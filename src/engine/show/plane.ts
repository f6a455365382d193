/** A display plane of a sheet: what of it is rendered, and what is due to be rendered. */
import type { Sheet } from '../../core/document/schema';
import { PLANES, type PlaneId } from '../../core/kinds/shown';
import type { Look } from '../../core/strata/displayPlanes';
import type { Signature } from '../../core/strata/signature';
import { MipPyramid, type Rect } from '../../core/tile/mips';
import { TILE, tileIndex, tilesAcross, tileX, tileY, type TileIndex } from '../../core/tile/tiles';

/** A rectangle of a tile in texels, `x1` and `y1` excluded. */
export interface Area {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

export const WHOLE: Readonly<Area> = { x0: 0, y0: 0, x1: TILE, y1: TILE };

/** Whole tiles that are due: whether they are to look as the last refresh wanted them, or have changed since. */
export type WholeDue = 'wanted' | 'changed';

export interface PlaneDisplay {
  pyramid: MipPyramid;
  /** Areas that a running stroke has reached. They come before everything else. A tile is here or in `whole`, never in both. */
  stroke: Map<TileIndex, Area>;
  whole: Map<TileIndex, WholeDue>;
  /** What the tiles that are shown look like. */
  drawn: Map<TileIndex, Signature>;
  /** How tiles should look as of the last refresh, and what that was worked out from. Working it out again for all of them takes a while. */
  wanted: Map<TileIndex, Signature>;
  wantedFrom: { sheet: Sheet; changes: number; look: Look | null } | null;
}

export interface SheetDisplay {
  width: number;
  height: number;
  planes: Map<PlaneId, PlaneDisplay>;
}

/** A plane of which nothing is rendered yet. */
export const newPlane = ({ width, height }: Sheet, id: PlaneId): PlaneDisplay => ({
  pyramid: new MipPyramid(width, height, PLANES[id].encoding),
  stroke: new Map(),
  whole: new Map(),
  drawn: new Map(),
  wanted: new Map(),
  wantedFrom: null,
});

/** All of a tile is due. If a stroke has reached part of it, it keeps the stroke's precedence. */
export function markWhole({ stroke, whole }: PlaneDisplay, tile: TileIndex, why: WholeDue): void {
  if (stroke.has(tile)) stroke.set(tile, WHOLE);
  else whole.set(tile, why);
}

/** A stroke has reached an area of a tile. */
export function markArea({ stroke, whole }: PlaneDisplay, tile: TileIndex, area: Area): void {
  const old = whole.delete(tile) ? WHOLE : stroke.get(tile);
  stroke.set(tile, old ? union(old, area) : area);
}

const union = (a: Area, b: Area): Area => ({
  x0: Math.min(a.x0, b.x0),
  y0: Math.min(a.y0, b.y0),
  x1: Math.max(a.x1, b.x1),
  y1: Math.max(a.y1, b.y1),
});

/** Marks everything within `reach` texels of an area, across the borders of tiles and, where the sheet wraps, of the sheet. */
export function markAround(sheet: Sheet, plane: PlaneDisplay, tile: TileIndex, area: Area, reach: number): void {
  if (reach === 0) return markArea(plane, tile, area);
  const across = tilesAcross(sheet.width);
  const down = tilesAcross(sheet.height);
  const tiles = Math.ceil(reach / TILE);
  for (let dy = -tiles; dy <= tiles; dy++)
    for (let dx = -tiles; dx <= tiles; dx++) {
      // The grown area as the neighbour sees it.
      const seen = {
        x0: Math.max(0, area.x0 - reach - dx * TILE),
        y0: Math.max(0, area.y0 - reach - dy * TILE),
        x1: Math.min(TILE, area.x1 + reach - dx * TILE),
        y1: Math.min(TILE, area.y1 + reach - dy * TILE),
      };
      if (seen.x0 >= seen.x1 || seen.y0 >= seen.y1) continue;
      let tx = tileX(tile) + dx;
      let ty = tileY(tile) + dy;
      // Where sizes are no multiple of a tile, what wraps lies elsewhere in its tile: all of it is marked.
      const wraps = (sheet.wrapU && (tx < 0 || tx >= across)) || (sheet.wrapV && (ty < 0 || ty >= down));
      if (sheet.wrapU) tx = ((tx % across) + across) % across;
      if (sheet.wrapV) ty = ((ty % down) + down) % down;
      if (tx < 0 || ty < 0 || tx >= across || ty >= down) continue;
      markArea(plane, tileIndex(tx, ty), wraps && (sheet.width % TILE || sheet.height % TILE) ? WHOLE : seen);
    }
}

/** The area grown to multiples of 4 texels across (evaluation) and 2 down (the mip level below): what is added comes out as it was. */
export function aligned(area: Area): Rect {
  const x = area.x0 & ~3;
  const y = area.y0 & ~1;
  return { x, y, width: Math.min(TILE, (area.x1 + 3) & ~3) - x, height: Math.min(TILE, (area.y1 + 1) & ~1) - y };
}
