/** A display plane of a sheet: what of it is drawn, what is out of date, and what strokes have reached. */
import type { Sheet } from '../core/document/schema';
import { PLANES, type PlaneId } from '../core/kinds/shown';
import type { Look } from '../core/strata/displayPlanes';
import type { Signature } from '../core/strata/signature';
import { MipPyramid } from '../core/tile/mips';
import { TILE, tileIndex, tilesAcross, tileX, tileY, type TileIndex } from '../core/tile/tiles';

/** Texels of a tile from … on, up to … */
export interface Area {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** All of a tile, as the last refresh wanted it. */
export const WHOLE: Area = { x0: 0, y0: 0, x1: TILE, y1: TILE };

/** The whole of a tile that looks different from what the last refresh wanted. */
export const ALL_OF_IT: Area = { ...WHOLE };

export interface PlaneDisplay {
  pyramid: MipPyramid;
  dirty: Map<TileIndex, Area>;
  drawn: Map<TileIndex, Signature>;
  /** How tiles should look as of the last refresh, and what that was worked out from. Working it out again for all of them takes a while. */
  wanted: Map<TileIndex, Signature>;
  wantedFrom: { sheet: Sheet; changes: number; look: Look | null } | null;
  /** Of what is to be drawn, what a stroke has reached: it comes before all else, and is drawn here. */
  touched: Set<TileIndex>;
}

export interface SheetDisplay {
  width: number;
  height: number;
  planes: Map<PlaneId, PlaneDisplay>;
}

/** Nothing of it is drawn yet. */
export const newPlane = ({ width, height }: Sheet, id: PlaneId): PlaneDisplay => ({
  pyramid: new MipPyramid(width, height, PLANES[id].encoding),
  dirty: new Map(),
  drawn: new Map(),
  wanted: new Map(),
  wantedFrom: null,
  touched: new Set(),
});

/** Marks what a change in part of a tile can reach, so many texels around. */
export function mark(sheet: Sheet, plane: PlaneDisplay, tile: TileIndex, area: Area, reach: number): void {
  if (reach === 0) return touch(plane, tile, area);
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
      // Where sizes are no multiple of a tile, what comes round lies elsewhere in its tile: all of it is drawn.
      const round = (sheet.wrapU && (tx < 0 || tx >= across)) || (sheet.wrapV && (ty < 0 || ty >= down));
      if (sheet.wrapU) tx = ((tx % across) + across) % across;
      if (sheet.wrapV) ty = ((ty % down) + down) % down;
      if (tx < 0 || ty < 0 || tx >= across || ty >= down) continue;
      touch(plane, tileIndex(tx, ty), round && (sheet.width % TILE || sheet.height % TILE) ? WHOLE : seen);
    }
}

/** A stroke has reached an area of a tile. */
export function touch({ dirty, touched }: PlaneDisplay, tile: TileIndex, area: Area): void {
  touched.add(tile);
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
