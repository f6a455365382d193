/** Tiles of sources: a rule carried out where its placement puts it. */
import type { Sheet } from '../document/schema';
import { kernels } from '../kernels';
import { TILE_TEXELS, type TileIndex } from '../tile/tiles';
import { type Placement } from '../kinds/placement';
import { projectionsOf, sheetField, spaceField } from './projections';
import { SOURCES, type Made } from '../kinds/sources';
import type { Surface } from '../mesh/surface';

/** Model units as they are. */
const ORIGIN = { centre: [0, 0, 0], size: 1 } as const;

/** A rule in space: only the texels that lie on the model are asked for; of these, those that are seen. */
function spaceTile(
  made: Made,
  at: { centre: readonly number[]; size: number },
  surface: Surface,
  tile: TileIndex,
  where: Float32Array | null,
): Float32Array {
  const out = new Float32Array(TILE_TEXELS);
  const mark = kernels().mark();
  try {
    const { there, field } = spaceField(surface, tile, at.centre, at.size, where);
    if (there.length === 0) return out;
    const values = kernels().floats(field.n);
    SOURCES[made.type].fill(made, field, values);
    if (there.length === TILE_TEXELS) out.set(values);
    else for (let i = 0; i < there.length; i++) out[there[i]] = values[i];
    return out;
  } finally {
    kernels().release(mark);
  }
}

/** Whether a rule lies in the model's space, by its places alone. */
export function isSpace(made: Made, placement: Placement, surface: Surface | null): surface is Surface {
  const def = SOURCES[made.type];
  const where = def.where(made);
  return surface !== null && (where === 'model' || (where === 'placed' && placement.by === 'solid' && def.group === 'noise'));
}

/**
 * Values 0..1 of a tile, 128 × 128. Without a surface everything lies over the sheet. `asked`: in space those texels alone where it is
 * not 0; the others come as 0.
 */
export function madeTile(
  made: Made,
  placement: Placement,
  sheet: Pick<Sheet, 'width' | 'height' | 'wrapU' | 'wrapV'>,
  surface: Surface | null,
  tile: TileIndex,
  asked: Float32Array | null = null,
): Float32Array {
  const def = SOURCES[made.type];
  const where = def.where(made);
  if (isSpace(made, placement, surface)) return spaceTile(made, where === 'model' ? ORIGIN : placement, surface, tile, asked);
  const mark = kernels().mark();
  try {
    const out = new Float32Array(TILE_TEXELS);
    const one = kernels().floats(TILE_TEXELS);
    const projections =
      where === 'placed' ? projectionsOf(placement, sheet, surface, tile) : [{ field: sheetField(sheet, tile), weight: null }];
    for (const { field, weight } of projections) {
      def.fill(made, field, one);
      if (!weight) out.set(one);
      else for (let i = 0; i < TILE_TEXELS; i++) out[i] += weight[i] * one[i];
    }
    return out;
  } finally {
    kernels().release(mark);
  }
}
