/** A loud colour where a bake met nothing: on the islands, under what was baked. */
import type { Rect } from '../../tile/mips';
import { TILE_TEXELS, type TileIndex } from '../../tile/tiles';
import type { State } from '../planes';
import { NOTHING, type At, type Node } from '../scope';
import { mixSignature, textSignature, type Signature } from '../signature';

/** sRGB: the red of faults. */
export const MISSED = [0.92, 0.06, 0.12] as const;
const KEY = textSignature('missed');

export class MissedNode implements Node {
  readonly text = 'missed';
  readonly planes = [];
  readonly scopes = [];

  part(at: At, tile: TileIndex): Signature {
    return at.surface ? at.place(tile) : NOTHING;
  }

  absent({ surface }: At): boolean {
    return !surface;
  }

  evaluate(at: At, tile: TileIndex, rect: Rect): State {
    const value = at.cached(mixSignature(KEY, at.place(tile)), () => {
      const face = at.surface!.tiles.get(tile)?.face;
      if (!face) return { uniform: [0, 0, 0, 0], data: null };
      const data = new Float32Array(TILE_TEXELS * 4);
      for (let c = 0; c < 3; c++) data.fill(MISSED[c], c * TILE_TEXELS, (c + 1) * TILE_TEXELS);
      for (let i = 0; i < TILE_TEXELS; i++) data[3 * TILE_TEXELS + i] = face[i] >= 0 ? 1 : 0;
      return { uniform: null, data };
    });
    return at.cut(4, value, rect);
  }
}
