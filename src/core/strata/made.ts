/** Tiles of sources: a rule carried out where its placement puts it. */
import type { Sheet } from '../document/schema';
import { kernels } from '../../kernels';
import { TILE_TEXELS, type TileIndex } from '../raster/tiles';
import { projectionsOf, sheetField, solidField, type Placement } from './placement';
import { SOURCES, type Made } from './sources';
import type { Surface } from './surface';

/** Values 0..1 of a tile, 128 × 128. Without a surface everything lies over the sheet. */
export function madeTile(
  made: Made,
  placement: Placement,
  sheet: Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>,
  surface: Surface | null,
  tile: TileIndex,
): Float32Array {
  const def = SOURCES[made.type];
  const where = def.where(made);
  const mark = kernels.mark();
  const out = new Float32Array(TILE_TEXELS);
  const one = kernels.floats(TILE_TEXELS);
  const projections =
    where === 'placed'
      ? projectionsOf(placement, sheet, surface, tile, def.group === 'noise')
      : [
          {
            field: where === 'model' && surface ? solidField(surface, tile, [0, 0, 0], 1) : sheetField(sheet, tile),
            weight: null,
          },
        ];
  for (const { field, weight } of projections) {
    def.fill(made, field, one);
    if (!weight) out.set(one);
    else for (let i = 0; i < TILE_TEXELS; i++) out[i] += weight[i] * one[i];
  }
  kernels.release(mark);
  return out;
}
