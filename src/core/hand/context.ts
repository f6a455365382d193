/** What a stroke is painted on. */
import type { Picture, Sheet } from '../document/schema';
import type { SurfaceMap } from '../mesh/surfaceMap/surfaceMap';
import type { SurfaceQuery } from '../mesh/surfaceQuery';
import type { Islands } from '../mesh/topology';
import type { TileIndex, TileStore } from '../tile/tiles';
import type { Pictures } from './pictures';

export interface StrokeContext {
  sheet: Sheet;
  layerId: string;
  store: TileStore;
  /** null for canvases. */
  surface: { map: SurfaceMap; query: SurfaceQuery; islands: Islands } | null;
  /** How much of its coverage each texel of a tile takes beside the brush's fence, 0 … 1, row by row; null: all of it. */
  limit?: (tile: TileIndex) => Float32Array | null;
  /** Of what is left to chance. */
  seed?: number;
  /** Pictures of the piece, by id: of its stencils. Left out: those of the sheet. */
  picture?: (id: string) => Picture | undefined;
  /** Pictures of tips and textures. Left out: only those that Brindle draws. */
  pictures?: Pictures;
}

/** Of the sheet's mean density on the model; a canvas counts as one metre wide. */
export const texelsPerMetre = ({ sheet, surface }: Pick<StrokeContext, 'sheet' | 'surface'>): number =>
  surface?.map.texelsPerMetre ?? sheet.width;
