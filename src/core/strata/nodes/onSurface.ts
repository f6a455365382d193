/** What a kind of step works out from the model's places, parts or faces. Nothing on a canvas. */
import type { SurfaceValues } from '../../kinds/steps/step';
import type { Surface } from '../../mesh/surface';
import { TILE_TEXELS, type TileIndex } from '../../tile/tiles';
import type { TileValue } from '../tileCache';
import { PlaceNode } from './place';

export class SurfaceNode extends PlaceNode {
  constructor(
    settings: { type: string },
    private readonly values: SurfaceValues,
  ) {
    super(`surface ${JSON.stringify(settings)}`);
  }

  protected tile(surface: Surface, tile: TileIndex): TileValue {
    const texels = surface.tiles.get(tile);
    if (!texels) return { uniform: [0, 1], data: null };
    const data = new Float32Array(TILE_TEXELS * 2).fill(1, TILE_TEXELS);
    const same = this.values(surface, texels, data.subarray(0, TILE_TEXELS));
    return same === undefined ? { uniform: null, data } : { uniform: [same, 1], data: null };
  }
}
