/** Values that hang on the place alone: which texels of the model lie on a tile. Nothing on a canvas. */
import type { Rect } from '../../tile/mips';
import type { TileIndex } from '../../tile/tiles';
import type { State } from '../planes';
import { NOTHING, type At, type Moment, type Node } from '../scope';
import { mixSignature, textSignature, type Signature } from '../signature';
import type { Surface } from '../../mesh/surface';
import type { TileValue } from '../tileCache';

export abstract class PlaceNode implements Node {
  readonly planes = [];
  readonly scopes = [];
  private readonly key: Signature;

  /** `numbers`: planes of a tile, the last one alpha. */
  constructor(
    readonly text: string,
    private readonly numbers = 2,
  ) {
    this.key = textSignature(text);
  }

  protected abstract tile(surface: Surface, tile: TileIndex): TileValue;

  part(at: Moment, tile: TileIndex): Signature {
    return at.onModel ? at.place(tile) : NOTHING;
  }

  absent({ surface }: At): boolean {
    return !surface;
  }

  evaluate(at: At, tile: TileIndex, rect: Rect): State {
    const key = mixSignature(this.key, at.place(tile));
    return at.cut(
      this.numbers,
      at.cached(key, () => this.tile(at.surface!, tile)),
      rect,
    );
  }
}
