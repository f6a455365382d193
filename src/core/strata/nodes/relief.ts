/** Directions from a scope of values seen as height. */
import { kernels } from '../../kernels';
import { normalsFromField, type NormalKernel } from '../../tile/normal';
import type { Rect } from '../../tile/mips';
import { TILE, TILE_TEXELS, tileX, tileY, type TileIndex } from '../../tile/tiles';
import type { State } from '../planes';
import type { At, Moment, Node, Scope } from '../scope';
import { mixSignature, textSignature, type Signature } from '../signature';
import type { TileValue } from '../tileCache';
import { gather } from '../window';

export class ReliefNode implements Node {
  readonly text: string;
  readonly planes = [];
  readonly scopes: Node['scopes'];
  private readonly reach: { rx: number; ry: number };
  private readonly key: Signature;

  /** `strength`: 1 is as steep as the sheet's own relief. */
  constructor(
    private scope: Scope,
    private strength: number,
    private kernel: NormalKernel,
  ) {
    const around = (kernel - 1) / 2;
    this.text = `relief ${strength} ${kernel}`;
    this.key = textSignature(`${this.text} ${scope.key}`);
    this.scopes = [{ scope, around }];
    this.reach = { rx: around, ry: around };
  }

  part(at: Moment, tile: TileIndex): Signature {
    const { heightSpan, width } = at.sheet;
    return at
      .around(tile, this.reach)
      .reduce<Signature>(
        (all, near) => mixSignature(all, at.signatureOf(this.scope, near)),
        mixSignature(tile, textSignature(String(heightSpan * width))),
      );
  }

  evaluate(at: At, tile: TileIndex, rect: Rect): State {
    const key = mixSignature(this.key, this.part(at, tile));
    return at.cut(
      4,
      at.cached(key, () => this.tile(at, tile)),
      rect,
    );
  }

  private tile(at: At, tile: TileIndex): TileValue {
    const { sheet } = at;
    const { rx, ry } = this.reach;
    const near = new Map(at.around(tile, this.reach).map((t) => [t, at.tileOf(this.scope, t)]));
    const side = TILE + 2 * rx;
    const mark = kernels().mark();
    try {
      const field = kernels().floats(side * side);
      const rect = { x: tileX(tile) * TILE - rx, y: tileY(tile) * TILE - ry, width: side, height: side };
      gather(sheet, rect, 1, (t) => near.get(t)!, field);
      const steep = this.strength * sheet.heightSpan * sheet.width;
      for (let i = 0; i < field.length; i++) field[i] *= steep;
      const data = new Float32Array(TILE_TEXELS * 4).fill(1, TILE_TEXELS * 3);
      const out = kernels().floats(TILE_TEXELS * 3);
      normalsFromField(field, TILE, TILE, this.kernel, out);
      for (let i = 0; i < out.length; i++) data[i] = out[i] * 0.5 + 0.5;
      return { uniform: null, data };
    } finally {
      kernels().release(mark);
    }
  }
}
