/** A loud colour where a bake met nothing: on the islands, under what was baked. */
import { TILE_TEXELS, type TileIndex } from '../../tile/tiles';
import type { Surface } from '../../mesh/surface';
import type { TileValue } from '../tileCache';
import { PlaceNode } from './place';

/** sRGB: the red of faults. */
export const MISSED = [0.92, 0.06, 0.12] as const;

export class MissedNode extends PlaceNode {
  constructor() {
    super('missed', 4);
  }

  protected tile(surface: Surface, tile: TileIndex): TileValue {
    const face = surface.tiles.get(tile)?.face;
    if (!face) return { uniform: [0, 0, 0, 0], data: null };
    const data = new Float32Array(TILE_TEXELS * 4);
    for (let c = 0; c < 3; c++) data.fill(MISSED[c], c * TILE_TEXELS, (c + 1) * TILE_TEXELS);
    for (let i = 0; i < TILE_TEXELS; i++) data[3 * TILE_TEXELS + i] = face[i] >= 0 ? 1 : 0;
    return { uniform: null, data };
  }
}
