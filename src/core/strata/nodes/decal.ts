/** Whatever a decal's layer lays down beside its pictures: only where its first picture lies, by that picture's alpha. */
import { kernels } from '../../kernels';
import type { Rect } from '../../tile/mips';
import type { TileIndex } from '../../tile/tiles';
import type { State } from '../planes';
import type { At, Moment, Node, Scope } from '../scope';
import { mixSignature } from '../signature';
import type { PictureNode } from './picture';

const SHAPE = { kind: 'colour', channels: 3 } as const;

export class DecalNode implements Node {
  readonly text: string;
  readonly planes: readonly string[];
  readonly scopes: Node['scopes'];

  constructor(
    readonly inner: Node,
    readonly shape: PictureNode,
  ) {
    this.text = `${inner.text} within ${shape.text}`;
    this.planes = [...inner.planes, ...shape.planes];
    this.scopes = inner.scopes;
  }

  part(at: Moment, tile: TileIndex) {
    return mixSignature(this.inner.part(at, tile), this.shape.part(at, tile));
  }

  evaluate(at: At, tile: TileIndex, rect: Rect, into: Pick<Scope, 'kind' | 'channels'>): State {
    const n = rect.width * rect.height;
    const shape = this.shape.evaluate(at, tile, rect, SHAPE);
    const alpha = shape.acc?.subarray(3 * n, 4 * n) ?? null;
    const even = shape.even?.[3] ?? 1;
    const found = this.inner.evaluate(at, tile, rect, into);
    if (!alpha && found.even) return { even: [...found.even.slice(0, -1), found.even.at(-1)! * even], acc: null };
    const out = kernels().floats(n * (into.channels + 1));
    if (found.acc) out.set(found.acc.subarray(0, out.length));
    else found.even!.forEach((v, c) => out.fill(v, c * n, (c + 1) * n));
    const last = into.channels * n;
    for (let i = 0; i < n; i++) out[last + i] *= alpha ? alpha[i] : even;
    return { even: null, acc: out };
  }
}
