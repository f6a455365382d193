/** How like one colour those of a scope are: by distance in OKLab. */
import { linearToOklab, type Lab } from '../../colour/oklab';
import { fastLinear, srgbToLinear } from '../../colour/transfer';
import { kernels } from '../../kernels';
import { step } from '../../kinds/sources/source';
import type { Rect } from '../../tile/mips';
import type { TileIndex } from '../../tile/tiles';
import type { State } from '../planes';
import type { At, Node, Scope } from '../scope';
import { InnerNode } from './inner';

const lab: Lab = { l: 0, a: 0, b: 0 };

export class LikeColourNode extends InnerNode implements Node {
  readonly text: string;
  private readonly wanted: Lab = { l: 0, a: 0, b: 0 };

  /** `colour`: RGB in the sRGB curve. */
  constructor(
    scope: Scope,
    colour: readonly number[],
    private tolerance: number,
    private soft: number,
  ) {
    super(scope);
    this.text = `like ${colour.join()} ${tolerance} ${soft}`;
    linearToOklab(srgbToLinear(colour[0]), srgbToLinear(colour[1]), srgbToLinear(colour[2]), this.wanted);
  }

  evaluate(at: At, tile: TileIndex, rect: Rect): State {
    const { even, acc } = at.run(this.scope, tile, rect);
    const planes = acc!;
    if (even) return { even: [this.share(even[0], even[1], even[2]), even[3] ?? 1], acc: null };
    const n = rect.width * rect.height;
    const out = kernels().floats(n * 2);
    for (let i = 0; i < n; i++) {
      const same =
        i > 0 &&
        planes[i] === planes[i - 1] &&
        planes[n + i] === planes[n + i - 1] &&
        planes[2 * n + i] === planes[2 * n + i - 1];
      out[i] = same ? out[i - 1] : this.share(planes[i], planes[n + i], planes[2 * n + i]);
    }
    out.set(planes.subarray(3 * n, 4 * n), n);
    return { even: null, acc: out };
  }

  private share(r: number, g: number, b: number): number {
    linearToOklab(fastLinear(r), fastLinear(g), fastLinear(b), lab);
    const { l, a, b: c } = this.wanted;
    const d = Math.hypot(lab.l - l, lab.a - a, lab.b - c);
    if (d <= this.tolerance) return 1;
    return this.soft > 0 ? step(this.tolerance + this.soft, this.tolerance, d) : 0;
  }
}
