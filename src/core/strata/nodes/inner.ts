/** Scopes within scopes: as they are, as another kind of map, or their alpha as a value. */
import { kernels } from '../../kernels';
import type { Grey } from '../../kinds/grey';
import type { Rect } from '../../tile/mips';
import type { TileIndex } from '../../tile/tiles';
import { convert, type State } from '../planes';
import { NOTHING, type SeenTexels, type At, type Moment, type Node, type Scope } from '../scope';

export abstract class InnerNode {
  readonly planes = [];
  readonly scopes: Node['scopes'];

  constructor(readonly scope: Scope) {
    this.scopes = [{ scope, around: 0 }];
  }

  part(at: Moment, tile: TileIndex) {
    const { scope } = this;
    const below = at.signatureOf(scope, tile);
    // A scope over nothing in which nothing lies here has its own key only.
    return scope.ground === null && below === scope.key ? NOTHING : below;
  }
}

export class ScopeNode extends InnerNode implements Node {
  readonly text = 'scope';

  evaluate(at: At, tile: TileIndex, rect: Rect, _into: unknown, asked?: SeenTexels | null): State {
    return at.run(this.scope, tile, rect, asked);
  }
}

/** Colour to value by one number of it, value to grey. */
export class ConvertedNode extends InnerNode implements Node {
  readonly text: string;

  constructor(
    scope: Scope,
    readonly by: Grey,
  ) {
    super(scope);
    this.text = `converted ${by}`;
  }

  evaluate(at: At, tile: TileIndex, rect: Rect): State {
    return convert(at.run(this.scope, tile, rect), this.scope.channels, rect.width * rect.height, this.by);
  }
}

/** The alpha of a scope, as a value that is there everywhere. */
export class AlphaNode extends InnerNode implements Node {
  readonly text = 'alpha';

  override part(at: Moment, tile: TileIndex) {
    return at.signatureOf(this.scope, tile);
  }

  evaluate(at: At, tile: TileIndex, rect: Rect): State {
    const inner = at.run(this.scope, tile, rect);
    if (inner.even) return { even: [inner.even.at(-1)!, 1], acc: null };
    const n = rect.width * rect.height;
    const { channels } = this.scope;
    const acc = kernels().floats(n * 2);
    acc.set(inner.acc!.subarray(channels * n, (channels + 1) * n));
    acc.fill(1, n);
    return { even: null, acc };
  }
}
